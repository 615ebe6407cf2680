#include "ambulon/ground/tiles/tile_ground.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>

#include "ambulon/base/angle.hpp"

namespace ambulon {
namespace {

constexpr float inset = 1e-4f;  // of a cell, by which spots keep off the edges of blocked cells
constexpr int draws = 64;       // for a random spot, before the nearest to the last one is taken

}  // namespace

TileGround::TileGround(TileMap map, std::pmr::memory_resource* memory)
    : map_(std::move(map)), components_(memory), search_(memory) {
  components_.label(map_);
}

Expected<Cell> TileGround::set(Cell cell, std::uint8_t cost) {
  auto changed = map_.set(cell, cost);
  if (changed) components_.changed(map_, cell);
  return changed;
}

/// The spot of a cell nearest to `near`.
Spot TileGround::spot_in(Cell cell, vec2 near) const {
  const vec2 middle = map_.middle(cell), half(map_.cell_size() * (0.5f - inset));
  return {.position = lift(glm::clamp(near, middle - half, middle + half)), .piece = map_.index(cell)};
}

Snap TileGround::snap(vec3 point, float reach) const {
  if (!finite(point)) return {};
  const vec2 at = flat(point);
  const Cell here = map_.cell_at(at);
  if (map_.inside(here) && map_.free(here))
    return {
        .spot = {.position = lift(at), .piece = map_.index(here)}, .off = 0.f, .found = true, .within = true};
  // Ring by ring around the nearest cell of the map, until no further ring can hold anything nearer.
  const Cell centre{std::clamp(here.x, 0, map_.width() - 1), std::clamp(here.y, 0, map_.height() - 1)};
  Snap best{.off = std::numeric_limits<float>::infinity()};
  const auto look = [&](Cell cell) {
    if (!map_.inside(cell) || !map_.free(cell)) return;
    const Spot spot = spot_in(cell, at);
    const float off = glm::length(flat(spot.position) - at);
    if (off < best.off) best = {.spot = spot, .off = off, .found = true, .within = off <= reach};
  };
  const float outside = glm::length(flat(spot_in(centre, at).position) - at);
  const int rings = std::max(map_.width(), map_.height());
  for (int ring = 0; ring <= rings; ++ring) {
    if (best.found && static_cast<float>(ring - 1) * map_.cell_size() > best.off + outside) break;
    for (int i = -ring; i <= ring; ++i) {
      look({centre.x + i, centre.y - ring}), look({centre.x + i, centre.y + ring});
      look({centre.x - ring, centre.y + i}), look({centre.x + ring, centre.y + i});
    }
  }
  return best.found ? best : Snap{};
}

Stretch TileGround::straight(const Spot& from, vec2 way) const {
  const float size = map_.cell_size();
  const vec2 start = flat(from.position);
  const float metres = glm::length(way);
  Cell cell = map_.cell_of(from.piece);
  const Cell step{way.x > 0.f ? 1 : -1, way.y > 0.f ? 1 : -1};
  // Parts of the way, 0 to 1, at which the line leaves the present cell in x and in y: J. Amanatides and
  // A. Woo, "A Fast Voxel Traversal Algorithm for Ray Tracing" (1987).
  const auto leaves = [&](int axis) {
    if (way[axis] == 0.f) return std::numeric_limits<double>::infinity();
    const int line = (axis == 0 ? cell.x : cell.y) + (way[axis] > 0.f ? 1 : 0);
    const double edge =
        static_cast<double>(map_.origin()[axis]) + static_cast<double>(line) * static_cast<double>(size);
    return std::max(0.0, (edge - static_cast<double>(start[axis])) / static_cast<double>(way[axis]));
  };
  const auto cut_short = [&](double part, vec2 inward) {
    const vec2 end = start + static_cast<float>(std::min(1.0, part)) * way;
    const Spot spot = spot_in(cell, end);
    return Stretch{
        .end = spot, .metres = glm::length(flat(spot.position) - start), .free = false, .inward = inward};
  };
  for (;;) {
    const double x = leaves(0), y = leaves(1);
    if (std::min(x, y) >= 1.0) break;
    const bool corner = std::abs(x - y) * static_cast<double>(metres) < 1e-5 * static_cast<double>(size);
    const Cell beside{cell.x + step.x, cell.y}, above{cell.x, cell.y + step.y};
    if (corner) {
      const Cell next{cell.x + step.x, cell.y + step.y};
      const bool between = !map_.free(beside) && !map_.free(above);
      if (!map_.free(next) || (between && map_.rules().corners != Corners::cut))
        return cut_short(x, direction(-way));
      cell = next;
    } else if (x < y) {
      if (!map_.free(beside)) return cut_short(x, {static_cast<float>(-step.x), 0.f});
      cell = beside;
    } else {
      if (!map_.free(above)) return cut_short(y, {0.f, static_cast<float>(-step.y)});
      cell = above;
    }
  }
  return {.end = {.position = lift(start + way), .piece = map_.index(cell)}, .metres = metres};
}

bool TileGround::sight(const Spot& from, const Spot& to) const {
  return straight(from, flat(to.position - from.position)).free;
}

void TileGround::route(const Spot& from, const Spot& to, Route& route) const {
  route.bends.clear();
  route.length = 0.f;
  route.complete = false;
  const Cell start = map_.cell_of(from.piece), goal = map_.cell_of(to.piece);
  if (!components_.joined(map_, start, goal)) return;
  route.bends.push_back(from.position);
  if (!sight(from, to)) {
    search_.find(map_, start, goal);
    straighten(from, to, route);
  }
  route.bends.push_back(to.position);
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    route.length += glm::length(route.bends[i] - route.bends[i - 1]);
  route.complete = true;
}

/// Bends only at those turns from which the next one cannot be seen from the bend before.
void TileGround::straighten(const Spot& from, const Spot& to, Route& route) const {
  const auto path = search_.path();
  Spot anchor = from;
  for (std::size_t i = 0; i + 1 < path.size(); ++i) {
    const Spot here = spot_in(path[i], map_.middle(path[i]));
    const Spot next = i + 2 == path.size() ? to : spot_in(path[i + 1], map_.middle(path[i + 1]));
    if (sight(anchor, next)) continue;
    route.bends.push_back(here.position);
    anchor = here;
  }
  if (!sight(anchor, to)) route.bends.push_back(lift(map_.middle(path.back())));
}

Spot TileGround::random_spot(Random& random, const Spot& around, float radius) const {
  const Cell home = map_.cell_of(around.piece);
  for (int draw = 0; draw < draws; ++draw) {
    const float away = radius * std::sqrt(random.fraction());
    const vec2 at = flat(around.position) + away * unit(2.f * pi * random.fraction());
    const Cell cell = map_.cell_at(at);
    if (map_.inside(cell) && components_.joined(map_, home, cell))
      return {.position = lift(at), .piece = map_.index(cell)};
  }
  return around;
}

float TileGround::distance(const Spot& from, const Spot& to) const {
  Route way;
  route(from, to, way);
  return way.complete ? way.length : std::numeric_limits<float>::infinity();
}

}  // namespace ambulon
