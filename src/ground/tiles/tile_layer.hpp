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

/// A tile map as bodies of one width see it: the cells on whose centre they can stand.
class TileLayer {
 public:
  /// For bodies that are no wider than a cell.
  explicit TileLayer(TileMap map, std::pmr::memory_resource* memory = std::pmr::get_default_resource());
  /// For bodies of `radius` metres.
  TileLayer(const TileMap& base, float radius, std::pmr::memory_resource* memory);

  const TileMap& map() const { return map_; }
  const TileComponents& components() const { return components_; }

  /// Finds the turns of the route between two joined cells, as `TileFarSearch`. Calls are serialised by a
  /// lock. Adds the expansions. Returns false if the gates led to no complete route.
  bool find_far(Cell from, Cell to, std::pmr::vector<Cell>& turns, std::uint64_t& expanded) const;

  /// Returns true if bodies of `radius` see the same map.
  bool serves(float radius) const;

  /// Calls `change(map, cell)` for each cell of `box`, which may set and cover that cell, and updates the
  /// components.
  template <class Change>
  void edit(CellBox box, Change&& change) {
    // Incremental labelling for small boxes; for more than 1/16 of the map all cells are labelled again.
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
  /// Applies changes of `base` in `box`.
  void take_in(const TileMap& base, CellBox box);

 private:
  /// Hierarchical search, created at the first long route.
  struct Far {
    Far(const TileMap& map, std::pmr::memory_resource* memory) : gates(map, memory), search(memory) {}
    TileGates gates;
    TileFarSearch search;
  };

  TileMap map_;
  TileComponents components_;
  TileClearance clearance_;  // the distance a cell's centre needs
  std::pmr::memory_resource* memory_;
  mutable std::mutex far_mutex_;
  mutable std::unique_ptr<Far> far_;
};

}  // namespace ambulon
