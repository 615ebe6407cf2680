#pragma once

#include <utility>
#include <vector>

#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

/// Joins directed edges, of which as many end at each point as begin there, to rings. Each ring ends where it
/// first comes back to its first point. Takes n log n steps, however many edges meet at a point.
Outlines rings_of(std::vector<std::pair<PlanPoint, PlanPoint>> edges);

}  // namespace ambulon
