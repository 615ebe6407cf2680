#pragma once

#include <memory_resource>
#include <vector>

#include "ambulon/ground/tiles/tile_components.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// A tile map as bodies of some width see it: of its cells, those on whose middle they can stand.
class TileLayer {
 public:
  /// As bodies see it that are no wider than a cell.
  explicit TileLayer(TileMap map, std::pmr::memory_resource* memory = std::pmr::get_default_resource());
  /// As bodies of `radius` metres see it.
  TileLayer(const TileMap& base, float radius, std::pmr::memory_resource* memory);

  const TileMap& map() const { return map_; }
  const TileComponents& components() const { return components_; }

  /// True when bodies of that radius see the map in the same way.
  bool serves(float radius) const;

  /// Calls `change(map, cell)` for each cell of `box`, which may set and cover that cell, and keeps the
  /// components right.
  template <class Change>
  void edit(CellBox box, Change&& change) {
    // Single cells are labelled for little; when it is a good part of the map, all are labelled anew.
    const auto cells = static_cast<std::int64_t>(box.high.x - box.low.x + 1) * (box.high.y - box.low.y + 1);
    const bool few = cells * 16 < static_cast<std::int64_t>(map_.width()) * map_.height();
    for (int y = box.low.y; y <= box.high.y; ++y)
      for (int x = box.low.x; x <= box.high.x; ++x) {
        change(map_, Cell{x, y});
        if (few) components_.changed(map_, {x, y});
      }
    if (!few) components_.label(map_);
  }
  /// Takes in that cells in `box` of `base` have changed.
  void take_in(const TileMap& base, CellBox box);

 private:
  bool clear(const TileMap& base, Cell cell) const;

  TileMap map_;
  TileComponents components_;
  std::vector<Cell> kernel_;  // the cells, around one, that must be free for a body to stand on its middle
  int reach_ = 0;             // of the kernel, cells to each side
};

}  // namespace ambulon
