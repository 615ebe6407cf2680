#pragma once

#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/ground/spot.hpp"

namespace ambulon {

/// The way from spot to spot: its bends, the first being the start and the last the goal.
/// Plain data that a ground fills in; the room `route` walks along it.
struct Route {
  explicit Route(std::pmr::memory_resource* memory = std::pmr::get_default_resource()) : bends(memory) {}

  std::pmr::vector<vec3> bends;  ///< metres; empty when there is no way
  float length = 0.f;            ///< metres along the bends
  bool complete = false;         ///< ends at the goal asked for, not at the nearest reachable spot
  std::uint64_t expanded = 0;  ///< pieces of the ground that the search looked on from; 0 when it needed none
};

}  // namespace ambulon
