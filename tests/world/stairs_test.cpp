// Heights, speeds and steps on stairs and slopes.

#include <cmath>

#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"

#include "base/geometry.hpp"
#include "level_maker.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// A quay at height 0 for x below 8, `count` steps, and a landing behind them.
std::unique_ptr<MeshGround> stairs(float tread, float rise, int count) {
  Level level;
  add_box(level, {15, 2}, -1, {30, 4, 1});
  const float run = tread * static_cast<float>(count), top = rise * static_cast<float>(count);
  add_steps(level, {8, 2, 0}, {tread, 4, rise}, count);
  add_box(level, {8 + run + 3, 2}, 0, {6, 4, top});
  return *MeshGround::make(level);
}

TEST(Stairs, HeightsFollowASmoothLineThatIsTheSameAtAnyTickRate) {
  for (const vec2 step : {vec2(0.28f, 0.17f), vec2(0.4f, 0.17f), vec2(0.28f, 0.25f)})
    for (const float speed : {0.5f, 1.4f, 4.f})
      for (const bool down : {false, true})
        for (const float rate : {10.f, 30.f, 60.f, 144.f}) {
          const auto ground = stairs(step.x, step.y, 10);
          const vec3 foot(3, 2, 0), head(8 + 10 * step.x + 4, 2, 10 * step.y);
          World world({.ground = ground.get()});
          const Npc porter = *world.add({.at = down ? head : foot, .gait = {.speed = speed}});
          const Order order = porter.go_to(down ? foot : head);
          float fastest = 0, off = 0, backwards = 0;
          for (vec3 before = porter.position(); order.running();) {
            ASSERT_TRUE(world.tick(1 / rate));
            const vec3 at = porter.position();
            const float rise = (at.z - before.z) * (down ? -1.f : 1.f);
            fastest = std::max(fastest, rise * rate);
            backwards = std::max(backwards, -rise);
            const float ground_z =
                at.x < 8 ? 0.f : std::min(10.f, 1 + std::floor((at.x - 8) / step.x)) * step.y;
            off = std::max(off, std::abs(at.z - ground_z));
            before = at;
          }
          ASSERT_TRUE(*order.outcome());
          EXPECT_LT(fastest, 1.9f * speed * step.y / step.x) << "of the line through the steps";
          EXPECT_LT(backwards, 1e-4f) << "it never dips";
          EXPECT_LT(off, 1.2f * step.y);
          pass(world, 2);
          EXPECT_NEAR(porter.position().z, down ? 0 : head.z, 1e-3f) << "a standing NPC is on the ground";
          const double line = std::hypot(10 * step.x, 10 * step.y) - 10 * static_cast<double>(step.x);
          EXPECT_NEAR(porter.statistics().metres, glm::length(flat(head - foot)) - 0.27 + line, 0.25);
        }
}

TEST(Stairs, PosesBetweenTicksAreOnTheLineToo) {
  const auto ground = stairs(0.28f, 0.17f, 10);
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.at = {3, 2, 0}});
  const Order order = porter.go_to(vec3(14.8f, 2, 1.7f));
  float before = 0;
  while (order.running()) {
    ASSERT_TRUE(world.tick(1 / 20.f));
    for (const float alpha : {0.25f, 0.5f, 0.75f, 1.f}) {
      const float z = porter.pose(alpha).position.z;
      ASSERT_LT(std::abs(z - before), 1.9f * 1.4f * 0.17f / 0.28f / 80) << world.time();
      before = z;
    }
  }
}

/// Where a tread begins, a foot comes down on it.
TEST(Stairs, AreWalkedWithOneStepPerTread) {
  for (const float tread : {0.28f, 0.4f})
    for (const bool down : {false, true})
      for (const float rate : {30.f, 60.f, 144.f}) {
        const auto ground = stairs(tread, 0.17f, 10);
        const vec3 foot(3, 2, 0), head(8 + 10 * tread + 4, 2, 1.7f);
        World world({.ground = ground.get()});
        const Npc porter = *world.add({.at = down ? head : foot});
        const Order order = porter.go_to(down ? foot : head);
        int treads = 0, risers = 0;
        const float over = 1.5f * std::hypot(tread, 0.17f) + 2 * 1.4f / rate;  // until the stairs end
        const auto tread_at = [&](float x) { return static_cast<int>(std::floor((x - 8) / tread)); };
        const auto is_stairs = [](const Motion& motion) {
          return motion.stance == Stance::stairs_up || motion.stance == Stance::stairs_down;
        };
        for (float before = porter.position().x; order.running(); before = porter.position().x) {
          ASSERT_TRUE(world.tick(1 / rate));
          const Motion motion = porter.motion();
          if (motion.position.x < 8 - over || motion.position.x > 8 + 9 * tread + over) {
            EXPECT_FALSE(is_stairs(motion)) << motion.position.x;
          }
          const int tread_before = tread_at(before), tread_now = tread_at(motion.position.x);
          const bool inside = std::min(tread_before, tread_now) >= (down ? 1 : 4) &&
                              std::max(tread_before, tread_now) <= (down ? 5 : 8);
          if (!inside || tread_before == tread_now) continue;
          ++risers;
          EXPECT_EQ(motion.stance, down ? Stance::stairs_down : Stance::stairs_up);
          const float steps = 2.f * motion.stride_phase, off = std::abs(steps - std::round(steps));
          EXPECT_LT(off, 0.05f + 2.f * 1.4f / rate / tread) << "part of a step";
          treads += off < 0.2f ? 1 : 0;
          EXPECT_NEAR(motion.stride, 2 * std::hypot(tread, 0.17f), 0.5f * tread + 4 * 1.4f / rate);
        }
        EXPECT_EQ(risers, 4);
        EXPECT_EQ(treads, 4);
      }
}

/// The slope of a ramp is as even as it is.
TEST(Slopes, AreWalkedAtTheSpeedsOfTheGait) {
  for (const float gradient : {0.3f, 0.8f}) {
    Level level;
    add_box(level, {10, 2}, -1, {20, 4, 1});
    add_sheet(level, {8, 0, 0}, {18, 0, 10 * gradient}, {18, 4, 10 * gradient}, {8, 4, 0});
    add_box(level, {21, 2}, 0, {6, 4, 10 * gradient});
    const auto ground = *MeshGround::make(level);
    const vec3 foot(3, 2, 0), head(22, 2, 10 * gradient);
    for (const float rate : {10.f, 60.f, 144.f})
      for (const bool down : {false, true}) {
        World world({.ground = ground.get()});
        const Gait gait{.speed = 2, .uphill = 0.4f, .downhill = 0.7f};
        const Npc porter = *world.add({.at = down ? head : foot, .gait = gait});
        const Order order = porter.go_to(down ? foot : head);
        while (order.running()) {
          ASSERT_TRUE(world.tick(1 / rate));
          const float x = porter.position().x;
          EXPECT_NE(porter.motion().stance, Stance::stairs_up);
          EXPECT_NE(porter.motion().stance, Stance::stairs_down);
          if (x > 11 && x < 16) {
            EXPECT_NEAR(porter.motion().speed(), 2 * (1 - (down ? 0.3f : 0.6f) * gradient), 0.03f);
            EXPECT_NEAR(porter.position().z, (x - 8) * gradient, 0.01f) << "it does not lag";
          } else if (down ? x > 18.5f && x < 20 : x > 5 && x < 7) {
            EXPECT_NEAR(porter.motion().speed(), 2, 0.01f);
          }
        }
        EXPECT_TRUE(*order.outcome());
      }
  }
}

}  // namespace
}  // namespace ambulon
