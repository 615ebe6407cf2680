#pragma once

#include <array>
#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// Connected components of a tile map, updated incrementally when cells change. They answer reachability
/// without a search.
class TileComponents {
 public:
  explicit TileComponents(std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Labels all cells of `map`.
  void label(const TileMap& map);

  /// Call it after `cell` has become free or blocked. Changes of cost do not matter. Joining components takes
  /// amortised constant time. If components may have split, all sides are flooded in parallel, until all but
  /// one are complete: the time is that of the smaller parts.
  void changed(const TileMap& map, Cell cell);

  /// Returns true if there is a route between two cells, which must lie inside the map.
  bool joined(const TileMap& map, Cell a, Cell b) const {
    const std::uint32_t one = component(map, a);
    return one != 0 && one == component(map, b);
  }
  /// Returns the component of a cell, valid until the next change; 0 for a blocked cell.
  std::uint32_t component(const TileMap& map, Cell cell) const { return root(labels_[map.index(cell)]); }
  /// Returns the number of cells of a component.
  std::uint32_t size(std::uint32_t component) const { return sizes_[component]; }

 private:
  /// One of the parts that a blocked cell may have separated.
  struct Part {
    std::uint32_t label = 0;
    std::uint32_t merged_with = 0;  // index of a part
    std::size_t next = 0;           // of `cells`, to be expanded
    std::vector<std::uint32_t> cells;
  };

  std::uint32_t root(std::uint32_t label) const {
    while (parents_[label] != label) label = parents_[label];
    return label;
  }
  std::uint32_t new_label();
  std::uint32_t join(std::uint32_t a, std::uint32_t b);
  void opened(const TileMap& map, Cell cell);
  void closed(const TileMap& map, Cell cell);
  std::size_t gather_parts(const TileMap& map, Cell cell);
  void grow_parts(const TileMap& map, std::size_t count);
  std::uint32_t part_of(std::uint32_t part) const;

  std::pmr::vector<std::uint32_t> labels_;           // by cell; 0: blocked
  std::pmr::vector<std::uint32_t> parents_, sizes_;  // by label
  std::array<Part, 4> parts_;
};

}  // namespace ambulon
