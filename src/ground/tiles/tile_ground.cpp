#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>
#include <glm/common.hpp>
#include <glm/vector_relational.hpp>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/problem.hpp"

#include "base/assert.hpp"
#include "base/circle.hpp"
#include "base/disc.hpp"
#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/arguments.hpp"
#include "ground/tiles/tile_ground_impl.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "ground/tiles/tile_sweep.hpp"

namespace ambulon {
namespace {

constexpr float inset = 1e-4f;       // of a cell: distance of points from edges of blocked cells
constexpr float max_radius = 50.f;   // metres, as of a body
constexpr float min_radius = 0.01f;  // of a cell: minimum radius if corners may not be cut
constexpr int draws = 64;            // attempts for a random spot; then it is chosen from all cells around

}  // namespace

TileGround::Impl::Impl(const TileGround& self, TileMap map, const TileGroundOptions& options)
    : self_(self),
      along_cells_(options.along_cells),
      far_cells_(options.far_cells),
      memory_(options.memory),
      base_(std::move(map), options.memory) {}

// --- Body widths ------------------------------------------------------------------------------

/// Returns the number of the width for `radius`; creates it if there is none. Bodies wider than the map find
/// no room on it, whatever their width.
std::uint16_t TileGround::Impl::width_for(float radius) const {
  const float cell = map().cell_size();
  const auto cells = static_cast<float>(std::max(map().width(), map().height()) + 1);
  radius = std::fmin(std::fmax(radius, 0.f), std::fmin(max_radius, cells * cell));
  const bool as_point = map().rules().corners != Corners::both_free && radius <= 0.5f * cell;
  // Rounded up to 1/32 cell, so that slightly different bodies share a width.
  const float kept =
      as_point ? 0.f : std::max(min_radius * cell, std::ceil(radius / cell * 32 - 1e-3f) / 32 * cell);
  return widths_.number_for({.radius = kept}, [&]() -> const TileLayer* {
    const auto known = [&]() -> const TileLayer* {
      if (base_.serves(kept)) return &base_;
      for (const auto& layer : wide_layers_)
        if (layer->serves(kept)) return layer.get();
      return nullptr;
    };
    {
      const std::scoped_lock lock(wide_mutex_);
      if (const TileLayer* layer = known()) return layer;
    }
    auto made = std::make_unique<TileLayer>(map(), kept, memory_);
    const std::scoped_lock lock(wide_mutex_);
    if (const TileLayer* layer = known()) return layer;  // another thread was faster
    return wide_layers_.emplace_back(std::move(made)).get();
  });
}

/// Returns true for a spot of this ground.
bool TileGround::Impl::known(const Spot& spot) const {
  const auto cells = static_cast<std::uint64_t>(map().width()) * static_cast<std::uint64_t>(map().height());
  const vec2 at = flat(spot.position), far = map().corner({map().width(), map().height()});
  const float rounding = 0.01f * map().cell_size();
  const bool known = spot.layer < widths_.count() && spot.piece < cells && finite(spot.position) &&
                     glm::all(glm::greaterThanEqual(at, map().origin() - rounding)) &&
                     glm::all(glm::lessThanEqual(at, far + rounding));
  AMBULON_ASSERT(known, "the spot is none of this ground");
  return known;
}
bool TileGround::Impl::known(const Spot& from, const Spot& to) const {
  AMBULON_ASSERT(from.layer == to.layer, "the spots are for bodies of different sizes");
  return known(from) && known(to) && from.layer == to.layer;
}

// --- Spots ------------------------------------------------------------------------------------

/// Returns the spot at exactly that position; nothing if the body cannot stand there.
std::optional<Spot> TileGround::Impl::spot_at(std::uint16_t number, vec2 at) const {
  const Width& body = width(number);
  const TileMap& cells = map_for(body);
  const Cell here = cells.cell_at(at);
  if (!cells.inside(here)) return std::nullopt;
  const Spot spot{.position = lift(at), .piece = cells.index(here), .layer = number};
  if (body.radius <= 0.f) return cells.free(here) ? std::optional(spot) : std::nullopt;
  if (ambulon::clearance(map(), at, body.radius) < body.radius - 3 * inset * cells.cell_size())
    return std::nullopt;
  if (cells.free(here) && body.radius <= 0.5f * cells.cell_size()) return spot;
  // A wide body may stand where the centre of the cell is too narrow, if a nearby cell can be reached.
  std::optional<Spot> nearest;
  float min = std::numeric_limits<float>::infinity();
  const int around = 1 + static_cast<int>(std::ceil(body.radius / cells.cell_size()));
  for (int y = -around; y <= around; ++y)
    for (int x = -around; x <= around; ++x) {
      const Cell cell{here.x + x, here.y + y};
      if (!cells.inside(cell) || !cells.free(cell)) continue;
      const float off = glm::length(cells.middle(cell) - at);
      if (off >= min || !sweep(map(), at, cells.middle(cell) - at, body.radius).free()) continue;
      min = off;
      nearest = Spot{.position = lift(at), .piece = cells.index(cell), .layer = number};
    }
  return nearest;
}

/// Returns a spot near `near` in a free cell of the layer or beside it, no further off than its centre.
Spot TileGround::Impl::spot_in(std::uint16_t number, Cell cell, vec2 near) const {
  const Width& body = width(number);
  // A wide body may stand beyond the cell, if the centre of the next cell is too narrow.
  const float size = map().cell_size(), away = body.radius > 0.5f * size ? size : size * (0.5f - inset);
  const vec2 middle = map().middle(cell), half(away);
  const vec2 inside = glm::clamp(near, middle - half, middle + half);
  const Spot spot{.position = lift(inside), .piece = map().index(cell), .layer = number};
  if (body.radius <= 0.f) return spot;
  const auto there = spot_at(number, pushed_clear(map(), inside, body.radius));
  if (there && glm::length(flat(there->position) - near) <= glm::length(middle - near)) return *there;
  return {.position = lift(middle), .piece = spot.piece, .layer = number};
}

/// Returns the nearest spot in a cell with `allowed(cell)`. Searches in square rings around `at`.
template <class Allowed>
Snap TileGround::Impl::nearest(std::uint16_t number, vec2 at, float reach, Allowed&& allowed) const {
  const TileMap& cells = map_for(width(number));
  const Cell here = cells.cell_at(at);
  const Cell centre{std::clamp(here.x, 0, cells.width() - 1), std::clamp(here.y, 0, cells.height() - 1)};
  const vec2 rim = glm::clamp(at, cells.origin(), cells.corner({cells.width(), cells.height()}));
  const float outside = glm::length(rim - at);
  Snap best{.off = std::numeric_limits<float>::infinity()};
  const auto look = [&](Cell cell) {
    if (!cells.inside(cell) || !cells.free(cell) || !allowed(cell)) return;
    const Spot spot = spot_in(number, cell, at);
    const float off = glm::length(flat(spot.position) - at);
    if (off < best.off) best = {.spot = spot, .off = off, .found = true, .within = off <= reach};
  };
  const dvec2 place = (dvec2(at) - dvec2(cells.origin())) / static_cast<double>(cells.cell_size());
  constexpr double aside = 1;  // cells by which a spot may lie beside its cell
  // Searches a row or a column, as far as it is inside the map and may contain a nearer spot.
  const auto look_along = [&](Cell from, Cell to) {
    from = {std::max(from.x, 0), std::max(from.y, 0)};
    to = {std::min(to.x, cells.width() - 1), std::min(to.y, cells.height() - 1)};
    if (best.found) {
      const dvec2 low(from.x, from.y), high(to.x, to.y);
      const dvec2 gap = glm::max(glm::max(low - aside - place, place - high - aside - 1.0), 0.0);
      const double max = static_cast<double>(best.off) / static_cast<double>(cells.cell_size());
      const dvec2 left = max * max - dvec2(gap.y * gap.y, gap.x * gap.x);
      if (left.x < 0 || left.y < 0) return;
      const dvec2 around = glm::sqrt(left) + aside + 1.0;
      const dvec2 first = glm::clamp(glm::floor(place - around), low, high + 1.0),
                  last = glm::clamp(glm::floor(place + around), low - 1.0, high);
      from = {static_cast<int>(first.x), static_cast<int>(first.y)};
      to = {static_cast<int>(last.x), static_cast<int>(last.y)};
    }
    for (int y = from.y; y <= to.y; ++y)
      for (int x = from.x; x <= to.x; ++x) look({x, y});
  };
  const int rings = std::max(cells.width(), cells.height());
  for (int ring = 0; ring <= rings; ++ring) {
    // Stops when no further ring can contain a nearer spot.
    const float beyond = static_cast<float>(std::max(ring - 2, 0)) * cells.cell_size();
    if (best.found && std::hypot(outside, beyond) > best.off) break;
    const Cell low{centre.x - ring, centre.y - ring}, high{centre.x + ring, centre.y + ring};
    look_along(low, {high.x, low.y});
    if (ring == 0) continue;
    look_along({low.x, high.y}, high);
    look_along({low.x, low.y + 1}, {low.x, high.y - 1}),
        look_along({high.x, low.y + 1}, {high.x, high.y - 1});
  }
  return best.found ? best : Snap{};
}

Snap TileGround::Impl::snap(vec3 point, float reach, const Body& body) const {
  if (!finite(point)) return {};
  const std::uint16_t number = width_for(body.radius);
  if (const auto spot = spot_at(number, flat(point))) return {.spot = *spot, .found = true, .within = true};
  return nearest(number, flat(point), reach, [](Cell) { return true; });
}

Snap TileGround::Impl::nearest_reachable(const Spot& from, vec3 goal) const {
  if (!finite(goal) || !known(from)) return {};
  const TileLayer& layer = *width(from.layer).made;
  const Cell home = home_of(from);
  const auto spot = spot_at(from.layer, flat(goal));
  if (spot && layer.components().joined(layer.map(), home, layer.map().cell_of(spot->piece)))
    return {.spot = *spot, .found = true, .within = true};
  const std::uint32_t component = layer.components().component(layer.map(), home);
  if (component == 0) return {};
  return nearest(from.layer, flat(goal), 0.f,
                 [&](Cell cell) { return layer.components().component(layer.map(), cell) == component; });
}

Spot TileGround::Impl::random_spot(Random& random, const Spot& around, float radius) const {
  if (!known(around)) return around;
  const TileLayer& layer = *width(around.layer).made;
  const TileMap& cells = layer.map();
  const Cell home = home_of(around);
  const vec2 centre = flat(around.position);
  const std::uint32_t component = layer.components().component(cells, home);
  const auto reachable = [&](Cell cell) { return layer.components().component(cells, cell) == component; };
  for (int draw = 0; draw < draws; ++draw) {
    const vec2 at = centre + point_in_disc(random, radius);
    const auto spot = spot_at(around.layer, at);
    if (spot && reachable(cells.cell_of(spot->piece))) return *spot;
  }
  // Almost nothing of the circle is reachable: chooses one of its cells, uniformly.
  Spot chosen = around;
  std::uint32_t count = 0;
  const CellBox box = cells.cells_in(centre - radius, centre + radius);
  for (int y = box.low.y; y <= box.high.y; ++y)
    for (int x = box.low.x; x <= box.high.x; ++x) {
      const vec2 middle = cells.middle({x, y});
      if (component == 0 || !reachable({x, y}) || glm::length(middle - centre) > radius) continue;
      if (random.below(++count) == 0)
        chosen = {.position = lift(middle), .piece = cells.index({x, y}), .layer = around.layer};
    }
  return chosen;
}

// --- Straight lines ---------------------------------------------------------------------------

Stretch TileGround::Impl::straight(const Spot& from, vec2 way) const {
  if (!known(from)) return {.end = from, .metres = 0.f, .free = false, .inward = -direction(way)};
  const Width& body = width(from.layer);
  const vec2 start = flat(from.position);
  if (body.radius <= 0.f) return straight_of_point(from.layer, start, home_of(from), way);
  const Sweep swept = sweep(map(), start, way, body.radius);
  return {.end = spot_on_line(from, start + swept.part * way),
          .metres = swept.part * glm::length(way),
          .free = swept.free(),
          .inward = swept.inward};
}

Clearance TileGround::Impl::clearance(const Spot& spot, float max) const {
  if (!(max > 0.f) || !known(spot)) return {};
  const float radius = width(spot.layer).radius;
  const float free = ambulon::clearance(map(), flat(spot.position), radius + max);
  return {.metres = std::max(0.f, free - radius), .level = true};
}

/// Returns the spot at the end of a straight walk. If rounding puts it into a wall, it is moved back by the
/// tolerance.
Spot TileGround::Impl::spot_on_line(const Spot& from, vec2 at) const {
  if (const auto spot = spot_at(from.layer, at)) return *spot;
  const vec2 back = at + 4 * inset * map().cell_size() * direction(flat(from.position) - at);
  if (const auto spot = spot_at(from.layer, back)) return *spot;
  return {.position = lift(at), .piece = from.piece, .layer = from.layer};  // a wide body beside a wall
}

/// J. Amanatides and A. Woo, "A Fast Voxel Traversal Algorithm for Ray Tracing" (1987).
Stretch TileGround::Impl::straight_of_point(std::uint16_t number, vec2 start, Cell cell, vec2 way) const {
  const TileMap& cells = map();
  const float size = cells.cell_size();
  const float metres = glm::length(way);
  const Cell step{way.x > 0.f ? 1 : -1, way.y > 0.f ? 1 : -1};
  // The fractions of the line, 0 to 1, at which it leaves the present cell in x and y.
  const auto leaves = [&](int axis) {
    if (way[axis] == 0.f) return std::numeric_limits<double>::infinity();
    const int line = (axis == 0 ? cell.x : cell.y) + (way[axis] > 0.f ? 1 : 0);
    const double edge =
        static_cast<double>(cells.origin()[axis]) + static_cast<double>(line) * static_cast<double>(size);
    return std::max(0.0, (edge - static_cast<double>(start[axis])) / static_cast<double>(way[axis]));
  };
  const auto cut_short = [&](double part, vec2 inward) {
    const vec2 end = start + static_cast<float>(std::min(1.0, part)) * way;
    const Spot spot = spot_in(number, cell, end);
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
      const bool between = !cells.free(beside) && !cells.free(above);
      if (!cells.free(next) || (between && cells.rules().corners != Corners::cut))
        return cut_short(x, direction(-way));
      cell = next;
    } else if (x < y) {
      if (!cells.free(beside)) return cut_short(x, {static_cast<float>(-step.x), 0.f});
      cell = beside;
    } else {
      if (!cells.free(above)) return cut_short(y, {0.f, static_cast<float>(-step.y)});
      cell = above;
    }
  }
  return {.end = {.position = lift(start + way), .piece = cells.index(cell), .layer = number},
          .metres = metres};
}

