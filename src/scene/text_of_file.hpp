#pragma once

#include <fstream>
#include <sstream>
#include <string>

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"

namespace ambulon {

/// Returns the content of a file, or a problem.
inline Expected<std::string> text_of_file(const std::string& file) {
  std::ifstream stream(file, std::ios::binary);
  std::stringstream text;
  if (!stream || !(text << stream.rdbuf()))
    return problem(fmt::format("{}: cannot be read; is it there, is it a file, and not empty?", file));
  return text.str();
}

}  // namespace ambulon
