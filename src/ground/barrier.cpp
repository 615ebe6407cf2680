#include "ambulon/ground/barrier.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>
#include <glm/common.hpp>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"

#include "base/geometry.hpp"
#include "base/tolerance.hpp"

namespace ambulon {
namespace {

constexpr Range sizes{0.001f, 1000.f};

tl::unexpected<Problem> not_finite() { return problem("a coordinate of the barrier is not a finite number"); }

}  // namespace

Expected<Barrier> Barrier::box(vec2 centre, vec2 size, float heading) {
  if (!finite(lift(centre)) || !std::isfinite(heading)) return not_finite();
  for (const float side : {size.x, size.y})
    if (!sizes.holds(side))
      return problem(fmt::format("a side of the barrier is {} m; it must lie between {} and {} m", side,
                                 sizes.min, sizes.max));
  const vec2 ahead = 0.5f * size.x * unit(heading),
             left = 0.5f * size.y * vec2(-unit(heading).y, unit(heading).x);
  Barrier barrier;
  barrier.corners_ = {centre - ahead - left, centre + ahead - left, centre + ahead + left,
                      centre - ahead + left};
  return barrier;
}

Expected<Barrier> Barrier::disc(vec2 centre, float radius) {
  if (!finite(lift(centre))) return not_finite();
  if (!sizes.holds(radius))
    return problem(fmt::format("the radius of the barrier is {} m; it must lie between {} and {} m", radius,
                               sizes.min, sizes.max));
  Barrier barrier;
  barrier.corners_ = {centre};
  barrier.radius_ = radius;
  return barrier;
}

/// Monotone chain: A. Andrew, "Another Efficient Algorithm for Convex Hulls in Two Dimensions" (1979).
Expected<Barrier> Barrier::hull(std::span<const vec2> points) {
  if (points.size() < 3 || points.size() > 64)
    return problem(fmt::format("a barrier of {} points; it needs 3 to 64", points.size()));
  for (const vec2 point : points)
    if (!finite(lift(point))) return not_finite();
  std::vector<vec2> sorted(points.begin(), points.end());
  std::ranges::sort(sorted, [](vec2 a, vec2 b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
  Barrier barrier;
  auto& hull = barrier.corners_;
  for (int half = 0; half < 2; ++half) {
    const std::size_t first = hull.size();
    for (const vec2 point : sorted) {
      while (hull.size() >= first + 2 && cross(hull.back() - hull[hull.size() - 2], point - hull.back()) <=
                                             tolerance::touching_metres * tolerance::touching_metres)
        hull.pop_back();
      hull.push_back(point);
    }
    hull.pop_back();  // the other half begins with it
    std::ranges::reverse(sorted);
  }
  if (hull.size() < 3) return problem("all points of the barrier lie on one line; it has no inside");
  return barrier;
}

Barrier Barrier::moved(vec2 way) const {
  Barrier other = *this;
  for (vec2& corner : other.corners_) corner += way;
  return other;
}

Barrier Barrier::between(float bottom, float top) const {
  Barrier between = *this;
  between.bottom_ = std::min(bottom, top);
  between.top_ = std::max(bottom, top);
  return between;
}

Barrier Barrier::costing(float cost) const {
  Barrier costing = *this;
  costing.cost_ = std::fmin(std::fmax(cost, 1.f), 255.f);
  return costing;
}

vec2 Barrier::min() const {
  vec2 min = corners_.front();
  for (const vec2 corner : corners_) min = glm::min(min, corner);
  return min - radius_;
}

vec2 Barrier::max() const {
  vec2 max = corners_.front();
  for (const vec2 corner : corners_) max = glm::max(max, corner);
  return max + radius_;
}

bool Barrier::overlaps(vec2 low, vec2 high) const {
  if (radius_ > 0.f)
    return glm::length(glm::clamp(corners_.front(), low, high) - corners_.front()) <
           radius_ - tolerance::touching_metres;
  if (glm::any(glm::lessThanEqual(max(), low + tolerance::touching_metres)) ||
      glm::any(glm::lessThanEqual(high, min() + tolerance::touching_metres)))
    return false;
  // Separating axis test: disjoint if the box lies outside one of the edges.
  const std::array<vec2, 4> box = {low, {high.x, low.y}, high, {low.x, high.y}};
  for (std::size_t i = 0; i < corners_.size(); ++i) {
    const vec2 from = corners_[i], edge = direction(corners_[(i + 1) % corners_.size()] - from);
    if (std::ranges::all_of(
            box, [&](vec2 corner) { return cross(edge, corner - from) <= tolerance::touching_metres; }))
      return false;
  }
  return true;
}

}  // namespace ambulon
