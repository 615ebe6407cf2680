#pragma once

#include <utility>
#include <vector>

#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

/// Joins directed edges into rings. Each point must have as many incoming as outgoing edges. A ring ends at
/// the first return to its start. O(n log n), also if many edges meet at a point.
Outlines rings_of(std::vector<std::pair<PlanPoint, PlanPoint>> edges);

}  // namespace ambulon
