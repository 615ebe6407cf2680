#pragma once
// Convex polygons in space: clipping by planes, and Minkowski sums on the plan. Millimetres.

#include <algorithm>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/floor_surface.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

struct SpacePoint {
  dvec2 at{0.0};
  double height = 0;
};
using ConvexPart = std::vector<SpacePoint>;  ///< corners in order; it may be degenerate

/// Clips a part to where the linear function `side(point)` is >= 0.
template <class Side>
void keep(ConvexPart& part, Side&& side) {
  ConvexPart kept;
  kept.reserve(part.size() + 1);
  for (std::size_t i = 0; i < part.size(); ++i) {
    const SpacePoint &a = part[i], &b = part[i + 1 == part.size() ? 0 : i + 1];
    const double of_a = side(a), of_b = side(b);
    if (of_a >= 0) kept.push_back(a);
    if ((of_a > 0 && of_b < 0) || (of_a < 0 && of_b > 0)) {
      const double t = of_a / (of_a - of_b);
      kept.push_back({a.at + t * (b.at - a.at), a.height + t * (b.height - a.height)});
    }
  }
  part = std::move(kept);
}

/// The same; the cut-off part is added to `rest`.
template <class Side>
void split(ConvexPart& part, Side&& side, std::vector<ConvexPart>& rest) {
  if (std::ranges::all_of(part, [&](const SpacePoint& point) { return side(point) >= 0; })) return;
  ConvexPart other = part;
  keep(other, [&](const SpacePoint& point) { return -side(point); });
  if (!other.empty()) rest.push_back(std::move(other));
  keep(part, side);
}

/// A side of a triangle on the plan; the inside is on its left.
struct Line {
  dvec2 from{0.0}, inward{0.0};  // unit normal
  double inside(dvec2 at) const { return glm::dot(at - from, inward); }
};
/// Returns the side of a facet from corner `i`. The facet must have an area on the plan.
Line side_of(const FloorSurface::Facet& facet, std::size_t i);

/// Clips to what is above or below a facet, at most `beyond` millimetres outside of its sides.
void keep_over(ConvexPart& part, const FloorSurface::Facet& facet, double beyond);
/// Clips to heights between `low` and `high` above the plane of a facet.
void keep_between(ConvexPart& part, const FloorSurface::Facet& facet, double low, double high);
/// Clips to a box on the plan.
void keep_in_box(ConvexPart& part, dvec2 low, dvec2 high);

/// Adds to `rest` what is not above or below a facet grown by `beyond` millimetres.
void add_beside(ConvexPart part, const FloorSurface::Facet& facet, double beyond,
                std::vector<ConvexPart>& rest);

/// Returns the convex hull of points, grown by `radius` millimetres (> 0) on the plan, counter-clockwise.
/// Circles are approximated by short sides.
std::vector<PlanPoint> grown(std::span<const SpacePoint> points, double radius);

}  // namespace ambulon
