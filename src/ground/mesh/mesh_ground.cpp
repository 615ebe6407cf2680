#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>
#include <glm/vector_relational.hpp>

#include "ambulon/base/problem.hpp"

#include "base/assert.hpp"
#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/arguments.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_ground_impl.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr double same_height = 1;          // millimetres
constexpr int max_corner_steps = 8;        // polygons at one corner: more are a cycle
constexpr double same_floor = 500;         // millimetres between a spot's height and its polygon
constexpr float beyond_edge = 0.01f;       // metres: extension of a closed line beyond the edges
constexpr std::size_t min_sharers = 64;    // of one search with the same goal, if they are close together
constexpr std::size_t sure_sharers = 256;  // anywhere
constexpr int draws = 64;                  // attempts for a random spot; then `around` is used

}  // namespace

MeshGroundImpl::MeshGroundImpl(Plan plan) : plan_(std::move(plan)) {
  for (const Plan::Region& region : plan_.regions) dearest_ = std::max(dearest_, region.cost);
}

MeshGroundImpl::MeshGroundImpl(LevelIndex level, Jobs jobs)
    : level_(std::move(level)), jobs_(std::move(jobs)) {
  for (const LevelIndex::Facet& facet : level_->facets()) dearest_ = std::max(dearest_, facet.cost);
}

Expected<void> check_plan(const Plan& plan) {
  if (const auto outlines = outlines_for(plan, 0.f); !outlines) return tl::unexpected(outlines.error());
  if (const auto regions = regions_of(plan); !regions) return tl::unexpected(regions.error());
  return {};
}

Expected<std::unique_ptr<MeshGround>> MeshGround::make(Plan plan) {
  if (const auto sound = check_plan(plan); !sound) return tl::unexpected(sound.error());
  return std::unique_ptr<MeshGround>(new MeshGroundImpl(std::move(plan)));
}

Expected<std::unique_ptr<MeshGround>> MeshGround::make(const Level& level, const LevelRules& rules,
                                                       Jobs jobs) {
  auto index = LevelIndex::make(level, rules);
  if (!index) return tl::unexpected(index.error());
  return std::unique_ptr<MeshGround>(new MeshGroundImpl(std::move(*index), std::move(jobs)));
}

namespace {

/// Returns the extreme corner of a plan or a level by `smaller(a, b)`; the origin if there are none.
template <class Smaller>
vec2 corner_of(const Plan& plan, const std::optional<LevelIndex>& level, Smaller&& smaller) {
  std::optional<vec2> corner;
  const auto add = [&](vec2 at) { corner = corner ? smaller(*corner, at) : at; };
  for (const Plan::Ring& ring : plan.outlines)
    for (const vec2 point : ring) add(point);
  if (level)
    for (const LevelIndex::Facet& facet : level->facets())
      for (const PlanPoint point : facet.corners) add(in_metres(to_vec(point)));
  return corner.value_or(vec2(0.f));
}

}  // namespace

vec2 MeshGroundImpl::min() const {
  return corner_of(plan_, level_, [](vec2 a, vec2 b) { return glm::min(a, b); });
}

vec2 MeshGroundImpl::max() const {
  return corner_of(plan_, level_, [](vec2 a, vec2 b) { return glm::max(a, b); });
}

// --- Spots ------------------------------------------------------------------------------------

/// Restricts a query to a height, on grounds with several floors.
ConvexMesh::Wanted MeshGroundImpl::near_height(float z) const {
  ConvexMesh::Wanted wanted;
  if (level_) wanted.height = per_metre * z;
  return wanted;
}

/// Returns a layer; an empty one, on which no query finds a place, for a spot of another ground.
const MeshGroundImpl::Layer& MeshGroundImpl::layer_of(std::uint16_t number) const {
  AMBULON_ASSERT(number < layers_.count(), "the spot is none of this ground");
  if (number < layers_.count()) return *layers_[number].made;
  static const Layer empty{{}, ConvexMesh(PatchGrid{}, std::vector<PatchPolygons>(1))};
  return empty;
}

