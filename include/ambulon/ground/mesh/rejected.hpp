#pragma once

#include <cstdint>
#include <string_view>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/ground/mesh/level.hpp"
#include "ambulon/ground/mesh/plan.hpp"

namespace ambulon {

/// Why a body cannot be somewhere, though there is something to stand on.
enum class Rejection : std::uint8_t {
  too_steep,     ///< steeper than the level's `max_slope`
  too_low,       ///< something lies above it that is lower than the body is high, or stands there
  too_narrow,    ///< edges or things are too close together for the body's radius
  out_of_reach,  ///< the level's `reach_from` leads nowhere near it
};

/// In words, as in "too steep".
std::string_view name(Rejection why);

/// A convex piece of a surface on which a body cannot be.
struct RejectedPart {
  Rejection why;
  std::vector<vec3> corners;  ///< metres, counter-clockwise as seen from above
};

/// What of a level faces up and is rejected for a body, as long as there are no barriers. Too narrow is what
/// no body covers whose middle is where it can be. Anything less than 4 cm wide does not count, nor what is
/// left over in the corners of rooms.
std::vector<RejectedPart> rejected(const LevelIndex& level, const Body& body);
/// What of a plan is too narrow for a body of `radius` metres (0 to 50).
std::vector<RejectedPart> rejected(const Plan& plan, float radius);

}  // namespace ambulon
