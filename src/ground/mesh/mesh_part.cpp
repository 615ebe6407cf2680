#include "ground/mesh/mesh_part.hpp"

#include <algorithm>
#include <cmath>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {
namespace {

double twice_area(dvec2 a, dvec2 b, dvec2 c) { return cross(b - a, c - a); }

}  // namespace

/// Clips at a line across an axis: I. Sutherland, G. Hodgman, "Reentrant Polygon Clipping" (1974).
void MeshPart::cut(int axis, double limit, double sign) {
  kept_.clear();
  for (std::size_t i = 0; i < corners_.size(); ++i) {
    const dvec2 a = corners_[i], b = corners_[(i + 1) % corners_.size()];
    const double of_a = sign * (limit - a[axis]), of_b = sign * (limit - b[axis]);  // >= 0: kept
    if (of_a >= 0) kept_.push_back(a);
    if ((of_a >= 0) != (of_b >= 0)) kept_.push_back(a + of_a / (of_a - of_b) * (b - a));
  }
  corners_.swap(kept_);
}

void MeshPart::cut_out(const ConvexMesh& mesh, std::uint32_t polygon, dvec2 low, dvec2 high) {
  corners_.clear();
  for (const ConvexMesh::Side& side : mesh.sides_of(polygon))
    corners_.push_back(mesh.corners()[side.corner].at);
  for (const int axis : {0, 1}) {
    cut(axis, high[axis], 1);
    cut(axis, low[axis], -1);
  }
  area_ = 0;
  for (std::size_t i = 2; i < corners_.size(); ++i)
    area_ += std::max(0.0, twice_area(corners_[0], corners_[i - 1], corners_[i]) / 2);
}

dvec2 MeshPart::point(Random& random) const {
  // First draws a triangle of the fan by area, then a point of it.
  double left = 2 * area_ * static_cast<double>(random.fraction());
  std::size_t i = 2;
  for (; i + 1 < corners_.size(); ++i) {
    const double here = twice_area(corners_[0], corners_[i - 1], corners_[i]);
    if (left < here) break;
    left -= here;
  }
  const double root = std::sqrt(static_cast<double>(random.fraction())),
               across = static_cast<double>(random.fraction());
  return (1 - root) * corners_[0] + root * ((1 - across) * corners_[i - 1] + across * corners_[i]);
}

}  // namespace ambulon
