// Pacing and wandering: no goal, but obstacles ahead.

#include <algorithm>

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

RC_GTEST_PROP(Pace, TurnsRoundBeforeWhatIsInTheWayAtAnySpeedAndTick, ()) {
  const OpenGround trough(vec2(-10, -5), vec2(10, 5));
  World world({.ground = &trough});
  const float speed = between(0.3f, 10);
  const Npc crab =
      *world.add({.body = {.radius = 0.2f},
                  .gait = {.speed = speed, .acceleration = between(2, 50), .braking = between(2, 50)}});
  RC_ASSERT(world.add({.at = {6, 0.3f, 0}, .body = {.radius = 0.5f}}).has_value());
  crab.pace({.heading = 0.f, .gap = 0.2f});
  float right = -99.f, left = 99.f;
  pass(world, 30 + 80 / speed, 1.f / between(15, 240), [&] {
    right = std::max(right, crab.position().x);
    left = std::min(left, crab.position().x);
    return false;
  });
  const float touch = 6 - std::sqrt(0.7f * 0.7f - 0.3f * 0.3f);
  RC_ASSERT(right < touch - 0.2f + 1e-3f);
  RC_ASSERT(right > touch - 0.3f);
  RC_ASSERT(left > -9.8f - 1e-3f);
  RC_ASSERT(left < -9.7f);
  RC_ASSERT(std::abs(crab.position().y) < 1e-4f);
}

TEST(Pace, PausesFlipsAndCountsItsTurns) {
  const OpenGround trough(vec2(0), vec2(4, 1));
  World world({.ground = &trough});
  const Npc crab = *world.add({.name = "crab", .at = {2, 0.5f, 0}, .gait = {.speed = 2}});
  const Order order = crab.pace({.pause = {0.5f, 0.5f}, .flip = true, .turns = 3});
  bool between_headings = false;
  const double took = pass(world, 60, 1.f / 60.f, [&] {
    const float heading = std::abs(crab.heading());
    between_headings = between_headings || (heading > 0.01f && heading < pi - 0.01f);
    return !order.running();
  });
  EXPECT_FALSE(between_headings);
  EXPECT_EQ(order.outcome()->why(), "it has done so 3 times, as ordered");
  EXPECT_EQ(count(world, Event::turned_around), 3);
  EXPECT_GT(took, 1.5 + 9 / 2.0);
  EXPECT_TRUE(contains(told(world), "crab turned around at the edge"));
}

TEST(Pace, WithNoRoomItWaitsInsteadOfSpinning) {
  World world;
  const Npc crab = *world.add({.name = "crab", .body = {.radius = 0.2f}});
  ASSERT_TRUE(world.add({.name = "crate", .at = {-0.5f, 0, 0}, .body = {.radius = 0.3f}}));
  ASSERT_TRUE(world.add({.at = {0.5f, 0, 0}, .body = {.radius = 0.3f}}));
  crab.pace();
  pass(world, 10);
  EXPECT_LT(count(world, Event::turned_around), 16);
  EXPECT_TRUE(contains(told(world), "crab turned around before crate"));
  EXPECT_LT(flat_distance(crab.position(), vec3(0.f)), 0.05f);
}

TEST(Pace, PassesThroughThoseItsBodyPasses) {
  World world;
  const Tags weed = *world.tag("weed");
  const Npc crab = *world.add({.body = {.passes = weed}});
  ASSERT_TRUE(world.add({.at = {3, 0, 0}, .tags = weed}));
  crab.pace({.heading = 0.f});
  pass(world, 10);
  EXPECT_GT(crab.position().x, 10.f);
}

RC_GTEST_PROP(Wander, StaysOnTheQuayAndWalksOnAtItsSpeed, ()) {
  const OpenGround quay(vec2(-6, -4), vec2(6, 4));
  World world({.ground = &quay, .seed = static_cast<std::uint64_t>(*rc::gen::inRange(0, 1000))});
  const Npc cat = *world.add({.gait = {.speed = 1}});
  cat.wander({.turn = between(0.2f, 2), .every = between(0.3f, 2)});
  bool on_quay = true;
  pass(world, 60, 1.f / between(15, 120), [&] {
    on_quay = on_quay && quay.snap(cat.position(), 1e-3f);
    return false;
  });
  RC_ASSERT(on_quay);
  RC_ASSERT(cat.statistics().metres > 45);
}

TEST(Wander, IsTheSameAtAnyTickRateAndComesBackFromBeyondItsRadius) {
  std::vector<vec3> ends;
  for (const float rate : {30.f, 60.f, 144.f}) {
    World world({.seed = 5});
    const Npc cat = *world.add({.gait = {.speed = 1, .acceleration = 1000, .braking = 1000}});
    cat.wander();
    pass(world, 20, 1.f / rate);
    ends.push_back(cat.position());
  }
  EXPECT_LT(flat_distance(ends[0], ends[1]), 0.1f);
  EXPECT_LT(flat_distance(ends[2], ends[1]), 0.1f);
  World world;
  const Npc cat = *world.add({});
  cat.wander({.radius = 5});
  float furthest = 0.f;
  pass(world, 300, 1.f / 30.f, [&] {
    furthest = std::max(furthest, glm::length(cat.position()));
    return false;
  });
  EXPECT_GT(furthest, 4.f);
  EXPECT_LT(furthest, 8.f);
}

}  // namespace
}  // namespace ambulon
