// Routes on a tile ground: single, shared, and detours.

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>

#include "ambulon/ground/field/flow_field.hpp"

#include "base/circle.hpp"
#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/tiles/tile_ground_impl.hpp"
#include "ground/tiles/tile_layer.hpp"

namespace ambulon {
namespace {

// From here on a flow field is faster than separate searches (bench_tiles share).
constexpr std::size_t min_shared_cells = std::size_t{1} << 20U;
constexpr std::size_t min_sharers = 1000;
constexpr float beyond_edge = 0.02f;       // of a cell: extension of a closed line beyond the edges
constexpr double longest_by_cells = 1.09;  // times the straight line: maximum length of a path over cells

}  // namespace

bool TileGround::Impl::clear_line(std::uint16_t number, vec2 from, vec2 to) const {
  return sight({.position = lift(from), .piece = map().index(map().cell_at(from)), .layer = number},
               {.position = lift(to)});
}

/// Returns the length times cost of a free line, in metres.
double TileGround::Impl::cost_of_line(vec2 from, vec2 to) const {
  const TileMap& cells = map();
  const double metres = static_cast<double>(glm::length(to - from));
  if (cells.uniform()) return metres;
  const glm::dvec2 start =
      (glm::dvec2(from) - glm::dvec2(cells.origin())) / static_cast<double>(cells.cell_size());
  const glm::dvec2 way = (glm::dvec2(to) - glm::dvec2(from)) / static_cast<double>(cells.cell_size());
  double gone = 0, sum = 0;
  const auto next_line = [&](int axis) {  // the next fraction at which the line crosses the grid
    if (way[axis] == 0) return 1.0;
    const double at = start[axis] + gone * way[axis] + (way[axis] > 0 ? 1e-9 : -1e-9);
    return ((way[axis] > 0 ? std::floor(at) + 1 : std::ceil(at) - 1) - start[axis]) / way[axis];
  };
  while (gone < 1) {
    const double next = std::min({1.0, next_line(0), next_line(1)});
    const glm::dvec2 middle = start + 0.5 * (gone + next) * way;
    const Cell cell{std::clamp(static_cast<int>(middle.x), 0, cells.width() - 1),
                    std::clamp(static_cast<int>(middle.y), 0, cells.height() - 1)};
    sum += (next - gone) * metres * cells.cost(cell);
    if (next <= gone) break;
    gone = next;
  }
  return sum;
}

void TileGround::Impl::route(const Spot& from, const Spot& to, Route& route) const {
  route.clear();
  if (!known(from, to) || !reachable(from, to)) return;
  const TileLayer& layer = *width(from.layer).made;
  const Cell start = home_of(from), goal = home_of(to);
  if (!along_cells_ && layer.map().uniform() && sight(from, to)) return complete(from, to, {}, route);
  const auto loan = searchers_.borrow(memory_);
  Searcher& searcher = *loan;
  if (!find(layer, start, goal, searcher, route.expanded)) return;
  lay(from.layer, flat(from.position), flat(to.position), searcher);
  complete(from, to, searcher.line, route);
}

void TileGround::Impl::detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max,
                              Route& route) const {
  route.clear();
  if (!(max > 0.f) || !jam.sound() || !known(from, to) || !known(jam.middle) || !reachable(from, to)) return;
  const auto loan = searchers_.borrow(memory_);
  Searcher& searcher = *loan;
  // Slightly extended, since its ends lie on edges only up to rounding.
  const vec2 middle = flat(jam.middle.position),
             beyond = beyond_edge * map().cell_size() * direction(jam.left - jam.right);
  searcher.closed = {middle + jam.right - beyond, middle + jam.left + beyond};
  const double cells = static_cast<double>(max / map().cell_size()) * longest_by_cells;
  if (find_round(from, to, cells, searcher)) {
    lay(from.layer, flat(from.position), flat(to.position), searcher);
    complete(from, to, searcher.line, route);
  }
  // The line may pass between a body beside its cell and that cell.
  const auto crosses = [&](vec3 a, vec3 b) {
    return lines_cross(searcher.closed->from, searcher.closed->to, flat(a), flat(b));
  };
  const bool crossed = std::ranges::adjacent_find(route.bends, crosses) != route.bends.end();
  if (crossed || route.length_xy > max) route.clear();
  route.expanded = searcher.search.expanded();
  searcher.closed.reset();
}

