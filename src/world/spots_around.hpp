#pragma once

#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/world/npc.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The place of an NPC within a group.
struct PlaceFor {
  Npc npc;
  vec2 offset{0.f};  ///< metres from the goal
};

/// Returns a spot for each NPC, as near to its place around `goal` (metres) as possible: on a straight line
/// from the goal, so that there is no wall between them. No two overlap while there is room within 8 rings.
std::vector<vec3> spots_around(const Ground& ground, vec3 goal, std::span<const PlaceFor> places);

}  // namespace ambulon
