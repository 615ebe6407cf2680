#include "ambulon/ground/tiles/tile_search.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <numbers>

namespace ambulon {
namespace {

// Directions: the sides counter-clockwise from the east, then the corners from the north-east.
enum Direction : int { east, north, west, south, north_east, north_west, south_west, south_east, none };
constexpr std::array<int, 8> dx = {1, 0, -1, 0, 1, -1, -1, 1}, dy = {0, 1, 0, -1, 1, 1, -1, -1};

constexpr std::uint32_t index_bits = 28, index_mask = (1U << index_bits) - 1;
constexpr double aslant = std::numbers::sqrt2;
constexpr double hair = 1e-9;  // cells: two ways that differ by less are as long

/// The cells of a line after which a line beside it opens: there one may have to turn into it.
/// `beside`: its bits; in the direction of growing numbers.
std::uint64_t openings_up(const std::uint64_t* beside, std::size_t word) {
  return ((beside[word] << 1U) | (beside[word - 1] >> 63U)) & ~beside[word];
}
std::uint64_t openings_down(const std::uint64_t* beside, std::size_t word) {
  return ((beside[word] >> 1U) | (beside[word + 1] << 63U)) & ~beside[word];
}

/// Goes along a line of cells from `place` in the direction of growing numbers, until `goal` (or a number
/// never met), an opening to either side, or the last free cell. Answers with the place of the goal or the
/// opening; -1 when the line just ends.
/// `stride`: words from line to line.
inline int scan_up(const std::uint64_t* line, std::ptrdiff_t stride, int place, int goal) {
  const std::uint64_t *left = line + stride, *right = line - stride;
  const auto start = static_cast<std::size_t>(place + 64) + 1;  // the first cell looked at
  std::size_t word = start >> 6U;
  std::uint64_t mask = ~std::uint64_t{0} << (start & 63U);
  for (;; ++word, mask = ~std::uint64_t{0}) {
    const std::uint64_t stops = (line[word] | openings_up(left, word) | openings_up(right, word)) & mask;
    if (stops == 0) continue;
    const int bit = std::countr_zero(stops);
    const int stop = static_cast<int>(word * 64) + bit - 64;
    if (goal > place && goal <= stop && (goal < stop || (line[word] >> bit & 1U) == 0)) return goal;
    return (line[word] >> bit & 1U) != 0 ? -1 : stop;
  }
}

/// The same in the direction of falling numbers.
inline int scan_down(const std::uint64_t* line, std::ptrdiff_t stride, int place, int goal) {
  const std::uint64_t *left = line + stride, *right = line - stride;
  const auto start = static_cast<std::size_t>(place + 64) - 1;
  std::size_t word = start >> 6U;
  std::uint64_t mask = ~std::uint64_t{0} >> (63U - (start & 63U));
  for (;; --word, mask = ~std::uint64_t{0}) {
    const std::uint64_t stops = (line[word] | openings_down(left, word) | openings_down(right, word)) & mask;
    if (stops == 0) continue;
    const int bit = 63 - std::countl_zero(stops);
    const int stop = static_cast<int>(word * 64) + bit - 64;
    if (goal >= 0 && goal < place && goal >= stop && (goal > stop || (line[word] >> bit & 1U) == 0))
      return goal;
    return (line[word] >> bit & 1U) != 0 ? -1 : stop;
  }
}

}  // namespace

void TileSearch::begin(const TileMap& map, Cell from, Cell to, TileMethod method) {
  map_ = &map, from_ = from, to_ = to;
  expanded_ = 0;
  length_ = 0;
  path_.clear();
  state_ = State::no_way;
  const bool can_jump = map.uniform() && map.rules() == TileRules{Neighbours::eight, Corners::both_free};
  jumps_ = can_jump && method != TileMethod::a_star;
  if (!map.inside(from) || !map.inside(to) || !map.free(from) || !map.free(to)) return;

  const std::size_t cells = static_cast<std::size_t>(map.width()) * static_cast<std::size_t>(map.height());
  if (nodes_.size() < cells) {
    nodes_.assign(cells, {});
    search_ = 0;
  }
  if (++search_ == 0) {  // all numbers have been used
    std::ranges::fill(nodes_, Node{});
    search_ = 1;
  }
  state_ = State::searching;
  best_ = std::numeric_limits<double>::infinity();
  // One step or jump adds at most twice its length to the estimate.
  open_.clear(2 * aslant * (jumps_ ? std::max(map.width(), map.height()) + map.width() + map.height() : 256));
  relax(map.index(from), from, none, 0);
}

TileSearch::State TileSearch::go_on(std::uint64_t expansions) {
  for (std::uint64_t done = 0; state_ == State::searching && done < expansions;) {
    if (open_.empty() || open_.least() >= best_ - hair) {
      if (!std::isfinite(best_)) return state_ = State::no_way;
      length_ = best_;
      trace_back();
      return state_ = State::found;
    }
    const BucketQueue::Entry next = open_.pop();
    // A shorter way to it was found since, or one to the goal that it cannot be on.
    if (next.length > nodes_[next.item].length || next.estimate >= best_ - hair) continue;
    ++done, ++expanded_;
    if (jumps_)
      expand_jumps(next.item, map_->cell_of(next.item));
    else
      expand_neighbours(next.item, map_->cell_of(next.item));
  }
  return state_;
}

/// The octile distance, which no way is shorter than, since no cell costs less than 1.
double TileSearch::estimate_from(Cell cell) const {
  const double x = std::abs(cell.x - to_.x), y = std::abs(cell.y - to_.y);
  if (map_->rules().neighbours == Neighbours::four) return x + y;
  return std::max(x, y) + (aslant - 1) * std::min(x, y);
}

/// Takes note of a way to a cell, when it is the shortest so far.
void TileSearch::relax(std::uint32_t parent, Cell to, int direction, double length) {
  const std::uint32_t index = map_->index(to);
  Node& node = nodes_[index];
  if (node.search == search_ && length >= node.length - hair) return;
  node = {length, parent | static_cast<std::uint32_t>(direction) << index_bits, search_};
  if (to == to_)
    best_ = length;
  else
    open_.push(length + estimate_from(to), length, index);
}

void TileSearch::expand_neighbours(std::uint32_t index, Cell cell) {
  const int count = map_->rules().neighbours == Neighbours::four ? 4 : 8;
  const double cost = map_->cost(cell), length = nodes_[index].length;
  for (int direction = 0; direction < count; ++direction) {
    const auto d = static_cast<std::size_t>(direction);
    const Cell to{cell.x + dx[d], cell.y + dy[d]};
    if (!map_->step_allowed(cell, to)) continue;
    relax(index, to, direction, length + (direction < 4 ? 0.5 : 0.5 * aslant) * (cost + map_->cost(to)));
  }
}

/// Goes on in the directions in which a shortest way may go on from here, given where it came from.
void TileSearch::expand_jumps(std::uint32_t index, Cell cell) {
  const auto came = static_cast<int>(nodes_[index].parent >> index_bits);
  if (came == none) {
    for (int direction = 0; direction < 4; ++direction) jump_straight(index, cell, direction);
    for (int direction = 4; direction < 8; ++direction) jump_aslant(index, cell, direction);
    return;
  }
  if (came >= 4) {  // a corner: on the way it may also turn to the two sides next to it
    const int side = came - 4;
    jump_straight(index, cell, side);
    jump_straight(index, cell, (side + 1) % 4);
    jump_aslant(index, cell, came);
    return;
  }
  jump_straight(index, cell, came);
  // Beside an opening: into it, and on aslant past it.
  const auto d = static_cast<std::size_t>(came);
  const Cell back{cell.x - dx[d], cell.y - dy[d]};
  for (const int turn : {1, 3}) {
    const int side = (came + turn) % 4;
    const auto s = static_cast<std::size_t>(side);
    if (!map_->free({cell.x + dx[s], cell.y + dy[s]}) || map_->free({back.x + dx[s], back.y + dy[s]}))
      continue;
    jump_straight(index, cell, side);
    jump_aslant(index, cell, turn == 1 ? 4 + came : 4 + side);
  }
}

/// Where a straight line from a cell first meets the goal or an opening to a side; -1 when nowhere.
int TileSearch::straight_to(Cell from, int direction) const {
  const bool along_x = direction == east || direction == west;
  const std::uint64_t* line = along_x ? map_->row(from.y) : map_->column(from.x);
  const std::ptrdiff_t stride = along_x ? map_->row_stride() : map_->column_stride();
  const int place = along_x ? from.x : from.y, crossing = along_x ? from.y : from.x;
  const int goal = crossing == (along_x ? to_.y : to_.x) ? (along_x ? to_.x : to_.y) : -1;
  return direction == east || direction == north ? scan_up(line, stride, place, goal)
                                                 : scan_down(line, stride, place, goal);
}

void TileSearch::jump_straight(std::uint32_t index, Cell from, int direction) {
  const int place = straight_to(from, direction);
  if (place < 0) return;
  const bool along_x = direction == east || direction == west;
  const Cell to = along_x ? Cell{place, from.y} : Cell{from.x, place};
  relax(index, to, direction, nodes_[index].length + std::abs(along_x ? place - from.x : place - from.y));
}

/// From corner to corner, as long as one may; from each cell straight on to both sides. Only where
/// those lines lead is taken note of: the turn between is known from the direction in which one arrives.
void TileSearch::jump_aslant(std::uint32_t index, Cell from, int direction) {
  const auto d = static_cast<std::size_t>(direction);
  const std::ptrdiff_t row_stride = map_->row_stride(), column_stride = map_->column_stride();
  const int x_side = dx[d] > 0 ? east : west, y_side = dy[d] > 0 ? north : south;
  const std::uint64_t *row = map_->row(from.y), *column = map_->column(from.x);
  const auto blocked = [](const std::uint64_t* line, int place) {
    const std::size_t at = static_cast<std::size_t>(place) + 64;
    return (line[at >> 6U] >> (at & 63U) & 1U) != 0;
  };
  double length = nodes_[index].length;
  for (Cell cell = from;;) {
    const std::uint64_t* next_row = row + dy[d] * row_stride;
    if (blocked(row, cell.x + dx[d]) || blocked(next_row, cell.x) || blocked(next_row, cell.x + dx[d]))
      return;
    cell = {cell.x + dx[d], cell.y + dy[d]};
    row = next_row;
    column += dx[d] * column_stride;
    length += aslant;
    if (cell == to_) return relax(index, cell, direction, length);
    const int goal_x = cell.y == to_.y ? to_.x : -1, goal_y = cell.x == to_.x ? to_.y : -1;
    const int x =
        dx[d] > 0 ? scan_up(row, row_stride, cell.x, goal_x) : scan_down(row, row_stride, cell.x, goal_x);
    if (x >= 0) relax(index, {x, cell.y}, x_side, length + std::abs(x - cell.x));
    const int y = dy[d] > 0 ? scan_up(column, column_stride, cell.y, goal_y)
                            : scan_down(column, column_stride, cell.y, goal_y);
    if (y >= 0) relax(index, {cell.x, y}, y_side, length + std::abs(y - cell.y));
  }
}

/// From the goal back to the start, with the turns that were not taken note of.
void TileSearch::trace_back() {
  path_.push_back(to_);
  for (Cell cell = to_; cell != from_;) {
    const std::uint32_t parent = nodes_[map_->index(cell)].parent;
    const Cell before = map_->cell_of(parent & index_mask);
    const int x = cell.x - before.x, y = cell.y - before.y;
    if (x != 0 && y != 0 && std::abs(x) != std::abs(y)) {
      const int steps = std::min(std::abs(x), std::abs(y));  // aslant
      path_.push_back({before.x + (x > 0 ? steps : -steps), before.y + (y > 0 ? steps : -steps)});
    }
    path_.push_back(before);
    cell = before;
  }
  std::ranges::reverse(path_);
}

}  // namespace ambulon
