#include "ground/tiles/tile_taut.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

#include <glm/common.hpp>

#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/tiles/tile_sweep.hpp"

namespace ambulon {
namespace {

constexpr int max_rounds = 32;  // passes over the line; each shortens it

/// Returns twice the signed area of a triangle, positive if counter-clockwise. In double, since corners of
/// the grid are often collinear.
double turn(vec2 a, vec2 b, vec2 c) {
  return (static_cast<double>(b.x) - static_cast<double>(a.x)) *
             (static_cast<double>(c.y) - static_cast<double>(a.y)) -
         (static_cast<double>(b.y) - static_cast<double>(a.y)) *
             (static_cast<double>(c.x) - static_cast<double>(a.x));
}

/// The columns that a triangle covers in a band of rows; low > high if none.
struct Columns {
  float low = std::numeric_limits<float>::infinity(), high = -std::numeric_limits<float>::infinity();
  void take(float x) { low = std::min(low, x), high = std::max(high, x); }
};
Columns columns_of(const std::array<vec2, 3>& triangle, float bottom, float top) {
  Columns columns;
  for (std::size_t i = 0; i < 3; ++i) {
    const vec2 from = triangle[i], to = triangle[(i + 1) % 3];
    if (from.y >= bottom && from.y <= top) columns.take(from.x);
    for (const float y : {bottom, top})
      if ((from.y < y) != (to.y < y)) columns.take(from.x + (to.x - from.x) * (y - from.y) / (to.y - from.y));
  }
  return columns;
}

/// The free corners of blocked cells: 64 positions of the grid line below row `y`, each between the cell of
/// its number and the one before, and which of the four adjacent cells are blocked.
struct Corners64 {
  std::uint64_t south_west, south_east, north_west, north_east, out;
};
Corners64 corners_at(const TileMap& map, int y, std::size_t word) {
  const TileLines::Word *below = map.rows().line(y - 1), *above = map.rows().line(y);
  const auto shifted = [word](const TileLines::Word* row) {
    return (row[word].blocked << 1U) | (row[word - 1].blocked >> 63U);
  };
  Corners64 c{shifted(below), below[word].blocked, shifted(above), above[word].blocked, 0};
  const std::uint64_t in_pairs = (c.south_west & c.south_east) | (c.north_west & c.north_east);
  const std::uint64_t single = (c.south_west ^ c.south_east ^ c.north_west ^ c.north_east) & ~in_pairs;
  const std::uint64_t crossed = (c.south_west & c.north_east & ~c.south_east & ~c.north_west) |
                                (c.south_east & c.north_west & ~c.south_west & ~c.north_east);
  c.out = single | crossed;
  return c;
}

}  // namespace

void TileTaut::pull(const TileMap& map, float radius, std::pmr::vector<vec2>& line) {
  bool shorter = true;
  for (int round = 0; shorter && round < max_rounds; ++round) {
    shorter = false;
    next_.assign(1, line.front());
    for (std::size_t i = 1; i + 1 < line.size(); ++i) {
      if (shorten(map, radius, next_.back(), line[i], line[i + 1])) {
        shorter = true;
        next_.insert(next_.end(), chain_.begin(), chain_.end());
      } else {
        next_.push_back(line[i]);
      }
    }
    next_.push_back(line.back());
    std::swap(line, next_);
  }
}

/// Finds a shorter path from `a` to `c` that replaces `b`; its bends are then in `chain_`.
bool TileTaut::shorten(const TileMap& map, float radius, vec2 a, vec2 b, vec2 c) {
  chain_.clear();
  const auto free = [&](vec2 from, vec2 to) { return sweep(map, from, to - from, radius).free(); };
  if (std::abs(turn(a, b, c)) > 1e-9) {
    gather(map, radius, a, b, c);
    wrap(a, b, c);
  }
  const float less = tolerance::taut_cells * map.cell_size();
  const float by_b = glm::length(b - a) + glm::length(c - b);
  float by_chain = 0.f;
  vec2 last = a;
  chain_.push_back(c);
  for (const vec2 bend : chain_) {
    by_chain += glm::length(bend - last);
    if (!free(last, bend)) return false;
    last = bend;
  }
  chain_.pop_back();
  return by_chain < by_b - less || (chain_.empty() && by_chain <= by_b);
}

/// Collects the corners of obstacles, grown by the radius, in the triangle.
void TileTaut::gather(const TileMap& map, float radius, vec2 a, vec2 b, vec2 c) {
  corners_.clear();
  const float size = map.cell_size(), reach = radius / size;
  const auto in_cells = [&](vec2 at) { return (at - map.origin()) / size; };
  const std::array<vec2, 3> triangle = {in_cells(a), in_cells(b), in_cells(c)};
  const bool left = turn(triangle[0], triangle[1], triangle[2]) > 0;
  const auto inside = [&](vec2 at) {
    for (std::size_t i = 0; i < 3; ++i) {
      const double side = turn(triangle[i], triangle[(i + 1) % 3], at);
      if (left ? side < -1e-5 : side > 1e-5) return false;
    }
    return true;
  };
  const auto [low, high] = std::minmax({triangle[0].y, triangle[1].y, triangle[2].y});
  const int first = std::max(0, static_cast<int>(std::floor(low - reach)));
  const int last = std::min(map.height(), static_cast<int>(std::ceil(high + reach)));
  const float outer = reach, inner = reach * 0.414'213'56f;  // tan 22.5 degrees
  for (int y = first; y <= last; ++y) {
    const auto row = static_cast<float>(y);
    const Columns columns = columns_of(triangle, row - reach, row + reach);
    if (columns.low > columns.high) continue;
    const int x0 = std::max(0, static_cast<int>(std::ceil(columns.low - reach - 1e-3f)));
    const int x1 = std::min(map.width(), static_cast<int>(std::floor(columns.high + reach + 1e-3f)));
    if (x0 > x1) continue;
    for (auto word = (static_cast<std::size_t>(x0) + 64) / 64;
         word <= (static_cast<std::size_t>(x1) + 64) / 64; ++word) {
      const Corners64 found = corners_at(map, y, word);
      for (std::uint64_t bits = found.out; bits != 0; bits &= bits - 1) {
        const int bit = std::countr_zero(bits);
        const int x = static_cast<int>(word * 64) + bit - 64;
        if (x < x0 || x > x1) continue;
        const auto corner_of = [&](std::uint64_t blocked, vec2 out) {
          if ((blocked >> bit & 1U) == 0) return;
          for (const vec2 off : {vec2(outer, inner), vec2(inner, outer)}) {
            const vec2 at = vec2(static_cast<float>(x), row) + off * out;
            if (inside(at)) corners_.push_back(map.origin() + size * at);
          }
        };
        corner_of(found.south_west, {1, 1}), corner_of(found.south_east, {-1, 1});
        corner_of(found.north_west, {1, -1}), corner_of(found.north_east, {-1, -1});
      }
    }
  }
}

/// The convex hull of the corners from `a` to `c` on the side of `b`, without `a` and `c` (gift wrapping): R.
/// Jarvis, "On the Identification of the Convex Hull of a Finite Set of Points in the Plane" (1973).
void TileTaut::wrap(vec2 a, vec2 b, vec2 c) {
  const double side = turn(a, b, c) > 0 ? 1 : -1;
  const auto same = [](vec2 p, vec2 q) { return glm::length(q - p) < 1e-5f; };
  for (vec2 here = a; chain_.size() <= corners_.size();) {
    vec2 next = c;
    for (const vec2 corner : corners_) {
      if (same(corner, here) || same(corner, next)) continue;
      // All others lie inside of the edge; of collinear ones, the furthest is taken.
      const double out = side * turn(here, next, corner);
      if (out < -1e-9 ||
          (out < 1e-9 && glm::length(corner - here) > glm::length(next - here) && !same(next, c)))
        next = corner;
    }
    if (same(next, c)) return;
    chain_.push_back(next);
    here = next;
  }
  chain_.clear();  // rounding led to a cycle
}

}  // namespace ambulon
