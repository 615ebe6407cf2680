#pragma once

#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/barrier.hpp"
#include "ambulon/ground/mesh/plan.hpp"

#include "ground/mesh/patch.hpp"

namespace AMBULON_PUBLIC ambulon {

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
/// Grown by `millimetres` on all sides, with pointed corners; or shrunk, when they are negative.
Outlines offset(const Outlines& outlines, double millimetres);
/// The same ground without cracks and holes that are up to `gap` millimetres wide.
Outlines closed(const Outlines& outlines, double gap);
/// What lies inside of an odd number of `outlines` and of none of `taken`, in rings that do not cross.
Outlines without(const Outlines& outlines, const Outlines& taken);

}  // namespace ambulon
