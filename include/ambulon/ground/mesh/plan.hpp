#pragma once

#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A walkable area drawn from above, in metres, up to 400 km from the origin.
///
/// 1. Rings are closed; the last point connects to the first. Their direction does not matter.
/// 2. Rings may touch, cross, overlap and contain each other.
/// 3. A point is walkable if it lies in any outline, in no hole and no solid, and on no wall.
struct Plan {
  using Ring = std::vector<vec2>;  ///< 3 points or more

  /// A polyline with a thickness and flat ends.
  struct Wall {
    std::vector<vec2> line{};  ///< 2 points or more
    float thickness = 0.2f;    ///< metres, 0.001 to 1000; half of it on each side
  };

  /// Ground on which routes cost more than their length. The cost at the centre of a body applies.
  struct Region {
    Ring ring{};
    float cost = 1.f;  ///< cost per metre, 1 to 255
  };

  std::vector<Ring> outlines{};
  std::vector<Ring> holes{};
  std::vector<Ring> solids{};
  std::vector<Wall> walls{};
  std::vector<Region> regions{};  ///< where they overlap, the last one applies
};

}  // namespace ambulon