/// Finds the turns of the path that does not cross the closed line. A copy of the map is used, on which the
/// line's cells are covered. Returns true if there is one shorter than `max` cells.
bool TileGround::Impl::find_round(const Spot& from, const Spot& to, double max, Searcher& searcher) const {
  const TileMap& cells = map_for(width(from.layer));
  auto& copy = searcher.copy;
  if (!copy || copy->width != from.layer || copy->revision != revision())
    copy.emplace(TileMap(cells, memory_), from.layer, revision());
  const auto [a, b] = *searcher.closed;
  const CellBox box = cells.cells_in(glm::min(a, b), glm::max(a, b));
  const auto cover = [&](bool covered) {
    for (int y = box.low.y; y <= box.high.y; ++y)
      for (int x = box.low.x; x <= box.high.x; ++x)
        if (cells.free({x, y}) && crosses_box(a, b, cells.corner({x, y}), cells.corner({x + 1, y + 1})))
          copy->map.cover({x, y}, covered);
  };
  cover(true);
  const bool found = searcher.search.find(copy->map, home_of(from), home_of(to), TileMethod::automatic, max);
  searcher.turns.assign(searcher.search.path().begin(), searcher.search.path().end());
  cover(false);
  return found;
}

/// Writes the route along a line between two spots; a straight one if the line is empty.
void TileGround::Impl::complete(const Spot& from, const Spot& to, std::span<const vec2> line, Route& route) {
  route.bends.push_back(from.position);
  for (std::size_t i = 1; i + 1 < line.size(); ++i) route.bends.push_back(lift(line[i]));
  route.bends.push_back(to.position);
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    route.length_xy += glm::length(route.bends[i] - route.bends[i - 1]);
  route.complete = true;
}

bool TileGround::Impl::shares_routes(const Spot& to, std::span<const Spot> from) const {
  if (!known(to)) return false;
  const TileMap& cells = map_for(width(to.layer));
  return !along_cells_ && cells.uniform() && from.size() >= min_sharers &&
         static_cast<std::size_t>(cells.width()) * static_cast<std::size_t>(cells.height()) >=
             min_shared_cells;
}

void TileGround::Impl::routes_to(const Spot& to, std::span<const Spot> from,
                                 std::span<Route* const> ways) const {
  if (!known(to)) {
    for (Route* way : ways) way->clear();
    return;
  }
  const TileMap& cells = map_for(width(to.layer));
  const FlowField field(self_, std::span(&to.position, 1), Body{.radius = width(to.layer).radius}, memory_);
  const auto all = static_cast<std::uint64_t>(cells.width()) * static_cast<std::uint64_t>(cells.height());
  const auto loan = searchers_.borrow(memory_);
  Searcher& searcher = *loan;
  for (std::size_t i = 0; i < from.size(); ++i) {
    Route& way = *ways[i];
    way.clear();
    if (!known(from[i], to) || !reachable(from[i], to)) continue;
    way.expanded = all / from.size();  // its share of the field
    if (sight(from[i], to)) {
      complete(from[i], to, {}, way);
      continue;
    }
    go_down(field, home_of(from[i]), home_of(to), searcher.turns);
    if (searcher.turns.back() != home_of(to)) {  // its goal is elsewhere
      route(from[i], to, way);
      continue;
    }
    lay(to.layer, flat(from[i].position), flat(to.position), searcher);
    complete(from[i], to, searcher.line, way);
  }
}

