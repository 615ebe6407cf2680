#include "ambulon/ground/mesh/mesh_ground.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>

#include "ambulon/base/circle.hpp"

namespace ambulon {
namespace {

constexpr double per_metre = 1000.0;  // millimetres
constexpr float width_step = 0.005f;  // metres by which widths are told apart
// Millimetres by which a straight walk may end beyond an edge that it goes along.
constexpr double skin = 0.1;
constexpr int patch_size = 16'000;   // millimetres
constexpr double same_place = 1e-6;  // millimetres
constexpr int draws = 64;            // for a random spot, before it is where one is

dvec2 in_mm(vec2 metres) { return per_metre * dvec2(metres); }
vec2 in_metres(dvec2 mm) { return vec2(mm / per_metre); }

/// Where a spot is in its polygon: positions are rounded, polygons are not. Where the ground has changed, it
/// is the nearest place there is now; nothing when there is none at all.
std::optional<MeshSearch::Place> place_of(const ConvexMesh& mesh, const Spot& spot) {
  const dvec2 at = in_mm(flat(spot.position));
  if (spot.piece < mesh.polygons().size() && mesh.polygons()[spot.piece].count > 0) {
    const dvec2 nearest = mesh.nearest_in(spot.piece, at);
    const double rounding = 2e-7 * (std::abs(at.x) + std::abs(at.y));
    if (glm::distance(nearest, at) <= skin + rounding) return MeshSearch::Place{nearest, spot.piece};
  }
  const ConvexMesh::Nearest nearest = mesh.nearest(at);
  if (nearest.polygon == ConvexMesh::none) return {};
  return MeshSearch::Place{nearest.point, nearest.polygon};
}

Spot spot_at(const MeshSearch::Place& place, std::uint16_t number) {
  return {.position = lift(in_metres(place.at)), .piece = place.polygon, .layer = number};
}

/// The box, in millimetres, beyond which a barrier is in no body's way whose radius is so many metres.
std::pair<dvec2, dvec2> reach_of(const Barrier& barrier, float radius) {
  const double margin = per_metre * radius + 2;  // for rounding
  return {in_mm(barrier.least()) - margin, in_mm(barrier.most()) + margin};
}

/// Where a straight way leaves a polygon.
struct Exit {
  std::uint32_t side = ConvexMesh::none;  // `none`: it ends inside
  double part = 1;                        // of the way
};

/// The way goes from `start` along `along`; the part `gone` of it lies behind.
Exit exit_of(const ConvexMesh& mesh, std::uint32_t polygon, dvec2 start, dvec2 along, double gone) {
  Exit exit;
  double off_exit = 0;
  const ConvexMesh::Polygon& around = mesh.polygons()[polygon];
  for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
    const dvec2 a = mesh.start_of(side), edge = mesh.end_of(side) - a;
    const double length = glm::length(edge), slope = cross(edge, along),
                 beyond = -cross(edge, start + along - a) / length;
    const bool open = mesh.sides()[side].across != ConvexMesh::none;
    if (slope >= 0 || beyond <= (open ? 0 : skin)) continue;  // it does not lead out there
    const double part = std::max(gone, -cross(edge, start - a) / slope);
    // The line of a side may be met beyond its ends, where another side lies on it; of two that meet there,
    // the nearer.
    const double place = glm::dot(start + part * along - a, edge) / length;
    const double off = std::max({0.0, -place, place - length});
    if (off > skin) continue;
    const bool same =
        exit.side != ConvexMesh::none && std::abs(part - exit.part) < same_place / glm::length(along);
    if (same ? off < off_exit || (off == off_exit && open) : part < exit.part)
      exit = {side, part}, off_exit = off;
  }
  return exit;
}

}  // namespace

Expected<std::unique_ptr<MeshGround>> MeshGround::make(Plan plan) {
  const auto outlines = outlines_for(plan, 0.f);
  if (!outlines) return tl::unexpected(outlines.error());
  return std::unique_ptr<MeshGround>(new MeshGround(std::move(plan)));
}

/// The number of the mesh for bodies of `radius`; made when there is none yet.
std::uint16_t MeshGround::width_for(float radius) const {
  const float kept = std::fmin(std::fmax(std::ceil(radius / width_step - 1e-3f) * width_step, 0.f), 50.f);
  return layers_.number_for(kept, [&] { return make_layer(kept); });
}

std::unique_ptr<MeshGround::Layer> MeshGround::make_layer(float radius) const {
  const Outlines outlines = outlines_for(plan_, radius).value_or(Outlines{});  // it was checked
  PlanPoint low{0, 0}, high{0, 0};
  if (!outlines.empty()) low = high = outlines[0][0];
  for (const auto& outline : outlines)
    for (const PlanPoint p : outline) {
      low = {std::min(low.x, p.x), std::min(low.y, p.y)};
      high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    }
  const PatchGrid grid = patches_for(low, high, patch_size);
  std::vector<Outlines> free = cut_into_patches(outlines, grid);
  std::vector<PatchPolygons> made;
  for (std::uint32_t patch = 0; patch < grid.count(); ++patch)
    made.push_back(polygons(free[patch], grid, patch, radius));
  return std::make_unique<Layer>(Layer{std::move(free), ConvexMesh(grid, std::move(made))});
}

