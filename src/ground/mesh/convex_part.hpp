#pragma once
// Convex polygons in space, cut by planes, and grown as seen from above. Millimetres.

#include <algorithm>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/vec.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/floor_surface.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

struct SpacePoint {
  dvec2 at{0.0};
  double height = 0;
};
using ConvexPart = std::vector<SpacePoint>;  ///< its corners in turn; it may have no area

/// Keeps what of a part lies where `side(point)`, which is linear, is not negative.
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

/// Keeps the same, and adds what is split off to `rest`.
template <class Side>
void split(ConvexPart& part, Side&& side, std::vector<ConvexPart>& rest) {
  if (std::ranges::all_of(part, [&](const SpacePoint& point) { return side(point) >= 0; })) return;
  ConvexPart other = part;
  keep(other, [&](const SpacePoint& point) { return -side(point); });
  if (!other.empty()) rest.push_back(std::move(other));
  keep(part, side);
}

/// A side of a triangle, seen from above; inside lies to its left.
struct Line {
  dvec2 from{0.0}, inward{0.0};  // unit vector
  double inside(dvec2 at) const { return glm::dot(at - from, inward); }
};
/// The side of a facet from corner `i`; `facet` can be seen from above.
Line side_of(const FloorSurface::Facet& facet, std::size_t i);

/// Keeps what lies above or below a facet and at most `beyond` millimetres beside it.
void keep_over(ConvexPart& part, const FloorSurface::Facet& facet, double beyond);
/// Keeps what lies between two heights above the plane of a facet.
void keep_between(ConvexPart& part, const FloorSurface::Facet& facet, double low, double high);
/// Keeps what lies in an upright box, seen from above.
void keep_in_box(ConvexPart& part, dvec2 low, dvec2 high);

/// Splits off what does not lie above or below a facet, grown by `beyond` millimetres, and adds it to `rest`.
void add_beside(ConvexPart part, const FloorSurface::Facet& facet, double beyond,
                std::vector<ConvexPart>& rest);

/// What is at most `radius` millimetres (above 0) away from any of some points or from what lies between
/// them, seen from above: counter-clockwise. Circles around corners are made of short sides.
std::vector<PlanPoint> grown(std::span<const SpacePoint> points, double radius);

}  // namespace ambulon