/// Descends from cell to cell, each time to the neighbour nearest to the goal.
void TileGround::Impl::go_down(const FlowField& field, Cell from, Cell to, std::pmr::vector<Cell>& turns) {
  const TileMap& cells = field.map();
  turns.assign(1, from);
  float min = field.distance_of(from);
  while (turns.back() != to) {
    Cell next = turns.back();
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x) {
        const Cell beside{turns.back().x + x, turns.back().y + y};
        if (!cells.inside(beside) || !cells.free(beside) || !cells.step_allowed(turns.back(), beside))
          continue;
        const float metres = beside == to ? 0.f : field.distance_of(beside);
        if (metres >= min) continue;
        min = metres;
        next = beside;
      }
    if (next == turns.back()) return;
    turns.push_back(next);
  }
}

/// Finds the turns of the path between two joined cells, and adds the expansions. Returns true if it reaches
/// the goal. On maps of uniform cost jump points are faster than gates at any size.
bool TileGround::Impl::find(const TileLayer& layer, Cell from, Cell to, Searcher& searcher,
                            std::uint64_t& expanded) const {
  const TileMap& map = layer.map();
  const std::size_t cells = static_cast<std::size_t>(map.width()) * static_cast<std::size_t>(map.height());
  if (!map.uniform() && cells >= far_cells_ && layer.find_far(from, to, searcher.turns, expanded))
    return true;
  const bool found = searcher.search.find(map, from, to);
  searcher.turns.assign(searcher.search.path().begin(), searcher.search.path().end());
  expanded += searcher.search.expanded();
  return found;
}

/// Converts the cells of the path into a line.
void TileGround::Impl::lay(std::uint16_t number, vec2 from, vec2 to, Searcher& searcher) const {
  const TileMap& cells = map_for(width(number));
  auto& line = searcher.line;
  line.assign(1, from);
  for (const Cell cell : searcher.turns) {
    const vec2 middle = cells.middle(cell);
    // Collinear cells form one leg.
    if (line.size() > 2 && std::abs(cross(direction(line.back() - line[line.size() - 2]),
                                          direction(middle - line.back()))) < 1e-4f)
      line.back() = middle;
    else
      line.push_back(middle);
  }
  line.push_back(to);
  if (along_cells_) return;
  leave_out_turns(number, searcher);
  if (width(number).radius > 0.f && cells.uniform()) searcher.taut.pull(map(), width(number).radius, line);
}

/// Removes turns that the line of sight from the last kept bend makes unnecessary, unless the shortcut is
/// more expensive.
void TileGround::Impl::leave_out_turns(std::uint16_t number, Searcher& searcher) const {
  auto& line = searcher.line;
  auto& costs = searcher.costs;
  costs.assign(line.size(), 0.0);
  const bool uniform = map().uniform();
  for (std::size_t i = 1; i < line.size() && !uniform; ++i) costs[i] = cost_of_line(line[i - 1], line[i]);
  std::size_t kept = 0;
  double by_turns = 0;  // from the last bend kept
  for (std::size_t i = 1; i + 1 < line.size(); ++i) {
    by_turns += costs[i];
    const bool dearer =
        !uniform && cost_of_line(line[kept], line[i + 1]) > (by_turns + costs[i + 1]) * (1 + 1e-6);
    const bool closed =
        searcher.closed && lines_cross(searcher.closed->from, searcher.closed->to, line[kept], line[i + 1]);
    if (!dearer && !closed && clear_line(number, line[kept], line[i + 1])) continue;
    line[++kept] = line[i];
    by_turns = 0;
  }
  line[++kept] = line.back();
  line.resize(kept + 1);
}

bool TileGround::Impl::reachable(const Spot& from, const Spot& to) const {
  if (!known(from, to)) return false;
  const TileLayer& layer = *width(from.layer).made;
  return layer.components().joined(layer.map(), home_of(from), home_of(to));
}

float TileGround::Impl::distance(const Spot& from, const Spot& to) const {
  Route way;
  route(from, to, way);
  return way.complete ? way.length_xy : std::numeric_limits<float>::infinity();
}

}  // namespace ambulon
