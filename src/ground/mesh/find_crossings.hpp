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

/// The crossings of a mesh of a level that bodies of a size can take by themselves (what they jump up, drop
/// down and leap), which begin at or lead to the edge of the ground in one of its patches.
///
/// From the edge it looks straight outwards, every metre of it. A crossing leads to what is met there: its
/// ends are a body's width apart and what the body leaps (half its width, when it only jumps or drops) at
/// the most. The body crosses lifted, upright: there is a height, to which it can jump up and from which it
/// can come down, at which nothing is in its way between the ends that it cannot step over.
std::vector<MeshCrossing> find_crossings(const ConvexMesh& mesh, std::uint32_t patch, const LevelIndex& level,
                                         std::span<const PlacedBarrier* const> barriers,
                                         const BodySize& body);

/// True when such bodies take any.
bool hops(const BodySize& body);

/// Millimetres, seen from above, from the edge of the ground that the crossings of such bodies reach.
double crossing_reach(const BodySize& body);

}  // namespace ambulon
