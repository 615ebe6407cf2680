#pragma once
// The arguments of ground queries, as they are used. A game may pass the result of a division by zero.

#include <cmath>

#include <glm/common.hpp>

#include "ambulon/base/vec.hpp"

#include "base/geometry.hpp"

namespace ambulon {

constexpr float furthest_query = 1e7f;  // metres

/// Returns a displacement that can be walked: none if it is not finite, and none that is longer than needed.
inline vec2 usable_way(vec2 way) {
  return finite(lift(way)) ? glm::clamp(way, -furthest_query, furthest_query) : vec2(0.f);
}

/// Returns a distance from 0 to `furthest_query`; NaN counts as 0.
inline float usable_metres(float metres) { return std::fmin(std::fmax(metres, 0.f), furthest_query); }

}  // namespace ambulon
