#include "ground/tiles/tile_sweep.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

#include <glm/common.hpp>
#include <glm/vec2.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"

namespace ambulon {
namespace {

constexpr double facing = 1e-6;  // a smaller component towards a wall counts as parallel

/// Converts a position to cells: the map is then a grid of unit squares with its corner at 0.
dvec2 in_cells(const TileMap& map, vec2 at) {
  return (dvec2(at) - dvec2(map.origin())) / static_cast<double>(map.cell_size());
}

/// Calls `visit(Cell)` for each blocked cell of columns `low` to `high` of row `y`, including the border.
template <class Visit>
void each_blocked(const TileMap& map, int y, int low, int high, Visit&& visit) {
  const TileLines::Word* row = map.rows().line(y);
  const std::size_t first = static_cast<std::size_t>(low) + 64, last = static_cast<std::size_t>(high) + 64;
  for (std::size_t word = first >> 6U; word <= last >> 6U; ++word) {
    std::uint64_t bits = row[word].blocked;
    if (word == first >> 6U) bits &= ~std::uint64_t{0} << (first & 63U);
    if (word == last >> 6U) bits &= ~std::uint64_t{0} >> (63U - (last & 63U));
    for (; bits != 0; bits &= bits - 1)
      visit(Cell{static_cast<int>(word * 64) + std::countr_zero(bits) - 64, y});
  }
}

/// Calls `visit(Cell)` for each blocked cell within `reach` cells of `at`, and others.
template <class Visit>
void each_blocked_near(const TileMap& map, dvec2 at, double reach, Visit&& visit) {
  const auto clamped = [](double value, int max) {
    return static_cast<int>(std::floor(std::clamp(value, -1.0, static_cast<double>(max))));
  };
  const int low = clamped(at.x - reach, map.width()), high = clamped(at.x + reach, map.width());
  for (int y = clamped(at.y - reach, map.height()); y <= clamped(at.y + reach, map.height()); ++y)
    each_blocked(map, y, low, high, visit);
}

/// Returns the vector from the nearest point of a cell to `at`.
dvec2 from_cell(Cell cell, dvec2 at) {
  const dvec2 low(cell.x, cell.y);
  return at - glm::clamp(at, low, low + 1.0);
}

/// The fraction of the move at which the disc touches a cell, and the normal there. Infinite if it does not
/// before `until`.
struct Contact {
  double part = std::numeric_limits<double>::infinity();
  dvec2 away{0.0};
};
Contact contact(Cell cell, dvec2 from, dvec2 way, double radius) {
  const dvec2 off = from_cell(cell, from);
  const double near = glm::length(off);
  if (near <= radius) {
    if (near == 0) return {};  // inside the wall: it may only leave
    return glm::dot(way, off) < -facing * near * glm::length(way) ? Contact{0, off / near} : Contact{};
  }
  // The entry into the cell grown by the radius: it meets a side, or the region outside of a rounded corner.
  const dvec2 p = from - (dvec2(cell.x, cell.y) + 0.5);
  const double half = 0.5 + radius;
  double enters = 0, leaves = 1;
  for (int axis = 0; axis < 2; ++axis) {
    if (way[axis] == 0) {
      if (std::abs(p[axis]) >= half) return {};
      continue;
    }
    const double one = (-half - p[axis]) / way[axis], other = (half - p[axis]) / way[axis];
    enters = std::max(enters, std::min(one, other));
    leaves = std::min(leaves, std::max(one, other));
  }
  if (enters >= leaves) return {};
  const dvec2 entry = p + enters * way;
  const dvec2 corner(std::copysign(0.5, entry.x), std::copysign(0.5, entry.y));
  if (std::abs(entry.x) > 0.5 && std::abs(entry.y) > 0.5) {
    const dvec2 offset = p - corner;
    const double a = glm::dot(way, way), b = glm::dot(offset, way),
                 c = glm::dot(offset, offset) - radius * radius;
    const double root = b * b - a * c;
    if (root <= 0 || b >= 0) return {};
    enters = (-b - std::sqrt(root)) / a;
    if (enters > 1) return {};
    return {enters, (offset + enters * way) / radius};
  }
  const bool by_x = std::abs(entry.x) > 0.5;
  return {enters, by_x ? dvec2(std::copysign(1.0, entry.x), 0) : dvec2(0, std::copysign(1.0, entry.y))};
}

}  // namespace

float clearance(const TileMap& map, vec2 at, float limit) {
  const dvec2 here = in_cells(map, at);
  const double size = static_cast<double>(map.cell_size());
  double min = static_cast<double>(limit) / size;
  if (here.x <= 0 || here.y <= 0 || here.x >= map.width() || here.y >= map.height()) return 0.f;
  each_blocked_near(map, here, min,
                    [&](Cell cell) { min = std::min(min, glm::length(from_cell(cell, here))); });
  return static_cast<float>(min * size);
}

Sweep sweep(const TileMap& map, vec2 from, vec2 way, float radius) {
  const double size = static_cast<double>(map.cell_size());
  const dvec2 start = in_cells(map, from), along = dvec2(way) / size;
  const double reach =
      std::max(0.5 * tolerance::sweep_cells, static_cast<double>(radius) / size - tolerance::sweep_cells);
  Contact first{.part = 1};
  const auto look = [&](Cell cell) {
    const Contact met = contact(cell, start, along, reach);
    if (met.part < first.part) first = met;
  };
  // Visits the rows in the direction of the move, and in each the columns that the disc may touch.
  const int step = along.y < 0 ? -1 : 1;
  const auto row_of = [&](double y) {
    return static_cast<int>(std::floor(std::clamp(y, -1.0, static_cast<double>(map.height()))));
  };
  const double back = step * reach;
  for (int y = row_of(start.y - back);; y += step) {
    const double end = start.y + first.part * along.y + back;
    if (step * (y - row_of(end)) > 0) break;
    // The part of the move during which the disc overlaps this row.
    double begins = 0, ends = first.part;
    if (along.y != 0) {
      const double low = (y - reach - start.y) / along.y, high = (y + 1 + reach - start.y) / along.y;
      begins = std::max(begins, std::min(low, high));
      ends = std::min(ends, std::max(low, high));
    }
    if (begins > ends) continue;
    const double x0 = start.x + begins * along.x, x1 = start.x + ends * along.x;
    const auto column_of = [&](double x) {
      return static_cast<int>(std::floor(std::clamp(x, -1.0, static_cast<double>(map.width()))));
    };
    each_blocked(map, y, column_of(std::min(x0, x1) - reach), column_of(std::max(x0, x1) + reach), look);
  }
  return {static_cast<float>(first.part), vec2(first.away)};
}

vec2 pushed_clear(const TileMap& map, vec2 at, float radius) {
  const double size = static_cast<double>(map.cell_size()), reach = static_cast<double>(radius) / size;
  dvec2 here = in_cells(map, at);
  for (int round = 0; round < 6; ++round) {
    double min = reach - 0.5 * tolerance::sweep_cells;
    dvec2 away(0.0);
    each_blocked_near(map, here, reach, [&](Cell cell) {
      const dvec2 off = from_cell(cell, here);
      const double near = glm::length(off);
      if (near >= min || near == 0) return;
      min = near, away = off / near;
    });
    if (away == dvec2(0.0)) break;
    here += (reach - min) * away;
  }
  return vec2(dvec2(map.origin()) + size * here);
}

}  // namespace ambulon
