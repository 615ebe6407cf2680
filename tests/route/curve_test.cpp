#include "route/curve.hpp"

#include <algorithm>

#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {
namespace {

std::vector<vec3> any_points() {
  std::vector<vec3> points;
  const int count = *rc::gen::inRange(0, 9);
  for (int i = 0; i < count; ++i)  // on a coarse grid, so that points often coincide or lie on a line
    points.emplace_back(*rc::gen::inRange(0, 6) * 3, *rc::gen::inRange(0, 6) * 3, 0);
  return points;
}

RC_GTEST_PROP(Curve, RunsThroughItsPointsInOrderAndNeverBreaks, (bool closed)) {
  const auto points = any_points();
  Curve curve;
  curve.lay(points, closed);
  float before = 0.f;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const float metres = curve.metres_to(i);
    RC_ASSERT(metres >= before);
    if (i > 0) RC_ASSERT(metres - before > glm::length(points[i] - points[i - 1]) * 0.999f - 1e-3f);
    if (curve.length() > 0.f) RC_ASSERT(glm::length(curve.position(metres) - points[i]) < 2e-3f);
    before = metres;
  }
  for (float metres = 0.f; metres < curve.length(); metres += 0.1f) {
    RC_ASSERT(finite(curve.position(metres)));
    RC_ASSERT(glm::length(curve.position(metres + 0.1f) - curve.position(metres)) < 0.101f);
  }
}

RC_GTEST_PROP(Curve, NearestIsTheBestOfAFineSearch, (bool closed)) {
  const auto points = any_points();
  Curve curve;
  curve.lay(points, closed);
  if (curve.length() == 0.f) return;
  const vec3 where(between(0, 18), between(0, 18), 0);
  const float from = between(0, curve.length());
  const float to = from + between(0, 10);
  const float end = closed && curve.closed() ? to : std::min(to, curve.length());
  float best = 1e9f;
  for (float metres = from; metres <= end; metres += 0.01f)
    best = std::min(best, flat_distance(curve.position(metres), where));
  const float found = curve.nearest(where, from, to);
  RC_ASSERT(found >= from - 1e-3f && found <= to + 1e-3f);
  RC_ASSERT(flat_distance(curve.position(found), where) <= best + 2e-3f);
}

TEST(Curve, ClosedCurveGoesOnSmoothlyOverItsSeam) {
  Curve curve;
  curve.lay(std::vector<vec3>{{0, 0, 0}, {8, 0, 0}, {8, 6, 0}, {0, 6, 0}}, true);
  const float step = 0.05f;
  const vec3 before = curve.position(curve.length() - step), seam = curve.position(0.f),
             after = curve.position(step);
  EXPECT_GT(glm::dot(glm::normalize(seam - before), glm::normalize(after - seam)), 0.99f);
  EXPECT_LT(glm::length(curve.position(curve.length() + 1.f) - curve.position(1.f)), 1e-3f);
  EXPECT_LT(glm::length(curve.position(-1.f) - curve.position(curve.length() - 1.f)), 1e-3f);
}

TEST(Curve, NearestIsFoundFromFarAlongASmallLoop) {
  Curve curve;
  curve.lay(std::vector<vec3>{{0, 0, 0}, {0.2f, 0, 0}, {0.2f, 0.2f, 0}, {0, 0.2f, 0}}, true);
  for (const float from : {0.f, 1e3f, 4.2e6f, 1e9f, -4.2e6f}) {
    const float at = curve.nearest({0.3f, 0.1f, 0}, from, from + 2);
    EXPECT_GE(at, from);
    const bool fine = from < 1e4f && from >= 0;  // positions are rounded to less than a segment
    EXPECT_LT(fine ? flat_distance(curve.position(at), {0.3f, 0.1f, 0}) : 0.f, 0.12f);
  }
  const float nothing = std::nanf("");
  (void)curve.nearest({0.3f, 0.1f, 0}, nothing, nothing);
}

}  // namespace
}  // namespace ambulon
