// Queries of a mesh ground: edges, circles, rays, rejected surfaces.

#include <algorithm>
#include <array>
#include <cmath>

#include <glm/common.hpp>
#include <glm/ext/vector_double3.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/ray_hits.hpp"
#include "base/tolerance.hpp"
#include "ground/arguments.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/find_rejected.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_ground_impl.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

using dvec3 = glm::dvec3;

/// Returns the parameter of a ray at a triangle; nothing if it misses. T. Moeller, B. Trumbore, "Fast,
/// Minimum Storage Ray/Triangle Intersection" (1997).
std::optional<double> met(dvec3 from, dvec3 way, const std::array<dvec3, 3>& corners) {
  const dvec3 a = corners[1] - corners[0], b = corners[2] - corners[0], across = glm::cross(way, b);
  const double whole = glm::dot(a, across);
  if (whole == 0) return {};
  const dvec3 off = from - corners[0], along = glm::cross(off, a);
  const double u = glm::dot(off, across) / whole, v = glm::dot(way, along) / whole;
  const double part = glm::dot(b, along) / whole;
  const bool inside = u >= -tolerance::beside_triangle_part && v >= -tolerance::beside_triangle_part &&
                      u + v <= 1 + tolerance::beside_triangle_part && part >= 0;
  return inside ? std::optional(part) : std::nullopt;
}

/// Clips the parameter range of a ray to where a coordinate lies between two values.
void cut(double start, double way, double low, double high, double& from, double& to) {
  if (way == 0) {
    if (start < low || start > high) to = -1;
    return;
  }
  const auto [first, last] = std::minmax({(low - start) / way, (high - start) / way});
  from = std::max(from, first), to = std::min(to, last);
}

}  // namespace

std::optional<MeshGroundImpl::Edge> MeshGroundImpl::nearest_edge(const Spot& spot, float reach) const {
  const ConvexMesh& mesh = mesh_of(spot.layer);
  const auto home = place_of(spot);
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
  return Edge{.at = lift(in_metres(at),
                         static_cast<float>(mesh.height(mesh.sides()[nearest].polygon, at) / per_metre)),
              .off = static_cast<float>(off / per_metre),
              .inward = {-along.y, along.x}};
}

/// Visits polygons over sides that are near enough.
Clearance MeshGroundImpl::clearance(const Spot& spot, float max) const {
  const ConvexMesh& mesh = mesh_of(spot.layer);
  const auto home = place_of(spot);
  max = usable_metres(max);
  if (!home || max == 0.f) return {};
  constexpr std::size_t max_polygons = 32;
  std::array<std::uint32_t, max_polygons> polygons{home->polygon};
  std::size_t known = 1;
  double off = per_metre * max;
  bool level = true;
  for (std::size_t i = 0; i < known; ++i) {
    const ConvexMesh::Polygon& around = mesh.polygons()[polygons[i]];
    level = level && around.floor == nullptr;
    for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
      const double there =
          glm::distance(nearest_on(mesh.start_of(side), mesh.end_of(side), home->at), home->at);
      if (there >= off) continue;
      const std::uint32_t across = mesh.sides()[side].across;
      const std::uint32_t next = across == ConvexMesh::none ? across : mesh.sides()[across].polygon;
      if (std::ranges::find(polygons.begin(), polygons.begin() + known, next) != polygons.begin() + known)
        continue;
      if (next == ConvexMesh::none || known == polygons.size())
        off = there;
      else
        polygons[known++] = next;
    }
  }
  return {.metres = static_cast<float>(off / per_metre), .level = level};
}

void MeshGroundImpl::each_piece_around(const Spot& middle, float radius,
                                       const std::function<void(std::span<const vec3>)>& visit) const {
  const ConvexMesh& mesh = mesh_of(middle.layer);
  const auto home = place_of(middle);
  if (!home || !(radius >= 0.f)) return;
  const double reach = per_metre * std::min(radius, 1e6f);
  std::vector<std::uint32_t> open{home->polygon}, seen{home->polygon};  // ascending
  std::vector<vec3> corners;
  while (!open.empty()) {
    const std::uint32_t polygon = open.back();
    open.pop_back();
    corners.clear();
    const ConvexMesh::Polygon& around = mesh.polygons()[polygon];
    for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
      const dvec2 from = mesh.start_of(side), to = mesh.end_of(side);
      corners.push_back(lift(in_metres(from), static_cast<float>(mesh.height(polygon, from) / per_metre)));
      const std::uint32_t across = mesh.sides()[side].across;
      if (across == ConvexMesh::none || glm::distance(nearest_on(from, to, home->at), home->at) > reach)
        continue;
      const std::uint32_t next = mesh.sides()[across].polygon;
      const auto place = std::ranges::lower_bound(seen, next);
      if (place != seen.end() && *place == next) continue;
      seen.insert(place, next);
      open.push_back(next);
    }
    visit(corners);
  }
}

