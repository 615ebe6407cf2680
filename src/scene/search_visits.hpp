#pragma once
// What a search looked at, for overlays.

#include <cstdint>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The cells that a search visited.
struct TileVisits {
  std::vector<Cell> cells;
  std::uint64_t expanded = 0;  ///< nodes
};

/// The polygons that a search visited.
struct MeshVisits {
  std::vector<int> times;  ///< by polygon
  int max = 0;             ///< of `times`
  std::uint64_t expanded = 0;
};

/// Searches a route between two spots of that body size.
TileVisits search_visits(const TileGround& ground, const Spot& from, const Spot& to, const Body& body);
MeshVisits search_visits(const MeshGround& ground, const Spot& from, const Spot& to, const Body& body);

}  // namespace ambulon
