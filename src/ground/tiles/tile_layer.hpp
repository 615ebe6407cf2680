#pragma once

#include <memory>
#include <memory_resource>
#include <mutex>
#include <vector>

#include "ambulon/ground/tiles/tile_map.hpp"

#include "ground/tiles/tile_clearance.hpp"
#include "ground/tiles/tile_components.hpp"
#include "ground/tiles/tile_gates.hpp"

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

  /// The way between two joined cells, as of `TileFarSearch`, by its turns: planned over gates where an exact
  /// search would be long. One thread at a time; others wait. Adds the expansions. False: the gates led to no
  /// complete way.
  bool find_far(Cell from, Cell to, std::pmr::vector<Cell>& turns, std::uint64_t& expanded) const;

  /// True when bodies of that radius see the map in the same way.
  bool serves(float radius) const;

  /// Calls `change(map, cell)` for each cell of `box`, which may set and cover that cell, and keeps the
  /// components right.
  template <class Change>
  void edit(CellBox box, Change&& change) {
    // Single cells are labelled for little; when it is a good part of the map, all are labelled again.
    const auto cells = static_cast<std::int64_t>(box.high.x - box.low.x + 1) * (box.high.y - box.low.y + 1);
    const bool few = cells * 16 < static_cast<std::int64_t>(map_.width()) * map_.height();
    for (int y = box.low.y; y <= box.high.y; ++y)
      for (int x = box.low.x; x <= box.high.x; ++x) {
        change(map_, Cell{x, y});
        if (few) components_.changed(map_, {x, y});
      }
    if (!few) components_.label(map_);
    if (far_) far_->gates.changed(box);
  }
  /// Takes in that cells in `box` of `base` have changed.
  void take_in(const TileMap& base, CellBox box);

 private:
  /// What far ways are found with; made when the first one is asked for.
  struct Far {
    Far(const TileMap& map, std::pmr::memory_resource* memory) : gates(map, memory), search(memory) {}
    TileGates gates;
    TileFarSearch search;
  };

  TileMap map_;
  TileComponents components_;
  TileClearance clearance_;  // that the middle of a cell needs for a body to stand there
  std::pmr::memory_resource* memory_;
  mutable std::mutex far_mutex_;
  mutable std::unique_ptr<Far> far_;
};

}  // namespace ambulon
