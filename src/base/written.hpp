#pragma once

#include <cmath>
#include <string>

#include <fmt/format.h>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// Formats a point for messages, for example "(2.50, 3.00)", with `digits` decimals. The height is left out
/// if it rounds to 0.
inline std::string written(vec3 at, int digits = 2) {
  const std::string height = std::abs(at.z) < 0.005f ? std::string() : fmt::format(", {:.{}f}", at.z, digits);
  return fmt::format("({:.{}f}, {:.{}f}{})", at.x, digits, at.y, digits, height);
}

/// Formats a point with as many digits as its numbers need, for points that a file gives.
inline std::string as_given(vec3 at) {
  return at.z == 0.f ? fmt::format("({:g}, {:g})", at.x, at.y)
                     : fmt::format("({:g}, {:g}, {:g})", at.x, at.y, at.z);
}

}  // namespace ambulon