bool TileGround::Impl::sight(const Spot& from, const Spot& to) const {
  if (!known(from) || !finite(to.position)) return false;
  const float radius = width(from.layer).radius;
  const vec2 start = flat(from.position), way = flat(to.position) - start;
  if (radius > 0.f) return sweep(map(), start, way, radius).free();
  return straight_of_point(from.layer, start, home_of(from), way).free;
}

// --- Changes ----------------------------------------------------------------------------------

/// Changes cells with `change(map, cell)`, and updates everything that depends on them.
template <class Change>
void TileGround::Impl::edit(CellBox box, bool opens, Change&& change) {
  if (box.empty()) return;  // a barrier outside the map
  base_.edit(box, change);
  for (const auto& layer : wide_layers_) layer->take_in(map(), box);
  edits_.add(box, opens);
}

Expected<Cell> TileGround::Impl::set(Cell cell, std::uint8_t value) {
  if (auto filled = fill({cell, cell}, value); !filled) return tl::unexpected(filled.error());
  return cell;
}

Expected<CellBox> TileGround::Impl::fill(CellBox box, std::uint8_t value) {
  const CellBox inside{{std::max(0, box.low.x), std::max(0, box.low.y)},
                       {std::min(map().width() - 1, box.high.x), std::min(map().height() - 1, box.high.y)}};
  if (inside.empty())
    return problem(fmt::format("cells ({}, {}) to ({}, {}) lie outside of the map of {} by {} cells",
                               box.low.x, box.low.y, box.high.x, box.high.y, map().width(), map().height()));
  if (const std::size_t count = map().terrains().size(); count > 0 && value >= count)
    return problem(fmt::format("terrain number {}; the map has {}, counted from 0", value, count));
  // The value was checked, and covered cells stay covered.
  const bool opens = map().cost_of(value) != TileMap::blocked;
  edit(inside, opens, [&](TileMap& cells, Cell cell) { (void)cells.set(cell, value); });
  return inside;
}

