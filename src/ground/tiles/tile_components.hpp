#pragma once

#include <array>
#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// Which cells of a tile map can be reached from which: a label on each cell, kept right when single
/// cells change. So whether there is a way at all is known at once.
class TileComponents {
 public:
  explicit TileComponents(std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Labels all cells of `map`.
  void label(const TileMap& map);

  /// To be called after `cell` of `map` has become free or blocked; other changes of cost need not be
  /// told. A cell that joins what was apart costs next to nothing. One that may part what was together
  /// is looked into from all its sides at once, until all but one of the parts are known.
  void changed(const TileMap& map, Cell cell);

  /// True when a way leads from cell to cell; both must lie inside of the map.
  bool joined(const TileMap& map, Cell a, Cell b) const {
    const std::uint32_t one = component(map, a);
    return one != 0 && one == component(map, b);
  }
  /// The component that a cell belongs to, the same for all its cells until the next change; 0 for
  /// cells that are blocked.
  std::uint32_t component(const TileMap& map, Cell cell) const { return root(labels_[map.index(cell)]); }
  /// How many cells a component has.
  std::uint32_t size(std::uint32_t component) const { return sizes_[component]; }

 private:
  /// One of the parts that a blocked cell may have left, as far as it is known.
  struct Part {
    std::uint32_t label = 0;
    std::uint32_t merged_with = 0;  // index of a part
    std::size_t next = 0;           // of `cells` to be looked at
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

  std::pmr::vector<std::uint32_t> labels_;           // of each cell; 0: blocked
  std::pmr::vector<std::uint32_t> parents_, sizes_;  // of each label
  std::array<Part, 4> parts_;
};

}  // namespace ambulon
