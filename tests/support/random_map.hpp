#pragma once
// Random tile maps, and a reference search.

#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>
#include <span>

#include "ambulon/base/random.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {

/// A map of up to `max` by `max` cells, up to 45 % of them blocked, singly or in blocks; every third one
/// consists of winding passages one cell wide.
inline TileMap random_map(TileRules rules, bool costly, int max = 90) {
  const int width = *rc::gen::inRange(1, max + 1), height = *rc::gen::inRange(1, max + 1);
  Random random(static_cast<std::uint64_t>(*rc::gen::inRange(0, 1'000'000)));
  const auto below = [&](int count) {
    return static_cast<int>(random.below(static_cast<std::uint32_t>(count)));
  };
  std::vector<std::uint8_t> costs(static_cast<std::size_t>(width * height), 1);
  if (costly)
    for (auto& cost : costs) cost = static_cast<std::uint8_t>(1 + below(below(4) == 0 ? 255 : 3));
  const int kind = *rc::gen::inRange(0, 3);
  const bool blocks = kind == 1, passages = kind == 2;
  for (int y = 0; passages && y < height; ++y)
    for (int x = 0; x < width; ++x)
      if ((x % 2 == 1 && y % 2 == 1) || ((x + y) % 2 == 1 && below(100) < 45))
        costs[static_cast<std::size_t>(y * width + x)] = TileMap::blocked;
  for (int left = passages ? 0 : below(width * height * 45 / 100 + 1); left > 0;) {
    const int x0 = below(width), y0 = below(height);
    const int w = blocks ? 1 + below(9) : 1, h = blocks ? 1 + below(9) : 1;
    for (int y = y0; y < std::min(height, y0 + h); ++y)
      for (int x = x0; x < std::min(width, x0 + w); ++x)
        costs[static_cast<std::size_t>(y * width + x)] = TileMap::blocked;
    left -= w * h;
  }
  return TileMap::make(costs, {.width = width, .height = height, .rules = rules}).value();
}

inline Cell random_cell(const TileMap& map) {
  return {*rc::gen::inRange(0, map.width()), *rc::gen::inRange(0, map.height())};
}

/// The length of one step by the rules; both cells are free.
inline double step_length(const TileMap& map, Cell from, Cell to) {
  const double mean = 0.5 * (map.cost(from) + map.cost(to));
  return from.x != to.x && from.y != to.y ? std::sqrt(2.0) * mean : mean;
}

/// Returns the length of a path over cells; negative if one of its steps is not allowed.
inline double walked(const TileMap& map, std::span<const Cell> path) {
  double length = 0;
  for (std::size_t i = 1; i < path.size(); ++i) {
    const Cell way{path[i].x - path[i - 1].x, path[i].y - path[i - 1].y};
    const int steps = std::max(std::abs(way.x), std::abs(way.y));
    if ((way.x != 0 && way.y != 0 && std::abs(way.x) != std::abs(way.y)) || steps == 0) return -1;
    for (Cell at = path[i - 1]; at != path[i];) {
      const Cell next{at.x + way.x / steps, at.y + way.y / steps};
      if (!map.step_allowed(at, next)) return -1;
      length += step_length(map, at, next);
      at = next;
    }
  }
  return length;
}

/// Returns the lengths of the shortest paths from a cell to all others: E. W. Dijkstra, "A Note on Two
/// Problems in Connexion with Graphs" (1959).
inline std::vector<double> plain_distances(const TileMap& map, Cell from) {
  std::vector<double> lengths(static_cast<std::size_t>(map.width() * map.height()),
                              std::numeric_limits<double>::infinity());
  if (!map.free(from)) return lengths;
  using Open = std::pair<double, std::uint32_t>;
  std::priority_queue<Open, std::vector<Open>, std::greater<>> open;
  lengths[map.index(from)] = 0;
  open.push({0, map.index(from)});
  while (!open.empty()) {
    const auto [length, index] = open.top();
    open.pop();
    if (length > lengths[index]) continue;
    const Cell cell = map.cell_of(index);
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x) {
        const Cell to{cell.x + x, cell.y + y};
        if ((x == 0 && y == 0) || !map.inside(to) || !map.step_allowed(cell, to)) continue;
        const double new_length = length + step_length(map, cell, to);
        if (new_length >= lengths[map.index(to)] - 1e-9) continue;
        lengths[map.index(to)] = new_length;
        open.push({new_length, map.index(to)});
      }
  }
  return lengths;
}

}  // namespace ambulon
