#pragma once

#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/ground/barrier.hpp"
#include "ambulon/ground/mesh/patch.hpp"

namespace ambulon {

/// What can be walked on, drawn from above. Rings are closed of themselves, may go round either way, and may
/// touch, cross, overlap and lie in each other. Coordinates are metres, up to 400 km from the origin.
struct Plan {
  using Ring = std::vector<vec2>;  ///< 3 points or more
  /// A line with a thickness.
  struct Wall {
    std::vector<vec2> line{};  ///< 2 points or more
    float thickness = 0.2f;    ///< metres, 0.001 to 1000; half of it to each side, with flat ends
  };

  /// Ground on which a way counts for more than it is long. It is as it is where the middle of a body is.
  struct Region {
    Ring ring{};
    float cost = 1.f;  ///< times the length, 1 to 255
  };

  std::vector<Ring> outlines{};   ///< one can walk inside of any of these,
  std::vector<Ring> holes{};      ///< but not inside of these,
  std::vector<Ring> solids{};     ///< nor of these shapes that stand on the ground,
  std::vector<Wall> walls{};      ///< nor on these
  std::vector<Region> regions{};  ///< of these, where they overlap, the last counts
};

/// Puts a piece of ground over others: there it costs that. Keeps them from overlapping.
void lay_over(std::vector<CostlyOutlines>& all, float cost, const Outlines& outlines);
/// Those of a plan. The problem, with its place, when a region makes no sense.
Expected<std::vector<CostlyOutlines>> regions_of(const Plan& plan);

/// Where the middle of a body of `radius` metres (0 to 50) can be: the outlines that a `Triangulation` is
/// made of. The body keeps its radius from whatever is in its way, to the millimetre; around corners, where
/// circles are made of short sides, it may come nearer by a fortieth of its radius. The problem, with its
/// place, when there is no outline, or when a number is out of range.
Expected<Outlines> outlines_for(const Plan& plan, float radius);

/// Where the middle of a body of `radius` metres (0 to 50) cannot be because of a barrier; nothing when it
/// lies too far out.
Outlines outlines_of(const Barrier& barrier, float radius);

/// The same ground in rings that neither cross nor overlap: what lies inside of any of `rings`.
Outlines united(const Outlines& rings);
/// Grown by so many millimetres on all sides, with pointed corners; or shrunk, when they are negative.
Outlines offset(const Outlines& outlines, double millimetres);
/// The same ground without cracks and holes that are up to `gap` millimetres wide.
Outlines closed(const Outlines& outlines, double gap);
/// What lies inside of an odd number of `outlines` and of none of `taken`, in rings that do not cross.
Outlines without(const Outlines& outlines, const Outlines& taken);

}  // namespace ambulon
