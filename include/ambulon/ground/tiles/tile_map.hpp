#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/ground/terrain.hpp"
#include "ambulon/ground/tiles/cell.hpp"
#include "ambulon/ground/tiles/tile_lines.hpp"

namespace ambulon {

/// A block of cells, both corners included.
struct CellBox {
  Cell low, high;
  bool empty() const { return low.x > high.x || low.y > high.y; }
};

/// Which cells are next to each other.
enum class Neighbours : std::uint8_t {
  eight,  ///< sides and corners
  four,   ///< sides only
};

/// When one may go from corner to corner of two cells.
enum class Corners : std::uint8_t {
  both_free,  ///< when both cells beside the corner can be walked on
  one_free,   ///< when one of them can
  cut,        ///< always
};

/// How one may step from cell to cell.
struct TileRules {
  Neighbours neighbours = Neighbours::eight;
  Corners corners = Corners::both_free;
  friend constexpr bool operator==(TileRules, TileRules) = default;
};

/// What a tile map is made of; not kept.
struct TileMapOptions {
  int width = 1;     ///< cells, 1 to 16384
  int height = 1;    ///< cells, 1 to 16384
  float cell = 1.f;  ///< metres from side to side of a cell, 0.001 to 1000
  vec2 origin{0.f};  ///< metres: the outer corner of cell (0, 0)
  TileRules rules = {};
  /// What the values of cells stand for: the number of a terrain, of up to 255. Without any, values are costs
  /// themselves.
  std::span<const Terrain> terrains = {};
};

/// Which cells of a grid can be walked on, and at what cost. Kept twice as bits, by rows and by
/// columns, so that searches look at 64 cells at a time, with a border of cells that cannot be walked
/// on, so that they need not look out for the edge.
class TileMap {
 public:
  static constexpr std::uint8_t blocked = 0;  ///< the cost of a cell that cannot be walked on

  /// A map of cells, row by row from the south. Without terrains each is a cost: 1 to 255 times the length
  /// of the way, or `blocked`. The problem when sizes do not fit or a number is out of range.
  static Expected<TileMap> make(std::span<const std::uint8_t> cells, const TileMapOptions& options,
                                std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// A copy takes its memory where the original does, or from `memory`.
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
  /// True when all cells that can be walked on cost 1.
  bool uniform() const { return costly_ == 0; }
  /// The highest cost that a cell has or had.
  std::uint8_t dearest() const { return dearest_; }
  /// The cost that a value stands for, or `blocked`.
  std::uint8_t cost_of(std::uint8_t value) const { return cost_of_[value]; }

  bool inside(Cell cell) const { return cell.x >= 0 && cell.y >= 0 && cell.x < width_ && cell.y < height_; }
  /// False outside, too; `cell` may lie one cell beyond the edge.
  bool free(Cell cell) const { return !rows_.blocked(cell.y, cell.x); }
  /// The cost of the cell's surface, or `blocked`; it must lie inside. What covers it does not count.
  std::uint8_t cost(Cell cell) const { return cost_of_[cells_[index(cell)]]; }
  /// The cell's value as `make` and `set` take it; it must lie inside.
  std::uint8_t value(Cell cell) const { return cells_[index(cell)]; }
  /// Its terrain; null when the map has none. It must lie inside.
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

  /// True when one may step from `from` to `to`, a neighbour by the rules; both are free.
  bool step_allowed(Cell from, Cell to) const;

  /// Gives one cell another value; a covered cell stays covered. The problem when it lies outside, or when
  /// there is no such terrain.
  Expected<Cell> set(Cell cell, std::uint8_t value);
  /// Covers a cell, which must lie inside, so that it cannot be walked on whatever its surface; or uncovers
  /// it.
  void cover(Cell cell, bool covered);
  /// The cell must lie inside.
  bool covered(Cell cell) const {
    return !covered_.empty() && (covered_[index(cell) / 64] >> (index(cell) % 64) & 1U) != 0;
  }
  /// Changes when corners may be cut.
  void set_corners(Corners corners) { rules_.corners = corners; }

  /// The middle of a cell, metres.
  vec2 middle(Cell cell) const {
    return origin_ + cell_ * (vec2(static_cast<float>(cell.x), static_cast<float>(cell.y)) + 0.5f);
  }
  /// The outer corner of a cell towards (0, 0), metres; it may lie one cell beyond the edge.
  vec2 corner(Cell cell) const {
    return origin_ + cell_ * vec2(static_cast<float>(cell.x), static_cast<float>(cell.y));
  }
  /// The cell that `point` (metres, finite) lies in; outside of the map it may be any beyond it.
  Cell cell_at(vec2 point) const;

  /// The cells inside of the map that the upright box from `least` to `most` (metres) touches.
  CellBox cells_in(vec2 least, vec2 most) const;

  /// Line y holds the cells of row y, from the west.
  const TileLines& rows() const { return rows_; }
  /// Line x holds the cells of column x, from the south.
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