bool TileGround::Impl::covered(Cell cell, std::span<const PlacedBarrier* const> near) const {
  const vec2 low = map().corner(cell), high = map().corner({cell.x + 1, cell.y + 1});
  return std::ranges::any_of(near, [&](const PlacedBarrier* placed) {
    return placed->barrier.cost() == 0.f && placed->barrier.overlaps(low, high);
  });
}

void TileGround::Impl::barrier_changed(const Barrier& barrier, bool gone) {
  const CellBox box = map().cells_in(barrier.min(), barrier.max());
  const auto near = barriers_in(box);
  edit(box, gone, [&](TileMap& cells, Cell cell) { cells.cover(cell, covered(cell, near)); });
}

/// Returns the barriers that may cover cells of a box.
std::vector<const PlacedBarrier*> TileGround::Impl::barriers_in(CellBox box) const {
  return self_.barriers_near(map().corner(box.low), map().corner({box.high.x + 1, box.high.y + 1}));
}

bool TileGround::Impl::changed_along(std::span<const vec3> bends, const Body& body,
                                     std::uint64_t since) const {
  const auto edits = edits_since(since);
  if (!edits) return true;
  for (const Edit& edit : *edits) {
    const vec2 low = map().corner(edit.box.low) - body.radius,
               high = map().corner({edit.box.high.x + 1, edit.box.high.y + 1}) + body.radius;
    for (std::size_t i = 1; i < bends.size(); ++i)
      if (crosses_box(flat(bends[i - 1]), flat(bends[i]), low, high)) return true;
  }
  return false;
}

