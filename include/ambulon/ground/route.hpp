#pragma once

#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/crossing.hpp"
#include "ambulon/ground/spot.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A leg of a route, from one bend to the next, that is a crossing.
struct CrossingLeg {
  std::uint32_t bend = 0;  ///< index of the bend at which it begins
  Passage kind = Passage::leap;
  float over = 0.f;  ///< metres: the greatest height of the feet on the way
};

/// A route between two spots as a polyline. The first bend is the start, the last is the end.
struct Route {
  explicit Route(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : bends(memory), crossings(memory) {}

  std::pmr::vector<vec3> bends;             ///< metres; empty if there is no route
  std::pmr::vector<CrossingLeg> crossings;  ///< in order; all other legs are walked
  float length_xy = 0.f;                    ///< metres on the plan; searches minimise it
  bool complete = false;                    ///< ends at the goal, not at the nearest reachable spot
  std::uint64_t expanded = 0;               ///< search nodes expanded; 0 if no search was needed

  /// Empties the route; keeps its memory.
  void clear();

  /// Returns the crossing that begins at bend `i`; null if that leg is walked.
  const CrossingLeg* crossing_at(std::size_t i) const;
};

}  // namespace ambulon
