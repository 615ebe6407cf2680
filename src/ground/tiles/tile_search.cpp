#include "ground/tiles/tile_search.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <numbers>

#include "base/tolerance.hpp"
#include "ground/tiles/bucket_queue.hpp"

namespace ambulon {
namespace {

// Directions: the sides counter-clockwise from the east, then the corners from the north-east.
enum Direction : int { east, north, west, south, north_east, north_west, south_west, south_east, none = 12 };
// Added to the direction of a straight line at the end of a followed passage.
constexpr int through = 8;
constexpr std::array<int, 8> dx = {1, 0, -1, 0, 1, -1, -1, 1}, dy = {0, 1, 0, -1, 1, 1, -1, -1};

constexpr std::uint32_t index_bits = 28, index_mask = (1U << index_bits) - 1;
/// Packs a parent and a direction.
std::uint32_t link(std::uint32_t parent, int direction) {
  return parent | static_cast<std::uint32_t>(direction) << index_bits;
}

constexpr double aslant = std::numbers::sqrt2;
constexpr int max_turns = 64;  // of a passage that is followed in one expansion

Cell beside(Cell cell, int direction) {
  const auto d = static_cast<std::size_t>(direction);
  return {cell.x + dx[d], cell.y + dy[d]};
}

/// Scans a line of cells from `place` in the direction `step`, up to `goal` (-1: none) or the first forced
/// neighbour. Returns its position; -1 if the line is blocked first.
template <int step>
int scan(const TileLines::Word* line, int place, int goal) {
  const std::size_t start = static_cast<std::size_t>(place + step) + 64;  // the first scanned cell
  const TileLines::Word* word = line + (start >> 6U);
  std::uint64_t stops = step > 0 ? word->stops_up & (~std::uint64_t{0} << (start & 63U))
                                 : word->stops_down & (~std::uint64_t{0} >> (63U - (start & 63U)));
  while (stops == 0) {
    word += step;
    stops = step > 0 ? word->stops_up : word->stops_down;
  }
  const int bit = step > 0 ? std::countr_zero(stops) : 63 - std::countl_zero(stops);
  const int stop = static_cast<int>(word - line) * 64 + bit - 64;
  const bool ends = (word->blocked >> bit & 1U) != 0;
  if (goal >= 0 && (goal - place) * step > 0 && (stop - goal) * step >= (ends ? 1 : 0)) return goal;
  return ends ? -1 : stop;
}

/// The line of cells through a cell in a side direction, and the adjacent lines.
template <int direction>
struct Along {
  static constexpr bool along_x = direction == east || direction == west;
  static constexpr int step = along_x ? dx[direction] : dy[direction];
  static constexpr int left = (direction + 1) % 4, right = (direction + 3) % 4;

  Along(const TileMap& map, Cell cell)
      : line(along_x ? map.rows().line(cell.y) : map.columns().line(cell.x)),
        to_left((along_x ? map.rows().stride() : map.columns().stride()) * (along_x ? dy[left] : dx[left])),
        place(along_x ? cell.x : cell.y) {}

  /// Returns true if the adjacent cell is free and the one before it is blocked (a forced neighbour).
  bool opens_left(int at) const { return opens(line + to_left, at); }
  bool opens_right(int at) const { return opens(line - to_left, at); }
  static bool opens(const TileLines::Word* beside, int at) {
    return !TileLines::blocked(beside, at) && TileLines::blocked(beside, at - step);
  }
  /// Returns the only direction in which a passage one cell wide continues at `at`; `none` elsewhere.
  int passage_turn(int at) const {
    if (!TileLines::blocked(line, at + step)) return none;
    const bool left_free = !TileLines::blocked(line + to_left, at);
    if (left_free == !TileLines::blocked(line - to_left, at)) return none;
    if (!TileLines::blocked(line + (left_free ? to_left : -to_left), at - step)) return none;
    return left_free ? left : right;
  }