void MeshGroundImpl::visit_surface(const Body& body, vec2 low, vec2 high, SurfaceVisitor& visitor) const {
  const Layer& layer = layer_of(number_for(body));
  const ConvexMesh& mesh = layer.mesh;
  const auto point = [&](std::uint32_t polygon, dvec2 at) {
    return lift(in_metres(at), static_cast<float>(mesh.height(polygon, at) / per_metre));
  };
  std::vector<vec3> corners;
  mesh.each_near(in_mm(low), in_mm(high), [&](std::uint32_t polygon) {
    const auto sides = mesh.sides_of(polygon);
    corners.clear();
    for (const ConvexMesh::Side& side : sides) corners.push_back(point(polygon, side.start));
    visitor.polygon(corners);
    for (std::size_t i = 0; i < sides.size(); ++i)
      if (sides[i].across == ConvexMesh::none) visitor.edge(corners[i], corners[(i + 1) % sides.size()]);
  });
  for (const MeshCrossing& each : layer.crossings.all()) {
    const vec2 at = in_metres(each.from.at);
    if (glm::all(glm::greaterThanEqual(at, low)) && glm::all(glm::lessThanEqual(at, high)))
      visitor.crossing(point(each.from.polygon, each.from.at), point(each.to.polygon, each.to.at), each.kind);
  }
}

std::optional<vec3> MeshGroundImpl::first_met(const Ray& ray, float reach) const {
  if (!level_) return Ground::first_met(ray, reach);
  if (!sound(ray) || !(reach >= 0.f)) return {};
  double first = std::min(reach, 1e6f);
  bool met = false;
  for (const PlacedBarrier& placed : barriers()) {
    const Barrier& barrier = placed.barrier;
    if (barrier.cost() > 0.f || !std::isfinite(barrier.bottom()) || !std::isfinite(barrier.top())) continue;
    const auto metres =
        into_column(ray, barrier.corners(), barrier.radius(), barrier.bottom(), barrier.top());
    if (metres && *metres <= first) first = *metres, met = true;
  }
  if (const auto metres = into_level(ray, first)) first = *metres, met = true;
  return met ? std::optional(along(ray, first)) : std::nullopt;
}

/// Returns the metres to the first triangle of the level. Goes in stretches, so that only triangles near the
/// ray are tested.
std::optional<double> MeshGroundImpl::into_level(const Ray& ray, double reach) const {
  const dvec3 start = per_metre * dvec3(ray.from), way = glm::normalize(dvec3(ray.direction));
  double gone = 0, end = per_metre * reach;
  const PatchGrid& grid = level_->grid();
  cut(start.x, way.x, grid.low.x, grid.low.x + static_cast<double>(grid.size) * grid.across, gone, end);
  cut(start.y, way.y, grid.low.y, grid.low.y + static_cast<double>(grid.size) * grid.up, gone, end);
  const double steepness = glm::length(dvec2(way));
  const double step = steepness > 0 ? std::max(1.0, grid.size / steepness) : end;
  for (; gone <= end; gone += step) {
    const double last = std::min(end, gone + step);
    const auto whole = [](dvec2 point, double off) {
      return PlanPoint{static_cast<int>(std::lround(point.x + off)),
                       static_cast<int>(std::lround(point.y + off))};
    };
    const dvec2 a(start + gone * way), b(start + last * way);
    std::optional<double> first;
    for (const std::uint32_t number : level_->near(whole(glm::min(a, b), -2), whole(glm::max(a, b), 2))) {
      const LevelIndex::Facet& facet = level_->facets()[number];
      std::array<dvec3, 3> corners;
      for (std::size_t i = 0; i < 3; ++i) corners[i] = dvec3(to_vec(facet.corners[i]), facet.heights[i]);
      if (const auto part = met(start, way, corners); part && *part <= last && (!first || *part < *first))
        first = part;
    }
    if (first) return *first / per_metre;
    if (last == end) break;
  }
  return {};
}

std::vector<RejectedPart> MeshGroundImpl::rejected(const Body& body) const {
  const BodySize size = size_of(body);  // as its mesh is built
  const Body kept{.radius = size.radius, .height = size.height, .step_up = size.step_up};
  if (!level_) return ambulon::rejected(plan_, size.radius);
  std::vector<RejectedPart> parts = ambulon::rejected(*level_, kept);
  if (level_->reach_from().empty()) return parts;
  std::vector<RejectedPart> others = out_of_reach(size);
  std::ranges::move(others, std::back_inserter(parts));
  return parts;
}

}  // namespace ambulon
