#include "ambulon/ground/mesh/plan.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "ambulon/base/angle.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "generate.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

const float beyond = std::numeric_limits<float>::infinity(),
            no_number = std::numeric_limits<float>::quiet_NaN();

/// Returns the metres between a point and a ring; 0 inside.
float off_ring(const Plan::Ring& ring, vec2 point) {
  float off = beyond;
  bool inside = false;
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const vec2 a = ring[i], b = ring[(i + 1) % ring.size()];
    off = std::min(off, glm::length(nearest_on(a, b, point) - point));
    if ((a.y > point.y) != (b.y > point.y) && point.x < a.x + (point.y - a.y) / (b.y - a.y) * (b.x - a.x))
      inside = !inside;
  }
  return inside ? 0.f : off;
}

/// A rotated box, with either orientation.
Plan::Ring crate(vec2 middle) {
  const float heading = between(0, 6), length = between(0.2f, 3), width = between(0.2f, 3);
  const vec2 along = 0.5f * length * unit(heading), across = 0.5f * width * unit(heading + 0.5f * pi);
  Plan::Ring ring = {middle + along + across, middle - along + across, middle - along - across,
                     middle + along - across};
  if (*rc::gen::arbitrary<bool>()) std::ranges::reverse(ring);
  return ring;
}

RC_GTEST_PROP(Plan, ABodyHasRoomWhereItCanBeAndCanBeWhereItHasRoom, ()) {
  Plan plan;
  plan.outlines = {{{0, 0}, {20, 0}, {20, 20}, {0, 20}},
                   {{20, 20}, {25, 20}, {25, 0}, {18, 0}, {18, 20}}};  // which overlap
  for (int i = *rc::gen::inRange(0, 12); i > 0; --i)
    plan.solids.push_back(crate({between(0, 25), between(0, 20)}));
  for (int i = *rc::gen::inRange(0, 4); i > 0; --i)
    plan.holes.push_back(crate({between(0, 25), between(0, 20)}));
  for (int i = *rc::gen::inRange(0, 3); i > 0; --i) {
    const vec2 from(between(0, 25), between(0, 20)), way = between(1, 8) * unit(between(0, 6));
    plan.walls.push_back({{from, from + way}, between(0.05f, 1)});
  }
  const float radius = between(0, 1.5f);
  const auto outlines = outlines_for(plan, radius);
  RC_ASSERT(outlines.has_value());
  const ConvexMesh mesh(*Triangulation::make(*outlines));
  for (int i = 0; i < 100; ++i) {
    const vec2 point(between(-2, 27), between(-2, 22));
    float room = std::min({point.x, point.y, 25 - point.x, 20 - point.y});  // to what is in the way
    for (const auto* rings : {&plan.solids, &plan.holes})
      for (const Plan::Ring& ring : *rings) room = std::min(room, off_ring(ring, point));
    for (const Plan::Wall& wall : plan.walls) {
      const vec2 along = direction(wall.line[1] - wall.line[0]), across(-along.y, along.x);
      const vec2 half = 0.5f * wall.thickness * across;
      room = std::min(
          room, off_ring({wall.line[0] + half, wall.line[1] + half, wall.line[1] - half, wall.line[0] - half},
                         point));
    }
    const bool can_be = mesh.at(1000.0 * dvec2(point)).has_value();
    if (room < 0.975f * radius - 0.002f) RC_ASSERT(!can_be);
    if (room > radius + 0.002f) RC_ASSERT(can_be);
  }
}

TEST(Plan, WhatMakesNoSenseIsNamedWithItsPlace) {
  const Plan::Ring quay = {{0, 0}, {9, 0}, {9, 9}};
  const auto text = [](const Plan& plan, float radius = 0.3f) {
    return outlines_for(plan, radius).error().text;
  };
  EXPECT_EQ(text({}), "the plan has no outline; what can be walked on lies inside of one");
  EXPECT_EQ(text({.outlines = {quay, {{0, 0}, {1, 1}}}, .holes = {}, .solids = {}, .walls = {}}),
            "outline 2 of the plan has 2 points; it needs at least 3");
  EXPECT_EQ(
      text({.outlines = {quay}, .holes = {}, .solids = {{{1, 1}, {no_number, 2}, {2, 2}}}, .walls = {}}),
      "point 2 of solid 1 of the plan lies at (nan, 2) m; a plan reaches 400 km from the origin");
  EXPECT_EQ(text({.outlines = {quay}, .holes = {{{1, 1}, {1, 2}, {500'000, 2}}}, .solids = {}, .walls = {}}),
            "point 3 of hole 1 of the plan lies at (500000, 2) m; a plan reaches 400 km from the origin");
  EXPECT_EQ(text({.outlines = {quay}, .holes = {}, .solids = {}, .walls = {{{{1, 1}, {2, 2}}, -1.f}}}),
            "wall 1 of the plan is -1 m thick; it must lie between 0.001 and 1000 m");
  EXPECT_EQ(text({.outlines = {quay}, .holes = {}, .solids = {}, .walls = {}}, beyond),
            "a body of radius inf m; it must lie between 0 and 50 m");
}

TEST(Plan, AHoleMayTouchItsOutlineAtTheLowestCorner) {
  const auto ground = MeshGround::make(Plan{.outlines = {{{0, 0}, {10, 0}, {10, 10}, {0, 10}}},
                                            .holes = {{{0, 0}, {4, 1}, {3, 3}, {1, 4}}}})
                          .value();
  EXPECT_NEAR(ground->mesh({.radius = 0}).area() / 1e6, 91, 0.01);
  EXPECT_NEAR(ground->mesh({.radius = 0.3f}).area() / 1e6, 76.7, 0.2);
}

}  // namespace
}  // namespace ambulon
