#pragma once
// Discs among blocked cells: how near they are, and how far a disc can be moved.

#include "ambulon/base/public.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Metres from `at` (metres) to the nearest cell that cannot be walked on, the edge of the map included; at
/// most `limit` (metres, >= 0). 0 inside of such a cell.
float clearance(const TileMap& map, vec2 at, float limit);

/// A straight way of a disc.
struct Sweep {
  float part = 1.f;  ///< of the way, 0 to 1, that can be gone
  vec2 inward{0.f};  ///< unit vector away from what is in the way; zero when nothing is

  bool free() const { return part >= 1.f; }
};

/// How far a disc of `radius` metres (> 0) can go from `from` along `way` (metres, both) before it comes
/// nearer than its radius to a blocked cell. A disc that is too near already may go away, but not nearer.
Sweep sweep(const TileMap& map, vec2 from, vec2 way, float radius);

/// Moves a point out of reach of the blocked cells around it, so that a disc of `radius` metres fits there,
/// by as little as it finds; as near as it gets where it finds nothing.
vec2 pushed_clear(const TileMap& map, vec2 at, float radius);

}  // namespace ambulon
