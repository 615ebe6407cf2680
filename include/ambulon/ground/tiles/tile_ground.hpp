#pragma once

#include "ambulon/ground/ground.hpp"
#include "ambulon/ground/tiles/tile_components.hpp"
#include "ambulon/ground/tiles/tile_search.hpp"

namespace ambulon {

/// A tile map to walk on. Spots lie anywhere in the cells that are free, at z = 0; a spot's piece is the
/// index of its cell. Bodies count as points. To be asked by one thread at a time, since its searcher is
/// reused; a thread of its own takes a `TileSearch` of its own.
class TileGround final : public Ground {
 public:
  explicit TileGround(TileMap map, std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  const TileMap& map() const { return map_; }
  const TileComponents& components() const { return components_; }

  /// Changes the cost of one cell, or blocks it with `TileMap::blocked`. The problem when it lies outside.
  Expected<Cell> set(Cell cell, std::uint8_t cost);

  Snap snap(vec3 point, float reach) const override;
  /// The shortest way from cell to cell, straightened: turns are left out where nothing is in between.
  void route(const Spot& from, const Spot& to, Route& route) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  /// The edge of a blocked cell cuts it short. A line may touch the corner of one blocked cell, and pass
  /// between two that touch corner to corner only where corners may be cut.
  Stretch straight(const Spot& from, vec2 way) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  float distance(const Spot& from, const Spot& to) const override;
  std::uint64_t revision() const override { return map_.revision(); }

 private:
  Spot spot_in(Cell cell, vec2 near) const;
  void straighten(const Spot& from, const Spot& to, Route& route) const;

  TileMap map_;
  TileComponents components_;
  mutable TileSearch search_;
};

}  // namespace ambulon
