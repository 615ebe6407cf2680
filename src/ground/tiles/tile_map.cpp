#include "ambulon/ground/tiles/tile_map.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr int max_cells = 16'384;  // cells: maximum edge

}  // namespace

TileMap::TileMap(const TileMapOptions& options, std::pmr::memory_resource* memory)
    : width_(options.width),
      height_(options.height),
      cell_(options.cell),
      origin_(options.origin),
      rules_(options.rules),
      cells_(memory),
      terrains_(options.terrains.begin(), options.terrains.end()),
      rows_(options.height, options.width, memory),
      columns_(options.width, options.height, memory),
      covered_(memory) {
  for (std::size_t value = 0; value < cost_of_.size(); ++value)
    cost_of_[value] = terrains_.empty()          ? static_cast<std::uint8_t>(value)
                      : value < terrains_.size() ? terrains_[value].cost
                                                 : blocked;
}

TileMap::TileMap(const TileMap& other, std::pmr::memory_resource* memory)
    : width_(other.width_),
      height_(other.height_),
      cell_(other.cell_),
      origin_(other.origin_),
      rules_(other.rules_),
      cells_(other.cells_, memory),
      cost_of_(other.cost_of_),
      terrains_(other.terrains_),
      rows_(other.rows_, memory),
      columns_(other.columns_, memory),
      covered_(other.covered_, memory),
      costly_(other.costly_),
      dearest_(other.dearest_) {}

Expected<TileMap> TileMap::make(std::span<const std::uint8_t> values, const TileMapOptions& options,
                                std::pmr::memory_resource* memory) {
  for (const auto& [name, cells] : {std::pair{"width", options.width}, {"height", options.height}})
    if (cells < 1 || cells > max_cells)
      return problem(
          fmt::format("the {} of the map is {} cells; it must lie between 1 and {}", name, cells, max_cells));
  if (!Range{0.001f, 1000.f}.holds(options.cell))
    return problem(fmt::format("a cell of {} m; it must lie between 0.001 and 1000 m", options.cell));
  if (!std::isfinite(options.origin.x) || !std::isfinite(options.origin.y))
    return problem("the origin of the map is not finite");
  if (options.terrains.size() > 255)
    return problem(fmt::format("{} terrains; a map has up to 255", options.terrains.size()));
  const std::size_t cells =
      static_cast<std::size_t>(options.width) * static_cast<std::size_t>(options.height);
  if (values.size() != cells)
    return problem(fmt::format("{} cells were given for a map of {} by {}; it needs {}", values.size(),
                               options.width, options.height, cells));
  TileMap map(options, memory);
  if (!map.terrains_.empty())
    for (const std::uint8_t value : values)
      if (value >= map.terrains_.size()) return map.no_terrain(value);
  map.cells_.assign(values.begin(), values.end());
  for (int y = 0; y < map.height_; ++y)
    for (int x = 0; x < map.width_; ++x) {
      const std::uint8_t cost = map.cost({x, y});
      if (cost == blocked) continue;
      map.rows_.put(y, x, false), map.columns_.put(x, y, false);
      map.costly_ += cost > 1 ? 1 : 0;
      map.dearest_ = std::max(map.dearest_, cost);
    }
  map.rows_.settle(), map.columns_.settle();
  return map;
}

tl::unexpected<Problem> TileMap::no_terrain(std::uint8_t value) const {
  return problem(
      fmt::format("a cell of terrain number {}; the map has {}, counted from 0", value, terrains_.size()));
}

void TileMap::block(Cell cell, bool is_blocked) {
  rows_.put(cell.y, cell.x, is_blocked), columns_.put(cell.x, cell.y, is_blocked);
  rows_.settle(cell.y, cell.x), columns_.settle(cell.x, cell.y);
}

bool TileMap::step_allowed(Cell from, Cell to) const {
  if (!free(to)) return false;
  if (from.x == to.x || from.y == to.y) return true;
  if (rules_.neighbours == Neighbours::four) return false;
  const bool one = free({to.x, from.y}), other = free({from.x, to.y});
  if (rules_.corners == Corners::both_free) return one && other;
  return rules_.corners == Corners::cut || one || other;
}

Expected<Cell> TileMap::set(Cell cell, std::uint8_t value) {
  if (!inside(cell))
    return problem(fmt::format("cell ({}, {}) lies outside of the map of {} by {} cells", cell.x, cell.y,
                               width_, height_));
  if (!terrains_.empty() && value >= terrains_.size()) return no_terrain(value);
  costly_ -= cost(cell) > 1 ? 1 : 0;
  cells_[index(cell)] = value;
  costly_ += cost(cell) > 1 ? 1 : 0;
  dearest_ = std::max(dearest_, cost(cell));
  block(cell, covered(cell) || cost(cell) == blocked);
  return cell;
}

void TileMap::cover(Cell cell, bool covered) {
  if (covered && covered_.empty()) covered_.resize((cells_.size() + 63) / 64);
  if (!covered_.empty()) {
    const std::uint64_t bit = std::uint64_t{1} << (index(cell) % 64);
    std::uint64_t& word = covered_[index(cell) / 64];
    word = covered ? word | bit : word & ~bit;
  }
  block(cell, covered || cost(cell) == blocked);
}

Cell TileMap::cell_at(vec2 point) const {
  constexpr float beyond = 1e6f;  // cells: far outside, and exact as an integer
  const vec2 place = (point - origin_) / cell_;
  const auto whole = [](float value) {
    return static_cast<int>(std::floor(std::fmin(std::fmax(value, -beyond), beyond)));
  };
  return {whole(place.x), whole(place.y)};
}

CellBox TileMap::cells_in(vec2 min, vec2 max) const {
  const Cell low = cell_at(min), high = cell_at(max);
  return {{std::max(low.x, 0), std::max(low.y, 0)},
          {std::min(high.x, width_ - 1), std::min(high.y, height_ - 1)}};
}

vec2 TileMap::middle(Cell cell) const {
  return origin_ + cell_ * (vec2(static_cast<float>(cell.x), static_cast<float>(cell.y)) + 0.5f);
}

vec2 TileMap::corner(Cell cell) const {
  return origin_ + cell_ * vec2(static_cast<float>(cell.x), static_cast<float>(cell.y));
}

}  // namespace ambulon