bool TileGround::Impl::may_shorten(vec3 from, vec3 to, float left, const Body& body,
                                   std::uint64_t since) const {
  const auto edits = edits_since(since);
  if (!edits) return true;
  const float dearest = map().dearest();
  return std::ranges::any_of(*edits, [&](const Edit& edit) {
    const vec2 low = map().corner(edit.box.low) - body.radius,
               high = map().corner({edit.box.high.x + 1, edit.box.high.y + 1}) + body.radius;
    return edit.opens && metres_by_box(flat(from), flat(to), low, high) < dearest * left;
  });
}

// --- The public functions ---------------------------------------------------------------------

TileGround::TileGround(TileMap map, const TileGroundOptions& options)
    : impl_(std::make_unique<Impl>(*this, std::move(map), options)) {}

TileGround::~TileGround() = default;

const TileMap& TileGround::map() const { return impl_->map(); }

const TileLayer& TileGround::layer(float radius) const { return impl_->layer(radius); }

Expected<Cell> TileGround::set(Cell cell, std::uint8_t value) { return impl_->set(cell, value); }

Expected<CellBox> TileGround::fill(CellBox box, std::uint8_t value) { return impl_->fill(box, value); }

Snap TileGround::snap(vec3 point, float reach, const Body& body) const {
  return impl_->snap(point, reach, body);
}

