#include "ambulon/ground/tiles/tile_map.hpp"

#include <cmath>

#include <fmt/format.h>

#include "ambulon/base/range.hpp"

namespace ambulon {
namespace {

constexpr int most_cells = 16'384;  // to a side

/// Words of a line of `cells`: one before it, those it fills, and one after.
std::size_t words_for(int cells) { return static_cast<std::size_t>(cells + 63) / 64 + 2; }

}  // namespace

TileMap::TileMap(const TileMapOptions& options, std::pmr::memory_resource* memory)
    : width_(options.width),
      height_(options.height),
      cell_(options.cell),
      origin_(options.origin),
      rules_(options.rules),
      row_stride_(words_for(options.width)),
      column_stride_(words_for(options.height)),
      costs_(static_cast<std::size_t>(options.width) * static_cast<std::size_t>(options.height), blocked,
             memory),
      rows_(static_cast<std::size_t>(options.height + 2) * row_stride_, ~std::uint64_t{0}, memory),
      columns_(static_cast<std::size_t>(options.width + 2) * column_stride_, ~std::uint64_t{0}, memory) {}

Expected<TileMap> TileMap::make(std::span<const std::uint8_t> costs, const TileMapOptions& options,
                                std::pmr::memory_resource* memory) {
  for (const auto& [name, cells] : {std::pair{"width", options.width}, {"height", options.height}})
    if (cells < 1 || cells > most_cells)
      return problem(fmt::format("the {} of the map is {} cells; it must lie between 1 and {}", name, cells,
                                 most_cells));
  if (!Range{0.001f, 1000.f}.holds(options.cell))
    return problem(fmt::format("a cell of {} m; it must lie between 0.001 and 1000 m", options.cell));
  if (!std::isfinite(options.origin.x) || !std::isfinite(options.origin.y))
    return problem("the origin of the map is not finite");
  const std::size_t cells =
      static_cast<std::size_t>(options.width) * static_cast<std::size_t>(options.height);
  if (costs.size() != cells)
    return problem(fmt::format("{} costs were given for a map of {} by {} cells; it needs {}", costs.size(),
                               options.width, options.height, cells));
  TileMap map(options, memory);
  map.costs_.assign(costs.begin(), costs.end());
  for (int y = 0; y < map.height_; ++y)
    for (int x = 0; x < map.width_; ++x) {
      const std::uint8_t cost = map.cost({x, y});
      if (cost == blocked) continue;
      map.put_bits({x, y}, false);
      map.costly_ += cost > 1 ? 1 : 0;
    }
  return map;
}

void TileMap::put_bits(Cell cell, bool is_blocked) {
  const auto put = [is_blocked](std::uint64_t* line, int place) {
    const std::size_t at = static_cast<std::size_t>(place) + 64;
    const std::uint64_t mask = std::uint64_t{1} << (at & 63U);
    if (is_blocked)
      line[at >> 6U] |= mask;
    else
      line[at >> 6U] &= ~mask;
  };
  put(rows_.data() + static_cast<std::size_t>(cell.y + 1) * row_stride_, cell.x);
  put(columns_.data() + static_cast<std::size_t>(cell.x + 1) * column_stride_, cell.y);
}

bool TileMap::step_allowed(Cell from, Cell to) const {
  if (!free(to)) return false;
  if (from.x == to.x || from.y == to.y) return true;
  if (rules_.neighbours == Neighbours::four) return false;
  const bool one = free({to.x, from.y}), other = free({from.x, to.y});
  if (rules_.corners == Corners::both_free) return one && other;
  return rules_.corners == Corners::cut || one || other;
}

Expected<Cell> TileMap::set(Cell cell, std::uint8_t cost) {
  if (!inside(cell))
    return problem(fmt::format("cell ({}, {}) lies outside of the map of {} by {} cells", cell.x, cell.y,
                               width_, height_));
  std::uint8_t& now = costs_[index(cell)];
  if (now == cost) return cell;
  costly_ += cost > 1 ? 1 : 0;
  costly_ -= now > 1 ? 1 : 0;
  put_bits(cell, cost == blocked);
  now = cost;
  ++revision_;
  return cell;
}

Cell TileMap::cell_at(vec2 point) const {
  constexpr float beyond = 1e6f;  // cells: far outside, and still a whole number
  const vec2 place = (point - origin_) / cell_;
  const auto whole = [](float value) {
    return static_cast<int>(std::floor(std::fmin(std::fmax(value, -beyond), beyond)));
  };
  return {whole(place.x), whole(place.y)};
}

}  // namespace ambulon
