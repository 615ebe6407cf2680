#pragma once

#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/ground/crossing.hpp"
#include "ambulon/ground/spot.hpp"

namespace ambulon {

/// A leg of a route that is not walked: from a bend to the next.
struct CrossingLeg {
  std::uint32_t bend = 0;  ///< number of the bend at which it begins
  Passage kind = Passage::leap;
  float over = 0.f;  ///< metres: the height that feet must rise to on the way
};

/// The way from spot to spot: its bends, the first being the start and the last the goal.
/// Plain data that a ground fills in; the room `route` walks along it.
struct Route {
  explicit Route(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : bends(memory), crossings(memory) {}

  std::pmr::vector<vec3> bends;             ///< metres; empty when there is no way
  std::pmr::vector<CrossingLeg> crossings;  ///< in turn; all other legs are walked
  float length_xy = 0.f;  ///< metres from bend to bend, seen from above: what searches minimise; see also
                          ///< `length_along_ground`
  bool complete = false;  ///< ends at the goal asked for, not at the nearest reachable spot
  std::uint64_t expanded = 0;  ///< pieces of the ground that the search looked on from; 0 when it needed none

  /// No way; keeps its memory.
  void clear() {
    bends.clear();
    crossings.clear();
    length_xy = 0.f;
    complete = false;
    expanded = 0;
  }

  /// The crossing that begins at bend `i`; null when it is walked on from there.
  const CrossingLeg* crossing_at(std::size_t i) const {
    for (const CrossingLeg& crossing : crossings)
      if (crossing.bend == i) return &crossing;
    return nullptr;
  }
};

}  // namespace ambulon
