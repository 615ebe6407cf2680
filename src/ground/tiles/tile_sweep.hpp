#pragma once
// Discs on a tile map: clearance, and moves until contact.

#include "ambulon/base/public.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Returns the distance from `at` (metres) to the nearest blocked cell or to the edge of the map, at most
/// `limit` (metres, >= 0); 0 inside a blocked cell.
float clearance(const TileMap& map, vec2 at, float limit);

/// The result of moving a disc.
struct Sweep {
  float part = 1.f;  ///< fraction of the move, 0 to 1, until contact
  vec2 inward{0.f};  ///< unit normal at the contact, away from the obstacle; zero without contact

  bool free() const { return part >= 1.f; }
};

/// Moves a disc of `radius` metres (> 0) from `from` along `way` (metres) until it touches a blocked cell. A
/// disc that overlaps one already may only move away from it.
Sweep sweep(const TileMap& map, vec2 from, vec2 way, float radius);

/// Returns a nearby point where a disc of `radius` metres overlaps no blocked cell; if none is found, the
/// point with the least overlap.
vec2 pushed_clear(const TileMap& map, vec2 at, float radius);

}  // namespace ambulon
