#pragma once
// Reads TOML text, with problems that name the place.

#include <string>
#include <string_view>

#include "scene/reader.hpp"
#include "scene/text_of_file.hpp"

namespace ambulon::scene {

/// Returns what `read()` returns, or its mistake as a problem.
template <class Made, class Read>
Expected<Made> or_mistake(Read&& read) {
  try {
    return read();
  } catch (const Mistake& error) {
    return problem(error.what());
  }
}

/// Returns what `read(table)` makes of the text, or its mistake as a problem; `file` is the name for
/// problems.
template <class Made, class Read>
Expected<Made> read_toml(std::string_view text, const std::string& file, Read&& read) {
  try {
    return or_mistake<Made>([&] { return read(toml::parse(text, file)); });
  } catch (const toml::parse_error& error) {
    const auto place = error.source().begin;
    return problem(fmt::format("{}:{}:{}: {}", file, place.line, place.column, error.description()));
  }
}

}  // namespace ambulon::scene
