#pragma once

#include <span>
#include <vector>

#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/mesh/level.hpp"

#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/widths.hpp"

namespace ambulon {

/// Finds the crossings that a body can take on its own on a mesh of a level (jumps, drops and leaps) from or
/// to the edge of the ground in one patch.
///
/// At each metre of the edge it looks straight outwards. A crossing leads to the ground met there. Its ends
/// are at most the body's width and its leap apart (half its width for jumps and drops). The body crosses
/// upright at one height. That height must be reachable by its jump and its drop, and free of obstacles that
/// it cannot step over.
std::vector<MeshCrossing> find_crossings(const ConvexMesh& mesh, std::uint32_t patch, const LevelIndex& level,
                                         std::span<const PlacedBarrier* const> barriers,
                                         const BodySize& body);

/// Returns true if such a body can take any.
bool hops(const BodySize& body);

/// Returns the maximum distance from the edge of the ground in millimetres on the plan.
double crossing_reach(const BodySize& body);

}  // namespace ambulon
