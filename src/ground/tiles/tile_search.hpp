#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

#include "ground/tiles/bucket_queue.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How a tile search goes about it. The length of the way is the same by each.
enum class TileMethod : std::uint8_t {
  automatic,    ///< jump points where they are possible, otherwise A*
  a_star,       ///< cell by cell
  jump_points,  ///< along straight lines; for uniform maps with eight neighbours and corners of `both_free`
};

/// Finds shortest ways through tile maps. Its memory is reused from one search to the next, so that
/// none is taken once it has seen a map as large; one searcher serves one thread, and any number of
/// them one map.
///
/// A*: P. Hart, N. Nilsson and B. Raphael, "A Formal Basis for the Heuristic Determination of Minimum
/// Cost Paths" (1968), with the octile distance. Jump points: D. Harabor and A. Grastien, "Online Graph
/// Pruning for Pathfinding on Grid Maps" (2011), in the variant without cut corners, 64 cells at a time:
/// the same, "Improving Jump Point Search" (2014), from where the pruning of points between a line aslant and
/// a straight one is, too.
class TileSearch {
 public:
  explicit TileSearch(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : nodes_(memory), open_(memory), path_(memory) {}

  enum class State : std::uint8_t { searching, found, no_route };

  /// The whole search at once: true when there is a way. A cell that is outside or blocked has none.
  /// Only of ways that are shorter than `max` cells.
  bool find(const TileMap& map, Cell from, Cell to, TileMethod method = TileMethod::automatic,
            double max = std::numeric_limits<double>::infinity()) {
    begin(map, from, to, method, max);
    return go_on(~std::uint64_t{0}) == State::found;
  }

  /// Begins a search that is done in slices; the map must not change until it has ended.
  void begin(const TileMap& map, Cell from, Cell to, TileMethod method = TileMethod::automatic,
             double max = std::numeric_limits<double>::infinity());
  /// Continues for at most that many expansions. The result does not depend on how it is sliced.
  State go_on(std::uint64_t expansions);

  /// Of the way found, in cells: 1 to a side and the root of 2 to a corner, each times the mean of the
  /// costs of both cells. Exact to the rounding of a double.
  double length() const { return length_; }
  /// The cells where the way found turns, the first and the last included, and some between; with A* all its
  /// cells.
  std::span<const Cell> path() const { return path_; }
  /// True when the search has noted a way to the cell, which must lie inside; for overlays.
  bool noted(Cell cell) const {
    const std::uint32_t index = map_ != nullptr ? map_->index(cell) : 0;
    return index < nodes_.size() && nodes_[index].search == search_;
  }
  /// Cells taken from the open list since the search began.
  std::uint64_t expanded() const { return expanded_; }

 private:
  double estimate_from(Cell cell) const;
  /// The end of a way that was just found.
  struct Reached {
    std::uint32_t index, link;  // of the cell; of the node that it was reached from, with the direction
    Cell cell;
    double length;
  };
  void reach(std::uint32_t parent, Cell cell, int direction, double length);
  void relax_reached();
  void relax(const Reached& to);
  void expand_neighbours(std::uint32_t index, Cell cell);
  void expand_jumps(std::uint32_t index, Cell cell);
  /// Where jumps begin.
  struct Start {
    std::uint32_t index;  // the node that is expanded
    Cell cell;
    double length;  // of the way to the cell
  };
  template <int direction>
  void go_on_straight(const Start& start);
  template <int direction>
  void go_on_aslant(const Start& start);
  template <int direction>
  void jump_straight(const Start& start, int turns = 0);
  template <int direction>
  void jump_aslant(const Start& start);
  int goal_in_row(Cell cell) const { return cell.y == to_.y ? to_.x : -1; }
  int goal_in_column(Cell cell) const { return cell.x == to_.x ? to_.y : -1; }
  Cell back_through_passage(Cell cell, Cell before, int back);
  void trace_back();

  const TileMap* map_ = nullptr;
  Cell from_, to_;
  bool jumps_ = false;
  State state_ = State::no_route;
  double max_ = 0;   // ways are shorter than that
  double best_ = 0;  // the length of the best way to the goal so far; at first, that
  double length_ = 0;
  std::uint64_t expanded_ = 0;
  std::uint8_t search_ = 0;  // its number, so that nothing needs wiping between searches

  /// What is known of a cell, together in memory and without gaps: large maps have many cells.
  struct [[gnu::packed]] Node {
    double length = 0;        // of the way to it
    std::uint32_t link = 0;   // where that comes from (28 bits), and in which direction (4 bits)
    std::uint8_t search = 0;  // in which search that was found out
  };
  std::pmr::vector<Node> nodes_;
  BucketQueue open_;
  std::array<Reached, 32> reached_{};  // by the expansion in hand, not yet taken note of
  std::size_t reached_count_ = 0;
  std::pmr::vector<Cell> path_;
};

}  // namespace ambulon
