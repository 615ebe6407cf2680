#include "convex_part.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr double arc_part = 0.01;  // of the radius: maximum error of a circle's sides,
constexpr double arc = 1.0;        // millimetres: or this

/// Returns the convex hull on the plan, counter-clockwise (monotone chain): A. Andrew, "Another Efficient
/// Algorithm for Convex Hulls in Two Dimensions" (1979).
std::vector<dvec2> hull_of(std::span<const SpacePoint> points) {
  std::vector<dvec2> all;
  for (const SpacePoint& point : points) all.push_back(point.at);
  const auto before = [](dvec2 a, dvec2 b) { return a.x != b.x ? a.x < b.x : a.y < b.y; };
  std::ranges::sort(all, before);
  all.erase(std::unique(all.begin(), all.end(), [](dvec2 a, dvec2 b) { return glm::distance(a, b) < 0.01; }),
            all.end());
  if (all.size() < 3) return all;
  std::vector<dvec2> hull;
  const auto add = [&](dvec2 point, std::size_t base) {
    while (hull.size() >= base + 2 &&
           cross(hull[hull.size() - 1] - hull[hull.size() - 2], point - hull[hull.size() - 2]) <= 1e-6)
      hull.pop_back();
    hull.push_back(point);
  };
  for (const dvec2 point : all) add(point, 0);
  const std::size_t base = hull.size() - 1;
  for (std::size_t i = all.size() - 1; i-- > 0;) add(all[i], base);
  hull.pop_back();
  return hull;
}

}  // namespace

Line side_of(const FloorSurface::Facet& facet, std::size_t i) {
  const dvec2 from = to_vec(facet.corners[i]), way = to_vec(facet.corners[(i + 1) % 3]) - from;
  return {from, dvec2(-way.y, way.x) / glm::length(way)};
}

void keep_over(ConvexPart& part, const FloorSurface::Facet& facet, double beyond) {
  for (std::size_t i = 0; i < 3; ++i) {
    const Line line = side_of(facet, i);
    keep(part, [&](const SpacePoint& point) { return line.inside(point.at) + beyond; });
  }
  if (beyond <= 0) return;
  const auto [low, high] = box_of(facet);
  keep_in_box(part, to_vec(low) - beyond, to_vec(high) + beyond);  // beyond sharp corners
}

void keep_between(ConvexPart& part, const FloorSurface::Facet& facet, double low, double high) {
  const auto above = [&](const SpacePoint& point) { return point.height - height_at(facet, point.at); };
  keep(part, [&](const SpacePoint& point) { return above(point) - low; });
  keep(part, [&](const SpacePoint& point) { return high - above(point); });
}

void keep_in_box(ConvexPart& part, dvec2 low, dvec2 high) {
  keep(part, [&](const SpacePoint& point) { return point.at.x - low.x; });
  keep(part, [&](const SpacePoint& point) { return high.x - point.at.x; });
  keep(part, [&](const SpacePoint& point) { return point.at.y - low.y; });
  keep(part, [&](const SpacePoint& point) { return high.y - point.at.y; });
}

void add_beside(ConvexPart part, const FloorSurface::Facet& facet, double beyond,
                std::vector<ConvexPart>& rest) {
  for (std::size_t i = 0; i < 3 && !part.empty(); ++i) {
    const Line line = side_of(facet, i);
    split(part, [&](const SpacePoint& point) { return line.inside(point.at) + beyond; }, rest);
  }
}

std::vector<PlanPoint> grown(std::span<const SpacePoint> points, double radius) {
  const std::vector<dvec2> hull = hull_of(points);
  std::vector<PlanPoint> ring;
  if (hull.empty()) return ring;
  const auto add = [&](dvec2 at) {
    const PlanPoint point{static_cast<int>(std::lround(at.x)), static_cast<int>(std::lround(at.y))};
    if (ring.empty() || ring.back() != point) ring.push_back(point);
  };
  const double max =
      2 * std::acos(1 - std::min(0.3, std::max(arc, arc_part * radius) / std::max(radius, arc)));
  const auto arc_around = [&](dvec2 corner, double from, double turned) {
    const int parts = std::max(1, static_cast<int>(std::ceil(turned / max)));
    for (int i = 0; i <= parts; ++i) {
      const double angle = from + turned * i / parts;
      add(corner + radius * dvec2(std::cos(angle), std::sin(angle)));
    }
  };
  constexpr double whole = 2 * std::numbers::pi;
  for (std::size_t i = 0; i < hull.size(); ++i) {
    const dvec2 here = hull[i], in = here - hull[(i + hull.size() - 1) % hull.size()],
                out = hull[(i + 1) % hull.size()] - here;
    if (hull.size() == 1) {
      arc_around(here, 0, whole);
      break;
    }
    // normals of both sides, outwards
    const double from = std::atan2(-in.x, in.y), to = std::atan2(-out.x, out.y);
    arc_around(here, from, to >= from ? to - from : to - from + whole);
  }
  if (ring.size() > 1 && ring.front() == ring.back()) ring.pop_back();
  return ring;
}

}  // namespace ambulon