/// Returns the place of a spot in the mesh of a layer. Positions of spots are rounded, polygons are not. If
/// the ground has changed, or the spot is of another layer, it is the nearest place. Nothing on an empty
/// mesh.
std::optional<MeshSearch::Place> MeshGroundImpl::place_of(const Spot& spot, std::uint16_t layer) const {
  AMBULON_ASSERT(layer == spot.layer, "the spots are for bodies of different sizes");
  const ConvexMesh& mesh = mesh_of(layer);
  const dvec2 at = in_mm(flat(spot.position));
  if (spot.piece < mesh.polygons().size() && mesh.polygons()[spot.piece].count > 0) {
    const dvec2 nearest = mesh.nearest_in(spot.piece, at);
    const double rounding = 2e-7 * (std::abs(at.x) + std::abs(at.y));
    const bool here =
        !level_ || std::abs(mesh.height(spot.piece, nearest) - per_metre * spot.position.z) < same_floor;
    if (here && glm::distance(nearest, at) <= tolerance::along_edge_mm + rounding)
      return MeshSearch::Place{nearest, spot.piece};
  }
  const ConvexMesh::Nearest nearest = mesh.nearest(at, near_height(spot.position.z));
  if (nearest.polygon == ConvexMesh::none) return {};
  return MeshSearch::Place{nearest.point, nearest.polygon};
}

Spot MeshGroundImpl::spot_at(const MeshSearch::Place& place, std::uint16_t number) const {
  const double height = mesh_of(number).height(place.polygon, place.at);
  return {.position = lift(in_metres(place.at), static_cast<float>(height / per_metre)),
          .piece = place.polygon,
          .layer = number};
}

Snap MeshGroundImpl::snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point,
                             float reach) const {
  if (nearest.polygon == ConvexMesh::none) return {};
  Snap snap{
      .spot = spot_at({nearest.point, nearest.polygon}, number), .off = 0.f, .found = true, .within = true};
  if (nearest.point == in_mm(flat(point))) snap.spot.position = lift(flat(point), snap.spot.position.z);
  snap.off = level_ ? glm::distance(snap.spot.position, point) : flat_distance(snap.spot.position, point);
  snap.within = snap.off <= reach;
  return snap;
}

Snap MeshGroundImpl::snap(vec3 point, float reach, const Body& body) const {
  if (!finite(point)) return {};
  const std::uint16_t number = number_for(body);
  return snap_to(mesh_of(number).nearest(in_mm(flat(point)), near_height(point.z)), number, point, reach);
}

Snap MeshGroundImpl::snap_near(const Spot& known, vec3 point, float reach, const Body& body) const {
  const ConvexMesh& mesh = mesh_of(known.layer);
  const dvec2 at = in_mm(flat(point));
  const bool there = finite(point) && known.piece < mesh.polygons().size() &&
                     mesh.polygons()[known.piece].count > 0 && mesh.holds(known.piece, at) &&
                     (!level_ || std::abs(mesh.height(known.piece, at) - per_metre * point.z) < same_height);
  return there ? snap_to({known.piece, at}, known.layer, point, reach) : snap(point, reach, body);
}

Snap MeshGroundImpl::snap(vec3 point, const Reach& reach, const Body& body) const {
  if (!finite(point)) return {};
  const std::uint16_t number = number_for(body);
  ConvexMesh::Wanted wanted = near_height(point.z);
  wanted.up = per_metre * reach.up, wanted.down = per_metre * reach.down;
  Snap snap = snap_to(mesh_of(number).nearest(in_mm(flat(point)), wanted), number, point, 0.f);
  snap.within = snap.found && flat_distance(snap.spot.position, point) <= reach.aside;
  return snap;
}