void TileGround::route(const Spot& from, const Spot& to, Route& route) const {
  impl_->route(from, to, route);
}

void TileGround::detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max,
                        Route& route) const {
  impl_->detour(from, to, jam, max, route);
}

bool TileGround::shares_routes(const Spot& to, std::span<const Spot> from) const {
  return impl_->shares_routes(to, from);
}

void TileGround::routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const {
  impl_->routes_to(to, from, ways);
}

bool TileGround::sight(const Spot& from, const Spot& to) const { return impl_->sight(from, to); }

Stretch TileGround::straight(const Spot& from, vec2 way) const {
  return impl_->straight(from, usable_way(way));
}

Clearance TileGround::clearance(const Spot& spot, float max) const {
  return impl_->clearance(spot, usable_metres(max));
}

Spot TileGround::random_spot(Random& random, const Spot& around, float radius) const {
  return impl_->random_spot(random, around, usable_metres(radius));
}

Snap TileGround::nearest_reachable(const Spot& from, vec3 goal) const {
  return impl_->nearest_reachable(from, goal);
}

float TileGround::distance(const Spot& from, const Spot& to) const { return impl_->distance(from, to); }

bool TileGround::reachable(const Spot& from, const Spot& to) const { return impl_->reachable(from, to); }

void TileGround::visit_surface(const Body& body, vec2 low, vec2 high, SurfaceVisitor& visitor) const {
  const TileMap& cells = impl_->layer(body.radius).map();
  const auto [from, to] = cells.cells_in(low, high);
  const auto corner = [&](int x, int y) { return lift(cells.corner({x, y})); };
  for (int y = from.y; y <= to.y; ++y)
    for (int x = from.x, first = x; x <= to.x; first = ++x) {
      // Consecutive free cells of a row form one rectangle.
      for (; x <= to.x && cells.free({x, y}); ++x) {
        if (!cells.free({x, y - 1})) visitor.edge(corner(x, y), corner(x + 1, y));
        if (!cells.free({x, y + 1})) visitor.edge(corner(x + 1, y + 1), corner(x, y + 1));
        if (!cells.free({x - 1, y})) visitor.edge(corner(x, y + 1), corner(x, y));
        if (!cells.free({x + 1, y})) visitor.edge(corner(x + 1, y), corner(x + 1, y + 1));
      }
      if (x > first)
        visitor.polygon(std::array{corner(first, y), corner(x, y), corner(x, y + 1), corner(first, y + 1)});
    }
}

const TileMap* TileGround::tiles(const Spot& spot) const { return impl_->tiles(spot); }

std::uint64_t TileGround::revision() const { return impl_->revision(); }

bool TileGround::changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const {
  return impl_->changed_along(bends, body, since);
}

bool TileGround::may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const {
  return impl_->may_shorten(from, to, left, body, since);
}

void TileGround::barrier_changed(const Barrier* was, const Barrier* now) {
  if (was != nullptr) impl_->barrier_changed(*was, true);
  if (now != nullptr) impl_->barrier_changed(*now, false);
}

}  // namespace ambulon