/// Those of a patch, with the barriers as they lie now.
PatchPolygons MeshGround::polygons(const Outlines& free, const PatchGrid& grid, std::uint32_t patch,
                                   float radius) const {
  const double west = grid.low.x + static_cast<double>(grid.column(patch)) * grid.size,
               south = grid.low.y + static_cast<double>(grid.row(patch)) * grid.size;
  Outlines taken;
  for (const PlacedBarrier& placed : barriers()) {
    const auto [low, high] = reach_of(placed.barrier, radius);
    if (low.x > west + grid.size || low.y > south + grid.size || high.x < west || high.y < south) continue;
    const Outlines grown = outlines_of(placed.barrier, radius);
    taken.insert(taken.end(), grown.begin(), grown.end());
  }
  if (taken.size() > 1) taken = united(taken);
  taken = cut_to_square(taken, grid.square(patch));
  auto triangulation = Triangulation::make(free, taken);
  // Where outlines cross too often to be told apart, it helps to do away with the crossings first.
  if (!triangulation) triangulation = Triangulation::make(without(free, taken));
  return triangulation ? polygons_of(*triangulation) : PatchPolygons{};
}

void MeshGround::barrier_changed(const Barrier& barrier) {
  for (std::uint16_t number = 0; number < layers_.count(); ++number) {
    const float radius = layers_[number].radius;
    const auto [low, high] = reach_of(barrier, radius);
    Layer& layer = *layers_[number].made;
    const PatchGrid& grid = layer.mesh.grid();
    std::vector<ConvexMesh::Change> changes;
    for (int row = grid.row_at(low.y); row <= grid.row_at(high.y); ++row)
      for (int column = grid.column_at(low.x); column <= grid.column_at(high.x); ++column) {
        const std::uint32_t patch = grid.number(column, row);
        changes.push_back({patch, polygons(layer.free[patch], grid, patch, radius)});
      }
    layer.mesh.replace(std::move(changes));
  }
  edits_.add({barrier.least(), barrier.most()});
}

bool MeshGround::changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const {
  const auto edits = edits_.since(since);
  if (!edits) return true;
  const float margin = body.radius + 0.002f;  // for rounding
  return std::ranges::any_of(*edits, [&](const auto& edit) {
    for (std::size_t i = 1; i < bends.size(); ++i)
      if (crosses_box(flat(bends[i - 1]), flat(bends[i]), edit.box.low - margin, edit.box.high + margin))
        return true;
    return false;
  });
}

// --- Spots ------------------------------------------------------------------------------------

Snap MeshGround::snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point,
                         float reach) const {
  if (nearest.polygon == ConvexMesh::none) return {};
  Snap snap{
      .spot = spot_at({nearest.point, nearest.polygon}, number), .off = 0.f, .found = true, .within = true};
  if (nearest.point == in_mm(flat(point)))
    snap.spot.position = lift(flat(point));
  else
    snap.off = flat_distance(snap.spot.position, point);
  snap.within = snap.off <= reach;
  return snap;
}

Snap MeshGround::snap(vec3 point, float reach, const Body& body) const {
  if (!finite(point)) return {};
  const std::uint16_t number = width_for(body.radius);
  const ConvexMesh& mesh = mesh_of(number);
  return snap_to(mesh.nearest(in_mm(flat(point))), number, point, reach);
}

Snap MeshGround::nearest_reachable(const Spot& from, vec3 goal) const {
  if (!finite(goal)) return {};
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto home = place_of(mesh, from);
  if (!home) return {};
  return snap_to(mesh.nearest(in_mm(flat(goal)), {.component = mesh.component(home->polygon)}), from.layer,
                 goal, 0.f);
}

/// Drawn from the polygons around, each cut to the square around the circle, by area; again where it lies
/// outside of the circle.
Spot MeshGround::random_spot(Random& random, const Spot& around, float radius) const {
  const ConvexMesh& mesh = mesh_of(around.layer);
  const auto home = place_of(mesh, around);
  if (!home) return around;
  const std::uint32_t component = mesh.component(home->polygon);
  const double reach = std::min(static_cast<double>(radius) * per_metre, 4.0 * PlanPoint::most);
  const dvec2 low = home->at - reach, high = home->at + reach;
  const auto loan = helpers_.borrow();
  MeshPart& part = (*loan).part;
  // Those that reach out of the square are cut.
  const auto area_of = [&](std::uint32_t polygon) {
    const ConvexMesh::Polygon& box = mesh.polygons()[polygon];
    if (mesh.component(polygon) != component) return 0.0;
    if (box.low.x >= low.x && box.low.y >= low.y && box.high.x <= high.x && box.high.y <= high.y)
      return mesh.area(polygon);
    part.cut_out(mesh, polygon, low, high);
    return part.area();
  };
  double area = 0;
  mesh.each_near(low, high, [&](std::uint32_t polygon) { area += area_of(polygon); });
  for (int draw = 0; draw < draws && area > 0; ++draw) {
    double left = area * static_cast<double>(random.fraction());
    std::uint32_t chosen = ConvexMesh::none;
    mesh.each_near(low, high, [&](std::uint32_t polygon) {
      const double here = left < 0 ? 0 : area_of(polygon);
      if (here > 0) chosen = polygon;
      left -= here;
    });
    part.cut_out(mesh, chosen, low, high);
    const dvec2 point = part.point(random);
    if (glm::distance(point, home->at) <= reach)
      return spot_at({mesh.nearest_in(chosen, point), chosen}, around.layer);
  }
  return spot_at(*home, around.layer);
}