Snap MeshGroundImpl::nearest_reachable(const Spot& from, vec3 goal) const {
  if (!finite(goal)) return {};
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto home = place_of(from);
  if (!home) return {};
  ConvexMesh::Wanted wanted = near_height(goal.z);
  const auto loan = helpers_.borrow();
  layer_of(from.layer).crossings.reach_from(mesh, home->polygon, (*loan).reached);
  wanted.components = &(*loan).reached.components;
  return snap_to(mesh.nearest(in_mm(flat(goal)), wanted), from.layer, goal, 0.f);
}

namespace {

/// Returns the length of a path on the plan, millimetres.
double distance_along(std::span<const MeshSearch::Bend> path) {
  double distance = 0;
  for (std::size_t i = 1; i < path.size(); ++i) distance += glm::distance(path[i - 1].at, path[i].at);
  return distance;
}

}  // namespace

/// Draws from the polygons in the bounding square of the circle, by area, until a spot is within walking
/// distance.
Spot MeshGroundImpl::random_spot(Random& random, const Spot& around, float radius) const {
  const ConvexMesh& mesh = mesh_of(around.layer);
  const auto home = place_of(around);
  if (!home) return around;
  // Only places from which the NPC can return.
  const MeshCrossings& crossings = layer_of(around.layer).crossings;
  const std::uint32_t region = crossings.region(mesh, home->polygon);
  const double reach = std::min(static_cast<double>(usable_metres(radius)) * per_metre, 4.0 * PlanPoint::max);
  const dvec2 low = home->at - reach, high = home->at + reach;
  const auto loan = helpers_.borrow();
  MeshPart& part = (*loan).part;
  // Polygons that cross the square are clipped.
  const auto area_of = [&](std::uint32_t polygon) {
    const ConvexMesh::Polygon& box = mesh.polygons()[polygon];
    if (crossings.region(mesh, polygon) != region) return 0.0;
    if (box.low.x >= low.x && box.low.y >= low.y && box.high.x <= high.x && box.high.y <= high.y)
      return mesh.area(polygon);
    part.cut_out(mesh, polygon, low, high);
    return part.area();
  };
  // First draws a patch by its reachable area, then one of its polygons.
  auto& shares = (*loan).shares;
  shares.clear();
  double area = 0;
  mesh.each_patch_near(low, high, [&](std::uint32_t patch) {
    const Square& square = mesh.square(patch);
    const dvec2 corner = to_vec(square.low), far = corner + static_cast<double>(square.size);
    const double before = area;
    if (square.size > 0 && glm::all(glm::greaterThanEqual(corner, low)) &&
        glm::all(glm::lessThanEqual(far, high)))
      mesh.each_area_in(patch, [&](std::uint32_t component, double square_mm) {
        if (crossings.region_of(component) == region) area += square_mm;
      });
    else
      mesh.each_polygon_in(patch, [&](std::uint32_t polygon) { area += area_of(polygon); });
    if (area > before) shares.push_back({patch, area});
  });
  for (int draw = 0; draw < draws && area > 0; ++draw) {
    const double drawn = area * static_cast<double>(random.fraction());
    auto share = std::ranges::upper_bound(shares, drawn, {}, &Helper::Share::until);
    if (share == shares.end()) --share;
    double left = drawn - (share == shares.begin() ? 0 : (share - 1)->until);
    std::uint32_t chosen = ConvexMesh::none;
    mesh.each_polygon_in(share->patch, [&](std::uint32_t polygon) {
      const double here = left < 0 ? 0 : area_of(polygon);
      if (here > 0) chosen = polygon;
      left -= here;
    });
    if (chosen == ConvexMesh::none) continue;
    part.cut_out(mesh, chosen, low, high);
    const dvec2 point = part.point(random);
    if (glm::distance(point, home->at) > reach) continue;
    const MeshSearch::Place there{mesh.nearest_in(chosen, point), chosen};
    MeshSearch& search = (*loan).search;
    const bool near =
        std::isinf(radius) || (search.find(mesh, *home, there, crossings) &&
                               distance_along(search.path()) <= reach + tolerance::along_edge_mm);
    if (near) return spot_at(there, around.layer);
  }
  return spot_at(*home, around.layer);
}

// --- Routes -----------------------------------------------------------------------------------

