#include "ambulon/ground/mesh/mesh_part.hpp"

#include <algorithm>
#include <cmath>

namespace ambulon {
namespace {

double twice_area(dvec2 a, dvec2 b, dvec2 c) { return cross(b - a, c - a); }

/// Cuts off what lies beyond a line across an axis: I. Sutherland and G. Hodgman, "Reentrant Polygon
/// Clipping" (1974).
void cut(std::vector<dvec2>& corners, int axis, double limit, double sign) {
  std::vector<dvec2> kept;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const dvec2 a = corners[i], b = corners[(i + 1) % corners.size()];
    const double of_a = sign * (limit - a[axis]), of_b = sign * (limit - b[axis]);  // 0 or more: kept
    if (of_a >= 0) kept.push_back(a);
    if ((of_a >= 0) != (of_b >= 0)) kept.push_back(a + of_a / (of_a - of_b) * (b - a));
  }
  corners.swap(kept);
}

}  // namespace

dvec2 MeshPart::point(Random& random) const {
  // First a triangle of those around the first corner, by area, then a point of it.
  double left = 2 * area * static_cast<double>(random.fraction());
  std::size_t i = 2;
  for (; i + 1 < corners.size(); ++i) {
    const double here = twice_area(corners[0], corners[i - 1], corners[i]);
    if (left < here) break;
    left -= here;
  }
  const double root = std::sqrt(static_cast<double>(random.fraction())),
               across = static_cast<double>(random.fraction());
  return (1 - root) * corners[0] + root * ((1 - across) * corners[i - 1] + across * corners[i]);
}

std::vector<MeshPart> parts_within(const ConvexMesh& mesh, dvec2 low, dvec2 high, std::uint32_t component) {
  std::vector<std::uint32_t> near;
  mesh.each_near(low, high, [&](std::uint32_t polygon) {
    if (mesh.polygons()[polygon].component == component) near.push_back(polygon);
  });
  std::ranges::sort(near);
  near.erase(std::unique(near.begin(), near.end()), near.end());
  std::vector<MeshPart> parts;
  for (const std::uint32_t polygon : near) {
    MeshPart part{polygon, {}, 0};
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon))
      part.corners.push_back(mesh.corners()[side.corner].at);
    for (const int axis : {0, 1}) {
      cut(part.corners, axis, high[axis], 1);
      cut(part.corners, axis, low[axis], -1);
    }
    for (std::size_t i = 2; i < part.corners.size(); ++i)
      part.area += twice_area(part.corners[0], part.corners[i - 1], part.corners[i]) / 2;
    if (part.area > 0) parts.push_back(std::move(part));
  }
  return parts;
}

}  // namespace ambulon
