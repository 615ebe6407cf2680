#pragma once

#include <cstdint>
#include <string_view>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Why a body cannot stand in a place that has a floor.
enum class Rejection : std::uint8_t {
  too_steep,     ///< steeper than `LevelRules::max_slope`
  too_low,       ///< the headroom is less than the body's height, or the place is inside an obstacle
  too_narrow,    ///< edges or obstacles are too close together for the body's radius
  out_of_reach,  ///< `LevelRules::reach_from` does not lead there
};

/// Returns the reason in words, such as "too steep".
std::string_view name(Rejection why);

/// A convex part of a floor on which a body cannot stand.
struct RejectedPart {
  Rejection why;
  std::vector<vec3> corners;  ///< metres, counter-clockwise seen from above
};

}  // namespace ambulon