  const TileLines::Word* line;
  std::ptrdiff_t to_left;  // words to the line on the left
  int place;               // of the cell in its line
};

/// The same for a direction that is not a compile-time constant.
int passage_turn(const TileMap& map, Cell cell, int direction) {
  const auto turn = [&](auto along) { return along.passage_turn(along.place); };
  switch (direction) {
    case east:
      return turn(Along<east>(map, cell));
    case north:
      return turn(Along<north>(map, cell));
    case west:
      return turn(Along<west>(map, cell));
    default:
      return turn(Along<south>(map, cell));
  }
}

}  // namespace

void TileSearch::begin(const TileMap& map, Cell from, Cell to, TileMethod method, double max) {
  map_ = &map, from_ = from, to_ = to, max_ = max;
  expanded_ = 0;
  length_ = 0;
  path_.clear();
  state_ = State::no_route;
  const bool can_jump = map.uniform() && map.rules() == TileRules{Neighbours::eight, Corners::both_free};
  jumps_ = can_jump && method != TileMethod::a_star;
  if (!map.inside(from) || !map.inside(to) || !map.free(from) || !map.free(to)) return;

  const std::size_t cells = static_cast<std::size_t>(map.width()) * static_cast<std::size_t>(map.height());
  if (nodes_.size() < cells) {
    nodes_.assign(cells, {});
    search_ = 0;
  }
  if (++search_ == 0) {  // the numbers are used up
    std::ranges::fill(nodes_, Node{});
    search_ = 1;
  }
  state_ = State::searching;
  best_ = max;
  // One step or jump raises the estimate by at most twice its length.
  open_.clear(2 * aslant * (jumps_ ? std::max(map.width(), map.height()) + map.width() + map.height() : 256));
  relax({map.index(from), link(map.index(from), none), from, 0});
}

TileSearch::State TileSearch::go_on(std::uint64_t expansions) {
  for (std::uint64_t done = 0; state_ == State::searching && done < expansions;) {
    if (open_.empty() || open_.min() >= best_ - tolerance::path_cells) {
      if (best_ >= max_) return state_ = State::no_route;
      length_ = best_;
      trace_back();
      return state_ = State::found;
    }
    const BucketQueue::Entry next = open_.pop();
    // A stale entry, or one that cannot lead to a better path.
    if (next.length > nodes_[next.item].length || next.estimate >= best_ - tolerance::path_cells) continue;
    ++done, ++expanded_;
    if (jumps_) {
      expand_jumps(next.item, map_->cell_of(next.item));
      relax_reached();
    } else {
      expand_neighbours(next.item, map_->cell_of(next.item));
    }
  }
  return state_;
}

/// Returns the octile distance, a lower bound, since each cell costs at least 1.
double TileSearch::estimate_from(Cell cell) const {
  const double x = std::abs(cell.x - to_.x), y = std::abs(cell.y - to_.y);
  if (map_->rules().neighbours == Neighbours::four) return x + y;
  return std::max(x, y) + (aslant - 1) * std::min(x, y);
}

/// A path to a cell found by a jump. Its node is prefetched while others are computed.
void TileSearch::reach(std::uint32_t parent, Cell cell, int direction, double length) {
  const std::uint32_t index = map_->index(cell);
  prefetch_for_writing(&nodes_[index]);
  if (reached_count_ == reached_.size()) relax_reached();
  reached_[reached_count_++] = {index, link(parent, direction), cell, length};
}

void TileSearch::relax_reached() {
  for (std::size_t i = 0; i < reached_count_; ++i) relax(reached_[i]);
  reached_count_ = 0;
}

/// Relaxes a cell.
void TileSearch::relax(const Reached& to) {
  Node& node = nodes_[to.index];
  const double known = node.search == search_ ? node.length : std::numeric_limits<double>::infinity();
  if (to.length >= known - tolerance::path_cells) return;
  node = {to.length, to.link, search_};
  if (to.cell == to_)
    best_ = std::min(best_, to.length);
  else
    open_.push(to.length + estimate_from(to.cell), to.length, to.index);
}

void TileSearch::expand_neighbours(std::uint32_t index, Cell cell) {
  const int count = map_->rules().neighbours == Neighbours::four ? 4 : 8;
  const double cost = map_->cost(cell), length = nodes_[index].length;
  for (int direction = 0; direction < count; ++direction) {
    const auto d = static_cast<std::size_t>(direction);
    const Cell to{cell.x + dx[d], cell.y + dy[d]};
    if (!map_->step_allowed(cell, to)) continue;
    const double step = (direction < 4 ? 0.5 : 0.5 * aslant) * (cost + map_->cost(to));
    relax({map_->index(to), link(index, direction), to, length + step});
  }
}

/// Expands a node in its natural directions and those of forced neighbours.
void TileSearch::expand_jumps(std::uint32_t index, Cell cell) {
  const Start start{index, cell, nodes_[index].length};
  switch (nodes_[index].link >> index_bits) {
    case east:
    case east + through:
      return go_on_straight<east>(start);
    case north:
    case north + through:
      return go_on_straight<north>(start);
    case west:
    case west + through:
      return go_on_straight<west>(start);
    case south:
    case south + through:
      return go_on_straight<south>(start);
    case north_east:
      return go_on_aslant<north_east>(start);
    case north_west:
      return go_on_aslant<north_west>(start);
    case south_west:
      return go_on_aslant<south_west>(start);
    case south_east:
      return go_on_aslant<south_east>(start);
    default:
      go_on_aslant<north_east>(start), go_on_aslant<south_west>(start);
      jump_aslant<north_west>(start), jump_aslant<south_east>(start);
  }
}

/// After a diagonal step: straight on, and to both adjacent sides.
template <int direction>
void TileSearch::go_on_aslant(const Start& start) {
  jump_straight<direction - 4>(start);
  jump_straight<(direction - 3) % 4>(start);
  jump_aslant<direction>(start);
}

/// After a side step: straight on, and around forced neighbours.
template <int direction>
void TileSearch::go_on_straight(const Start& start) {
  const Along<direction> along(*map_, start.cell);
  jump_straight<direction>(start);
  if (along.opens_left(along.place)) {
    jump_straight<along.left>(start);
    jump_aslant<4 + direction>(start);
  }
  if (along.opens_right(along.place)) {
    jump_straight<along.right>(start);
    jump_aslant<4 + along.right>(start);
  }
}

/// Jumps straight on to the next forced neighbour. Follows the turns of passages one cell wide, where there
/// is no choice.
template <int direction>
void TileSearch::jump_straight(const Start& start, int turns) {
  const Along<direction> along(*map_, start.cell);
  constexpr bool along_x = along.along_x;
  const Cell from = start.cell;
  const int place =
      scan<along.step>(along.line, along.place, along_x ? goal_in_row(from) : goal_in_column(from));
  if (place < 0) return;
  const Cell to = along_x ? Cell{place, from.y} : Cell{from.x, place};
  const double length = start.length + (place - along.place) * along.step;
  if (turns < max_turns && to != to_) {
    const int turn = along.passage_turn(place);
    if (turn == along.left) return jump_straight<along.left>({start.index, to, length}, turns + 1);
    if (turn == along.right) return jump_straight<along.right>({start.index, to, length}, turns + 1);
  }
  reach(start.index, to, turns > 0 ? direction + through : direction, length);
}

/// Jumps diagonally, and from each cell to both sides. Only the ends of these side lines become nodes. The
/// turn between follows from the direction of arrival.
template <int direction>
void TileSearch::jump_aslant(const Start& start) {
  constexpr int x_step = dx[direction], y_step = dy[direction];
  constexpr int x_side = x_step > 0 ? east : west, y_side = y_step > 0 ? north : south;
  const std::ptrdiff_t to_row = y_step * map_->rows().stride(), to_column = x_step * map_->columns().stride();
  const TileLines::Word *row = map_->rows().line(start.cell.y), *column = map_->columns().line(start.cell.x);
  Cell cell = start.cell;
  for (double length = start.length + aslant;; length += aslant) {
    const TileLines::Word* next_row = row + to_row;
    if (TileLines::blocked(row, cell.x + x_step) || TileLines::blocked(next_row, cell.x) ||
        TileLines::blocked(next_row, cell.x + x_step))
      return;
    cell = {cell.x + x_step, cell.y + y_step};
    row = next_row;
    column += to_column;
    if (cell == to_) return reach(start.index, cell, direction, length);
    const int x = scan<x_step>(row, cell.x, goal_in_row(cell));
    if (x >= 0) reach(start.index, {x, cell.y}, x_side, length + (x - cell.x) * x_step);
    const int y = scan<y_step>(column, cell.y, goal_in_column(cell));
    if (y >= 0) reach(start.index, {cell.x, y}, y_side, length + (y - cell.y) * y_step);
  }
}

/// Returns the turns of a passage back to its first turn after `before`; the cell itself if no passage was
/// followed.
Cell TileSearch::back_through_passage(Cell cell, Cell before, int back) {
  for (Cell at = cell;;) {
    while (at != before && map_->free(beside(at, back))) at = beside(at, back);
    if (at == before) return cell;
    path_.push_back(at);
    cell = at;
    back = passage_turn(*map_, at, back);
  }
}

/// Traces the path from the goal to the start, with the intermediate turns.
void TileSearch::trace_back() {
  path_.push_back(to_);
  for (Cell cell = to_; cell != from_;) {
    const std::uint32_t from = nodes_[map_->index(cell)].link;
    const Cell before = map_->cell_of(from & index_mask);
    const auto direction = static_cast<int>(from >> index_bits);
    if (direction >= through) cell = back_through_passage(cell, before, (direction + 2) % 4);
    const int x = cell.x - before.x, y = cell.y - before.y;
    if (x != 0 && y != 0 && std::abs(x) != std::abs(y)) {
      const int steps = std::min(std::abs(x), std::abs(y));  // diagonal
      path_.push_back({before.x + (x > 0 ? steps : -steps), before.y + (y > 0 ? steps : -steps)});
    }
    path_.push_back(before);
    cell = before;
  }
  std::ranges::reverse(path_);
}

}  // namespace ambulon
