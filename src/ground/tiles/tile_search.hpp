#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

#include "base/platform.hpp"
#include "ground/tiles/bucket_queue.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The algorithm of a tile search. All find the same length.
enum class TileMethod : std::uint8_t {
  automatic,    ///< jump points if the map allows them, otherwise A*
  a_star,       ///< expands single cells
  jump_points,  ///< expands straight lines; for uniform cost, eight neighbours and corners of `both_free`
};

/// Finds shortest paths on tile maps. Memory is reused, so it allocates nothing on maps no larger than
/// before. Use one object per thread; several may search one map.
///
/// A*: P. Hart, N. Nilsson, B. Raphael, "A Formal Basis for the Heuristic Determination of Minimum Cost
/// Paths" (1968), with the octile distance. Jump points: D. Harabor, A. Grastien, "Online Graph Pruning for
/// Pathfinding on Grid Maps" (2011), without cut corners, and their "Improving Jump Point Search" (2014): 64
/// cells at a time, and pruning of intermediate points.
class TileSearch {
 public:
  explicit TileSearch(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : nodes_(memory), open_(memory), path_(memory) {}

  enum class State : std::uint8_t { searching, found, no_route };

  /// Searches to the end. Returns true if there is a path shorter than `max` cells. Blocked cells and cells
  /// outside have none.
  bool find(const TileMap& map, Cell from, Cell to, TileMethod method = TileMethod::automatic,
            double max = std::numeric_limits<double>::infinity()) {
    begin(map, from, to, method, max);
    return go_on(~std::uint64_t{0}) == State::found;
  }

  /// Begins a search in slices. The map must not change until it has ended.
  void begin(const TileMap& map, Cell from, Cell to, TileMethod method = TileMethod::automatic,
             double max = std::numeric_limits<double>::infinity());
  /// Continues for at most `expansions`. The result does not depend on the slices.
  State go_on(std::uint64_t expansions);

  /// Returns the length of the path in cells: 1 per straight step and sqrt(2) per diagonal step, times the
  /// mean cost of both cells. Exact up to rounding of doubles.
  double length() const { return length_; }
  /// Returns the cells where the path turns, with both ends and possibly cells between; with A* all cells.
  std::span<const Cell> path() const { return path_; }
  /// Returns true if the search reached the cell, which must lie inside; for overlays.
  bool noted(Cell cell) const {
    const std::uint32_t index = map_ != nullptr ? map_->index(cell) : 0;
    return index < nodes_.size() && nodes_[index].search == search_;
  }
  /// Returns the nodes expanded since the search began.
  std::uint64_t expanded() const { return expanded_; }

 private:
  double estimate_from(Cell cell) const;
  /// A new path to a cell.
  struct Reached {
    std::uint32_t index, link;  // of the cell; of its parent, with the direction
    Cell cell;
    double length;
  };
  void reach(std::uint32_t parent, Cell cell, int direction, double length);
  void relax_reached();
  void relax(const Reached& to);
  void expand_neighbours(std::uint32_t index, Cell cell);
  void expand_jumps(std::uint32_t index, Cell cell);
  /// The node whose jumps are computed.
  struct Start {
    std::uint32_t index;  // the expanded node
    Cell cell;
    double length;  // of the path to the cell
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
  double max_ = 0;   // upper bound of the length
  double best_ = 0;  // length of the best path to the goal so far; initially `max_`
  double length_ = 0;
  std::uint64_t expanded_ = 0;
  std::uint8_t search_ = 0;  // its number: nodes of earlier searches count as unvisited

  /// A search node. Packed, since large maps have many cells.
  struct AMBULON_PACKED Node {
    double length = 0;        // of the path to it
    std::uint32_t link = 0;   // parent (28 bits) and direction from it (4 bits)
    std::uint8_t search = 0;  // number of the search that wrote it
  };
  std::pmr::vector<Node> nodes_;
  BucketQueue open_;
  std::array<Reached, 32> reached_{};  // successors of the expanded node, not relaxed yet
  std::size_t reached_count_ = 0;
  std::pmr::vector<Cell> path_;
};

}  // namespace ambulon