namespace {

/// Writes the bends of a path.
void lay_along(std::span<const MeshSearch::Bend> path, Route& route) {
  for (const MeshSearch::Bend& bend : path)
    route.bends.push_back(lift(in_metres(bend.at), static_cast<float>(bend.height / per_metre)));
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    route.length_xy += flat_distance(route.bends[i - 1], route.bends[i]);
}

}  // namespace

/// Searches between two spots. Returns true if there is a path.
bool MeshGroundImpl::search(const Spot& from, const Spot& to, Helper& helper, Found& found) const {
  const auto start = place_of(from), goal = place_of(to, from.layer);
  if (!start || !goal) return false;
  const Layer& layer = layer_of(from.layer);
  MeshSearch& search = helper.search;
  const bool there = search.find(layer.mesh, *start, *goal, layer.crossings);
  found = {search.length(), search.path(), search.crossed(), search.expanded()};
  return there;
}

void MeshGroundImpl::route(const Spot& from, const Spot& to, Route& route) const {
  route.clear();
  const auto loan = helpers_.borrow();
  Found found;
  const bool there = search(from, to, *loan, found);
  route.expanded = found.expanded;
  if (there) lay(found, layer_of(from.layer), route);
}

/// Writes the route of a search result.
void MeshGroundImpl::lay(const Found& found, const Layer& layer, Route& route) {
  route.complete = true;
  lay_along(found.path, route);
  const auto crossings = layer.crossings.all();
  for (const auto& [bend, crossing] : found.crossed)
    route.crossings.push_back(
        {bend, crossings[crossing].kind, static_cast<float>(crossings[crossing].over / per_metre)});
}

void MeshGroundImpl::detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max,
                            Route& route) const {
  route.clear();
  const auto start = place_of(from), goal = place_of(to, from.layer),
             middle = place_of(jam.middle, from.layer);
  if (!start || !goal || !middle || !jam.sound()) return;
  const Layer& layer = layer_of(from.layer);
  const auto loan = helpers_.borrow();
  auto& [search, part, reached, line, shares] = *loan;
  // Slightly extended, since its ends lie on edges only up to rounding.
  const vec2 along = direction(jam.left - jam.right);
  line.lay(layer.mesh, middle->at + in_mm(jam.right - beyond_edge * along),
           middle->at + in_mm(jam.left + beyond_edge * along), layer.mesh.height(middle->polygon, middle->at),
           same_floor);
  const bool there = search.find_round(layer.mesh, *start, *goal, layer.crossings, line, per_metre * max);
  route.expanded = search.expanded();
  if (there) lay({search.length(), search.path(), search.crossed()}, layer, route);
}

/// Spots that are closer to each other than to the goal share most of their routes. Otherwise the search
/// expands in all directions, which takes as long as some hundred searches.
bool MeshGroundImpl::shares_routes(const Spot& to, std::span<const Spot> from) const {
  if (from.size() < min_sharers || !layer_of(to.layer).crossings.all().empty()) return false;
  vec2 low = flat(from[0].position), high = low;
  for (const Spot& spot : from)
    low = glm::min(low, flat(spot.position)), high = glm::max(high, flat(spot.position));
  const bool together =
      glm::distance(flat(to.position), 0.5f * (low + high)) > 0.5f * glm::distance(low, high);
  return together || from.size() >= sure_sharers;
}

/// One search from the goal, whose paths are reversed.
void MeshGroundImpl::routes_to(const Spot& to, std::span<const Spot> from,
                               std::span<Route* const> ways) const {
  const auto goal = place_of(to);
  if (!goal) return Ground::routes_to(to, from, ways);
  std::vector<MeshSearch::Place> starts;
  for (const Spot& spot : from) starts.push_back(place_of(spot, to.layer).value_or(*goal));
  const auto loan = helpers_.borrow();
  MeshSearch& search = (*loan).search;
  search.find_all(mesh_of(to.layer), *goal, starts);
  for (std::size_t i = 0; i < from.size(); ++i) {
    Route& way = *ways[i];
    way.clear();
    way.complete = search.way_to(i);
    if (search.costly()) {
      route(from[i], to, way);
    } else if (way.complete) {
      lay_along(search.path(), way);
      std::ranges::reverse(way.bends);
    }
    way.expanded += search.expanded() / from.size();  // its share
  }
}

