#pragma once

#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/barrier.hpp"
#include "ambulon/ground/mesh/plan.hpp"

#include "ground/mesh/patch.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Adds ground of that cost; it replaces the ground below, so that the result does not overlap.
void lay_over(std::vector<CostlyOutlines>& all, float cost, const Outlines& outlines);
/// Returns the regions of a plan. Returns a problem, with its place, if one is invalid.
Expected<std::vector<CostlyOutlines>> regions_of(const Plan& plan);

/// Returns the configuration space of a plan: where the centre of a body of `radius` metres (0 to 50) can be.
/// The distance to obstacles is exact to 1 mm; at corners, where circles are polygons, it may be less by 1/40
/// of the radius. Returns a problem, with its place, if there is no outline or a number is out of range.
Expected<Outlines> outlines_for(const Plan& plan, float radius);

/// Returns where the centre of a body of `radius` metres (0 to 50) cannot be because of a barrier; empty if
/// that is too far from the origin.
Outlines outlines_of(const Barrier& barrier, float radius);

/// Returns the union of `rings` as rings that do not cross.
Outlines united(const Outlines& rings);
/// Offsets outlines by `millimetres` with mitred corners; negative: inwards.
Outlines offset(const Outlines& outlines, double millimetres);
/// Closes cracks and holes up to `gap` millimetres wide.
Outlines closed(const Outlines& outlines, double gap);
/// Returns the interior of `outlines` (even-odd) without that of `taken`, as rings that do not cross.
Outlines without(const Outlines& outlines, const Outlines& taken);

}  // namespace ambulon
