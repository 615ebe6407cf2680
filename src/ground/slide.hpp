#pragma once

#include <algorithm>

#include "ambulon/ground/ground.hpp"

#include "base/geometry.hpp"

namespace ambulon {

/// Walks straight from a spot along `way` (metres), and slides along at most four edges that it meets. `free`
/// and `inward` of the result describe the first edge.
inline Stretch slide(const Ground& ground, const Spot& from, vec2 way) {
  constexpr int max_edges = 4;
  Stretch stretch = ground.straight(from, way);
  if (stretch.free) return stretch;
  vec2 left = way - flat(stretch.end.position - from.position), inward = stretch.inward;
  for (int edge = 0; edge < max_edges; ++edge) {
    left -= std::min(0.f, glm::dot(left, inward)) * inward;
    const Stretch along = ground.straight(stretch.end, left);
    left -= flat(along.end.position - stretch.end.position);
    stretch.end = along.end;
    stretch.metres += along.metres;
    if (along.free) break;
    inward = along.inward;
  }
  return stretch;
}

}  // namespace ambulon
