#pragma once

#include <cstdint>

#include "ambulon/base/vec.hpp"
#include "ambulon/ground/route.hpp"

namespace ambulon {

/// How far an NPC has come along a route.
struct Walk {
  std::uint32_t next = 1;  ///< index of the bend it now heads for
};

/// Goes on to the next bend when the NPC has come by the one it heads for, within `radius` metres
/// of it, on the way from `was` to `now`. The last bend, the goal, is never come by.
void pass_bends(const Route& route, Walk& walk, vec2 was, vec2 now, float radius);

/// Metres left to the goal from `position`, along the bends.
float metres_left(const Route& route, const Walk& walk, vec3 position);

/// True when the way from `was` to `now` touches the circle of `radius` metres around `centre`.
bool came_by(vec2 was, vec2 now, vec2 centre, float radius);

}  // namespace ambulon