float MeshGroundImpl::distance(const Spot& from, const Spot& to) const {
  const auto loan = helpers_.borrow();
  Found found;
  return search(from, to, *loan, found) ? static_cast<float>(found.length / per_metre)
                                        : std::numeric_limits<float>::infinity();
}

bool MeshGroundImpl::reachable(const Spot& from, const Spot& to) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto start = place_of(from), goal = place_of(to, from.layer);
  const auto loan = helpers_.borrow();
  return start && goal &&
         layer_of(from.layer).crossings.reachable(mesh, start->polygon, goal->polygon, (*loan).reached);
}

bool MeshGroundImpl::sight(const Spot& from, const Spot& to) const {
  return straight(from, flat(to.position) - flat(from.position)).free;
}

/// Goes from polygon to polygon over the side that is hit first.
Stretch MeshGroundImpl::straight(const Spot& from, vec2 way) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto home = place_of(from);
  if (!home) return {.end = from, .metres = 0.f, .free = false, .inward = -direction(way)};
  const MeshSearch::Place& start = *home;
  way = usable_way(way);
  const dvec2 along = in_mm(way), end = start.at + along;
  const dvec2 ahead = tolerance::along_edge_mm / glm::length(along) * along;
  std::uint32_t polygon = start.polygon;
  double gone = 0;  // fraction of the line
  int corner_steps = 0;
  for (std::size_t steps = 0; steps < 2 * mesh.polygons().size() + 16; ++steps) {
    const ConvexMesh::Exit exit = mesh.exit_of(polygon, start.at, along, gone);
    if (exit.side == ConvexMesh::none)
      return {.end = spot_at({exit.inside ? end : mesh.nearest_in(polygon, end), polygon}, from.layer),
              .metres = glm::length(way),
              .free = true};
    const std::uint32_t across = mesh.sides()[exit.side].across;
    const dvec2 met = start.at + exit.part * along;
    const double off_corner =
        std::min(glm::distance(met, mesh.start_of(exit.side)), glm::distance(met, mesh.end_of(exit.side)));
    if (exit.part > gone) corner_steps = 0;
    if ((exit.part <= gone || across == ConvexMesh::none) && off_corner < tolerance::along_edge_mm &&
        corner_steps++ < max_corner_steps) {
      // At a corner several polygons meet: continues in the one that the line enters, if any. Bends lie on
      // corners up to rounding, so the corner need not be hit exactly.
      ConvexMesh::Wanted beside{
          .down = same_floor, .up = same_floor, .in_space = false, .within = 0.5 * tolerance::along_edge_mm};
      if (level_) beside.height = mesh.height(polygon, met);
      const ConvexMesh::Nearest next = mesh.nearest(met + ahead, beside);
      if (next.polygon != ConvexMesh::none && next.polygon != polygon) {
        polygon = next.polygon, gone = exit.part;
        continue;
      }
    }
    gone = exit.part;
    if (across == ConvexMesh::none) {
      const vec2 edge = direction(vec2(mesh.end_of(exit.side) - mesh.start_of(exit.side)));
      return {.end = spot_at({mesh.nearest_in(polygon, met), polygon}, from.layer),
              .metres = static_cast<float>(gone) * glm::length(way),
              .free = false,
              .inward = {-edge.y, edge.x}};
    }
    polygon = mesh.sides()[across].polygon;
  }
  // More polygons than there are: returns the point reached.
  return {.end = spot_at({mesh.nearest_in(polygon, start.at + gone * along), polygon}, from.layer),
          .metres = static_cast<float>(gone) * glm::length(way),
          .free = false,
          .inward = -direction(way)};
}

}  // namespace ambulon
