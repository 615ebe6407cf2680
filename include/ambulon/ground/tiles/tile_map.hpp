#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/ground/terrain.hpp"
#include "ambulon/ground/tiles/cell.hpp"
#include "ambulon/ground/tiles/detail/tile_lines.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A rectangle of cells, both corners included.
struct CellBox {
  Cell low, high;
  bool empty() const { return low.x > high.x || low.y > high.y; }
};

/// Which cells are neighbours.
enum class Neighbours : std::uint8_t {
  eight,  ///< sides and corners
  four,   ///< sides only
};

/// When a diagonal step between two cells is allowed.
enum class Corners : std::uint8_t {
  both_free,  ///< if both cells beside the corner are walkable
  one_free,   ///< if one of them is
  cut,        ///< always
};

/// The allowed steps between cells.
struct TileRules {
  Neighbours neighbours = Neighbours::eight;
  Corners corners = Corners::both_free;
  friend constexpr bool operator==(TileRules, TileRules) = default;
};

/// Options of a tile map. They are copied.
struct TileMapOptions {
  int width = 1;     ///< cells, 1 to 16384
  int height = 1;    ///< cells, 1 to 16384
  float cell = 1.f;  ///< metres: side of a cell, 0.001 to 1000
  vec2 origin{0.f};  ///< metres: the outer corner of cell (0, 0)
  TileRules rules = {};
  /// The meaning of cell values: an index into these, at most 255. Empty: values are costs.
  std::span<const Terrain> terrains = {};
};

/// The walkable cells of a grid and their costs. Walkability is kept as bits, by rows and by columns, so that
/// searches test 64 cells at a time. A border of blocked cells around the map saves tests for its edge.
class TileMap {
 public:
  static constexpr std::uint8_t blocked = 0;  ///< the cost of a blocked cell

  /// Makes a map of cell values, row by row from the south. Without terrains each value is a cost per metre,
  /// 1 to 255, or `blocked`. Returns a problem if the sizes do not match or a number is out of range.
  static Expected<TileMap> make(std::span<const std::uint8_t> cells, const TileMapOptions& options,
                                std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Copies the map, in the memory of the original or in `memory`.
  TileMap(const TileMap& other) : TileMap(other, other.memory()) {}
  TileMap(const TileMap& other, std::pmr::memory_resource* memory);
  TileMap(TileMap&&) = default;
  TileMap& operator=(const TileMap&) = default;
  TileMap& operator=(TileMap&&) = default;
  ~TileMap() = default;
  std::pmr::memory_resource* memory() const { return cells_.get_allocator().resource(); }

  int width() const { return width_; }
  int height() const { return height_; }
  float cell_size() const { return cell_; }
  vec2 origin() const { return origin_; }
  TileRules rules() const { return rules_; }
  /// Returns true if all walkable cells cost 1.
  bool uniform() const { return costly_ == 0; }
  /// Returns the highest cost that a cell has or had.
  std::uint8_t dearest() const { return dearest_; }
  /// Returns the cost of a cell value, or `blocked`.
  std::uint8_t cost_of(std::uint8_t value) const { return cost_of_[value]; }

  bool inside(Cell cell) const { return cell.x >= 0 && cell.y >= 0 && cell.x < width_ && cell.y < height_; }
  /// Returns true if the cell is walkable. `cell` may be one cell outside of the map; then the result is
  /// false.
  bool free(Cell cell) const { return !rows_.blocked(cell.y, cell.x); }
  /// Returns the cost of a cell inside of the map, or `blocked`. Covering is ignored.
  std::uint8_t cost(Cell cell) const { return cost_of_[cells_[index(cell)]]; }
  /// Returns the value of a cell inside of the map.
  std::uint8_t value(Cell cell) const { return cells_[index(cell)]; }
  /// Returns the terrain of a cell inside of the map; null without terrains.
  const Terrain* terrain(Cell cell) const {
    return terrains_.empty() ? nullptr : &terrains_[cells_[index(cell)]];
  }
  std::span<const Terrain> terrains() const { return terrains_; }
  std::uint32_t index(Cell cell) const {
    return static_cast<std::uint32_t>(cell.y) * static_cast<std::uint32_t>(width_) +
           static_cast<std::uint32_t>(cell.x);
  }
  Cell cell_of(std::uint32_t index) const {
    const auto width = static_cast<std::uint32_t>(width_);
    return {static_cast<int>(index % width), static_cast<int>(index / width)};
  }

  /// Returns true if the rules allow a step between two neighbours that are free.
  bool step_allowed(Cell from, Cell to) const;

  /// Sets the value of a cell; a covered cell stays covered. Returns a problem if the cell is outside of the
  /// map or if there is no such terrain.
  Expected<Cell> set(Cell cell, std::uint8_t value);
  /// Covers a cell inside of the map, so that it is blocked; or uncovers it.
  void cover(Cell cell, bool covered);
  /// Returns true if a cell inside of the map is covered.
  bool covered(Cell cell) const {
    return !covered_.empty() && (covered_[index(cell) / 64] >> (index(cell) % 64) & 1U) != 0;
  }
  /// Sets when diagonal steps are allowed.
  void set_corners(Corners corners) { rules_.corners = corners; }

  /// Returns the centre of a cell, metres.
  vec2 middle(Cell cell) const;
  /// Returns the south-western corner of a cell, metres; `cell` may be one cell outside of the map.
  vec2 corner(Cell cell) const;
  /// Returns the cell that contains `point` (metres, finite); a point outside of the map gives a cell
  /// outside.
  Cell cell_at(vec2 point) const;

  /// Returns the cells of the map that the box from `min` to `max` (metres) touches.
  CellBox cells_in(vec2 min, vec2 max) const;

  /// Returns the rows as bits: line y is row y, from the west.
  const TileLines& rows() const { return rows_; }
  /// Returns the columns as bits: line x is column x, from the south.
  const TileLines& columns() const { return columns_; }

 private:
  explicit TileMap(const TileMapOptions& options, std::pmr::memory_resource* memory);
  void block(Cell cell, bool blocked);
  tl::unexpected<Problem> no_terrain(std::uint8_t value) const;

  int width_, height_;
  float cell_;
  vec2 origin_;
  TileRules rules_;
  std::pmr::vector<std::uint8_t> cells_;
  std::array<std::uint8_t, 256> cost_of_{};  // values
  std::vector<Terrain> terrains_;
  TileLines rows_, columns_;
  std::pmr::vector<std::uint64_t> covered_;  // a bit for each cell; empty until one is covered
  std::size_t costly_ = 0;                   // cells that cost more than 1
  std::uint8_t dearest_ = 1;                 // cost that a cell has or had
};

}  // namespace ambulon
