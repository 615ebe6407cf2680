#include "ambulon/ground/mesh/mesh_ground.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>

#include "ambulon/ground/mesh/mesh_part.hpp"

namespace ambulon {
namespace {

constexpr double per_metre = 1000.0;  // millimetres
constexpr float width_step = 0.005f;  // metres by which widths are told apart
// Millimetres by which a straight walk may end beyond an edge that it goes along.
constexpr double skin = 0.1;
constexpr double same_place = 1e-6;  // millimetres
constexpr int draws = 64;            // for a random spot, before it is where one is

dvec2 in_mm(vec2 metres) { return per_metre * dvec2(metres); }
vec2 in_metres(dvec2 mm) { return vec2(mm / per_metre); }

/// Where a spot is in its polygon: positions are rounded, polygons are not.
MeshSearch::Place place_of(const ConvexMesh& mesh, const Spot& spot) {
  return {mesh.nearest_in(spot.piece, in_mm(flat(spot.position))), spot.piece};
}

Spot spot_at(const MeshSearch::Place& place, std::uint16_t number) {
  return {.position = lift(in_metres(place.at)), .piece = place.polygon, .layer = number};
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
  return meshes_.number_for(kept, [&] {
    // The plan was checked when the ground was made. Should its outlines cross too often for this width, it
    // has no room.
    const auto outlines = outlines_for(plan_, kept);
    const auto triangulation = outlines.and_then([](const auto& some) { return Triangulation::make(some); });
    return std::make_unique<const ConvexMesh>(triangulation ? *triangulation : *Triangulation::make({}));
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
  const ConvexMesh& mesh = *meshes_[number].made;
  const dvec2 at = in_mm(flat(point));
  if (const auto polygon = mesh.at(at)) return snap_to({*polygon, at}, number, point, reach);
  return snap_to(mesh.nearest(at), number, point, reach);
}

Snap MeshGround::nearest_reachable(const Spot& from, vec3 goal) const {
  if (!finite(goal)) return {};
  const ConvexMesh& mesh = *meshes_[from.layer].made;
  return snap_to(mesh.nearest(in_mm(flat(goal)), mesh.polygons()[from.piece].component), from.layer, goal,
                 0.f);
}

/// Drawn from the polygons around, each cut to the square around the circle, by area; again where it lies
/// outside of the circle.
Spot MeshGround::random_spot(Random& random, const Spot& around, float radius) const {
  const ConvexMesh& mesh = *meshes_[around.layer].made;
  const dvec2 centre = in_mm(flat(around.position));
  const double reach = std::min(static_cast<double>(radius) * per_metre, 4.0 * PlanPoint::most);
  const std::vector<MeshPart> parts =
      parts_within(mesh, centre - reach, centre + reach, mesh.polygons()[around.piece].component);
  double area = 0;
  for (const MeshPart& part : parts) area += part.area;
  for (int draw = 0; draw < draws && area > 0; ++draw) {
    double left = area * static_cast<double>(random.fraction());
    std::size_t chosen = 0;
    while (chosen + 1 < parts.size() && left >= parts[chosen].area) left -= parts[chosen++].area;
    const dvec2 point = parts[chosen].point(random);
    if (glm::distance(point, centre) <= reach)
      return spot_at({mesh.nearest_in(parts[chosen].polygon, point), parts[chosen].polygon}, around.layer);
  }
  return around;
}

// --- Ways -------------------------------------------------------------------------------------

void MeshGround::route(const Spot& from, const Spot& to, Route& route) const {
  route.bends.clear();
  route.length = 0.f;
  route.complete = false;
  const ConvexMesh& mesh = *meshes_[from.layer].made;
  const auto loan = searchers_.borrow();
  MeshSearch& search = *loan;
  const bool found = search.find(mesh, place_of(mesh, from), place_of(mesh, to));
  route.expanded = search.expanded();
  if (!found) return;
  for (const dvec2 bend : search.path()) route.bends.push_back(lift(in_metres(bend)));
  route.bends.front() = from.position, route.bends.back() = to.position;
  route.length = static_cast<float>(search.length() / per_metre);
  route.complete = true;
}

float MeshGround::distance(const Spot& from, const Spot& to) const {
  const ConvexMesh& mesh = *meshes_[from.layer].made;
  const auto loan = searchers_.borrow();
  MeshSearch& search = *loan;
  return search.find(mesh, place_of(mesh, from), place_of(mesh, to))
             ? static_cast<float>(search.length() / per_metre)
             : std::numeric_limits<float>::infinity();
}

bool MeshGround::sight(const Spot& from, const Spot& to) const {
  return straight(from, flat(to.position) - flat(from.position)).free;
}

/// From polygon to polygon, each time by the side that is reached first.
Stretch MeshGround::straight(const Spot& from, vec2 way) const {
  const ConvexMesh& mesh = *meshes_[from.layer].made;
  const MeshSearch::Place start = place_of(mesh, from);
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