// --- Ways -------------------------------------------------------------------------------------

/// The search between two spots: true when there is a way.
bool MeshGround::search(const Spot& from, const Spot& to, MeshSearch& search) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto start = place_of(mesh, from), goal = place_of(mesh, to);
  return start && goal && search.find(mesh, *start, *goal);
}

void MeshGround::route(const Spot& from, const Spot& to, Route& route) const {
  route.bends.clear();
  route.length = 0.f;
  route.complete = false;
  const auto loan = helpers_.borrow();
  MeshSearch& found = (*loan).search;
  route.complete = search(from, to, found);
  route.expanded = found.expanded();
  if (!route.complete) return;
  for (const dvec2 bend : found.path()) route.bends.push_back(lift(in_metres(bend)));
  route.length = static_cast<float>(found.length() / per_metre);
}

float MeshGround::distance(const Spot& from, const Spot& to) const {
  const auto loan = helpers_.borrow();
  MeshSearch& found = (*loan).search;
  return search(from, to, found) ? static_cast<float>(found.length() / per_metre)
                                 : std::numeric_limits<float>::infinity();
}

bool MeshGround::reachable(const Spot& from, const Spot& to) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto start = place_of(mesh, from), goal = place_of(mesh, to);
  return start && goal && mesh.component(start->polygon) == mesh.component(goal->polygon);
}

std::optional<MeshGround::Edge> MeshGround::nearest_edge(const Spot& spot, float reach) const {
  const ConvexMesh& mesh = mesh_of(spot.layer);
  const auto home = place_of(mesh, spot);
  if (!home || !(reach >= 0.f)) return {};
  double off = per_metre * std::min(reach, 1e6f);
  std::uint32_t nearest = ConvexMesh::none;
  dvec2 at{0.0};
  mesh.each_near(home->at - off, home->at + off, [&](std::uint32_t polygon) {
    if (mesh.component(polygon) != mesh.component(home->polygon)) return;
    const ConvexMesh::Polygon& around = mesh.polygons()[polygon];
    for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
      if (mesh.sides()[side].across != ConvexMesh::none) continue;
      const dvec2 here = nearest_on(mesh.start_of(side), mesh.end_of(side), home->at);
      if (const double there = glm::distance(here, home->at); there <= off)
        nearest = side, at = here, off = there;
    }
  });
  if (nearest == ConvexMesh::none) return {};
  const vec2 along = direction(vec2(mesh.end_of(nearest) - mesh.start_of(nearest)));
  return Edge{
      .at = lift(in_metres(at)), .off = static_cast<float>(off / per_metre), .inward = {-along.y, along.x}};
}

bool MeshGround::sight(const Spot& from, const Spot& to) const {
  return straight(from, flat(to.position) - flat(from.position)).free;
}

/// From polygon to polygon, each time by the side that is reached first.
Stretch MeshGround::straight(const Spot& from, vec2 way) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto home = place_of(mesh, from);
  if (!home) return {.end = from, .metres = 0.f, .free = false, .inward = -direction(way)};
  const MeshSearch::Place& start = *home;
  const dvec2 along = in_mm(way), ahead = skin / glm::length(along) * along;
  std::uint32_t polygon = start.polygon;
  double gone = 0;  // part of the way
  for (std::size_t steps = 0; steps < 2 * mesh.polygons().size() + 16; ++steps) {
    const Exit exit = exit_of(mesh, polygon, start.at, along, gone);
    if (exit.side == ConvexMesh::none) break;
    const std::uint32_t across = mesh.sides()[exit.side].across;
    const dvec2 met = start.at + exit.part * along;
    const double off_corner =
        std::min(glm::distance(met, mesh.start_of(exit.side)), glm::distance(met, mesh.end_of(exit.side)));
    if (exit.part <= gone || (across == ConvexMesh::none && off_corner < skin)) {
      // At a corner, where several polygons meet: on in the one that the way leads into, if there is one.
      // Bends lie on corners, but for rounding, so it need not be hit exactly.
      const ConvexMesh::Nearest next = mesh.nearest(met + ahead);
      if (glm::distance(next.point, met + ahead) < 0.5 * skin && next.polygon != polygon) {
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
  return {.end = spot_at({mesh.nearest_in(polygon, start.at + along), polygon}, from.layer),
          .metres = glm::length(way),
          .free = true,
          .inward = vec2(0.f)};
}

}  // namespace ambulon
