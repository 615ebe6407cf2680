#include "ambulon/ground/mesh/rejected.hpp"

#include <algorithm>
#include <cmath>

#include <gtest/gtest.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "random_level.hpp"

namespace ambulon {
namespace {

/// Returns true if a point lies in a part on the plan, near the heights of its corners.
bool holds(const RejectedPart& part, vec3 at, float near = 0.05f) {
  float low = part.corners[0].z, high = low;
  for (std::size_t i = 0; i < part.corners.size(); ++i) {
    const vec3 a = part.corners[i], b = part.corners[(i + 1) % part.corners.size()];
    if (cross(flat(b - a), flat(at - a)) < 0.f) return false;
    low = std::min(low, a.z), high = std::max(high, a.z);
  }
  return at.z > low - near && at.z < high + near;
}

bool is(Rejection why, const std::vector<RejectedPart>& parts, vec3 at, float near = 0.05f) {
  return std::ranges::any_of(
      parts, [&](const RejectedPart& part) { return part.why == why && holds(part, at, near); });
}

double area(Rejection why, const std::vector<RejectedPart>& parts) {
  double area = 0;
  for (const RejectedPart& part : parts)
    for (std::size_t i = 2; part.why == why && i < part.corners.size(); ++i)
      area +=
          0.5 * cross(flat(part.corners[i - 1] - part.corners[0]), flat(part.corners[i] - part.corners[0]));
  return area;
}

TEST(Rejected, SaysWhyNobodyStandsOnAQuayWithASteepSlipALowArcadeAndANarrowAlley) {
  Level level = quay_stones(12);
  add_sheet(level, {1, 1, 0}, {2, 1, 2}, {2, 3, 2}, {1, 3, 0});                   // a slip of 63 degrees
  add_sheet(level, {5, 1, 1.2f}, {5, 4, 1.2f}, {8, 4, 1.2f}, {8, 1, 1.2f});       // an arcade, faces down
  add_box(level, {3, 8}, 0, {4, 4, 3}), add_box(level, {7.5f, 8}, 0, {4, 4, 3});  // an alley of half a metre
  const auto ground = MeshGround::make(level).value();
  const auto parts = ground->rejected({.radius = 0.3f, .height = 1.7f});
  EXPECT_NEAR(area(Rejection::too_steep, parts), 2, 1e-3);
  EXPECT_TRUE(is(Rejection::too_low, parts, {6.5f, 2.5f, 0}));
  EXPECT_TRUE(is(Rejection::too_narrow, parts, {5.25f, 8, 0}));
  EXPECT_NEAR(area(Rejection::too_narrow, parts), 2, 0.25);  // bodies reach in a little
  for (const RejectedPart& part : parts) EXPECT_FALSE(holds(part, {10.5f, 2, 0})) << name(part.why);
  // A thinner and smaller body gets everywhere but up the slip.
  const auto of_cat = ground->rejected({.radius = 0.1f, .height = 0.3f});
  EXPECT_EQ(area(Rejection::too_narrow, of_cat), 0);
  EXPECT_FALSE(is(Rejection::too_low, of_cat, {6.5f, 2.5f, 0}));
  EXPECT_NEAR(area(Rejection::too_steep, of_cat), 2, 1e-3);
}

RC_GTEST_PROP(Rejected, IsWhereAPointCanStandAndTheBodyIsNotNear, ()) {
  const Level level = random_level();
  const auto ground = MeshGround::make(level).value();
  const Body body{.radius = between(0.1f, 0.5f)}, point{.radius = 0.f};
  const auto parts = ground->rejected(body);
  const auto stands = [&](vec3 at, const Body& who) {
    const Snap snap = ground->snap(at, 0, who);
    return snap.found && flat_distance(snap.spot.position, at) < 1e-3f &&
           std::abs(snap.spot.position.z - at.z) < 0.05f;
  };
  for (int i = 0; i < 20; ++i) {
    const vec3 at = point_of(level);
    for (const Rejection why : {Rejection::too_low, Rejection::too_narrow})
      if (is(why, parts, at)) RC_ASSERT(!stands(at, body));
    bool room = stands(at, point);  // more than a sliver
    for (int k = 0; k < 8 && room; ++k)
      room = stands(at + lift((0.2f * body.radius + 0.05f) * unit(0.785f * static_cast<float>(k))), point);
    const Snap near = ground->snap(at, 1e6f, body);
    if (room && (!near.found || near.off > 2.f * body.radius + 0.1f))
      RC_ASSERT(is(Rejection::too_narrow, parts, at, 3.f));  // pieces go over several steps
  }
}

}  // namespace
}  // namespace ambulon
