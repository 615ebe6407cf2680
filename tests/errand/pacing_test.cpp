// go_to with a time, a heading, and an NPC as its goal.

#include <cmath>
#include <limits>

#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// Three rows of crates: the route from (1, 1) to (23, 1) has six bends.
std::unique_ptr<MeshGround> crates() {
  return *MeshGround::make(Plan{.outlines = {{{0, 0}, {24, 0}, {24, 14}, {0, 14}}},
                                .solids = {{{5, 0}, {7, 0}, {7, 9}, {5, 9}},
                                           {{11, 5}, {13, 5}, {13, 14}, {11, 14}},
                                           {{17, 0}, {19, 0}, {19, 9}, {17, 9}}}});
}

TEST(ArriveIn, ArrivesAtThatTimeAroundWallsAtAnyTickRate) {
  const auto ground = crates();
  for (const float seconds : {20.f, 30.f, 60.f, 200.f})
    for (const float rate : {10.f, 30.f, 144.f}) {
      World world({.ground = ground.get()});
      const Npc porter = *world.add({.at = {1, 1, 0}});
      const Order order = porter.go_to(vec3(23, 1, 0), {.arrive_in = seconds});
      pass(world, 300, 1 / rate, [&] { return !order.running(); });
      EXPECT_TRUE(*order.outcome());
      EXPECT_NEAR(world.time(), seconds, 0.005 * seconds + 1 / rate) << rate;
    }
}

TEST(ArriveIn, ADelayIsMadeUpForWithinTwiceTheSpeed) {
  World world;
  const Npc porter = *world.add({});
  const Order order = porter.go_to(vec3(40, 0, 0), {.arrive_in = 40});
  pass(world, 10);
  porter.suspend();
  pass(world, 5);
  porter.resume();
  pass(world, 60, 1 / 60.f, [&] { return !order.running(); });
  EXPECT_NEAR(world.time(), 40, 0.4);
  EXPECT_LT(porter.statistics().top_speed, 2.05f);
  // What no speed can make up for is late, and not a leap.
  const Order late = porter.go_to(vec3(0, 0, 0), {.arrive_in = 0.01f});
  const double began = world.time();
  pass(world, 60, 1 / 60.f, [&] { return !late.running(); });
  EXPECT_TRUE(*late.outcome());
  EXPECT_GT(world.time() - began, 3) << "40 m at 4 m/s^2 and back to a stand";
  EXPECT_LE(porter.statistics().top_speed, 100.f);
}

/// In a tick such an NPC moves by less than a float can tell at its place.
TEST(ArriveIn, VerySlowPacesAreWalkedToo) {
  World world;
  const Npc snail = *world.add({.name = "snail", .at = {100, 0, 0}});
  snail.go_to(vec3(105, 0, 0), {.arrive_in = 1e6f});
  pass(world, 20'000, 0.1f);
  EXPECT_NEAR(snail.position().x - 100, 0.1, 0.01);
  EXPECT_TRUE(snail.busy());
}

TEST(GoTo, TurnsToItsFacingBeforeItEnds) {
  const auto ground = crates();
  for (const float heading : {0.f, 1.5f, -3.f, 3.14159f, 40.f}) {
    World world({.ground = ground.get(), .avoid = true});
    const Npc porter = *world.add({.at = {1, 1, 0}});
    const Order order = porter.go_to(vec3(4, 8, 0), {.facing = heading});
    pass(world, 60, 1 / 60.f, [&] { return !order.running(); });
    EXPECT_TRUE(*order.outcome());
    EXPECT_GT(glm::dot(unit(porter.heading()), unit(heading)), 0.9999f);
    EXPECT_LE(glm::distance(porter.position(), vec3(4, 8, 0)), 0.31f);
  }
}

TEST(GoTo, RefusesTimesAndFacingsThatMakeNoSense) {
  World world;
  const Npc porter = *world.add({}), cat = *world.add({.at = {3, 0, 0}});
  const float nan = std::numeric_limits<float>::quiet_NaN();
  for (const GoToOptions& options :
       {GoToOptions{.arrive_in = -1}, GoToOptions{.arrive_in = nan}, GoToOptions{.arrive_in = 1e9f},
        GoToOptions{.facing = nan}, GoToOptions{.within = 0}})
    for (const bool to_npc : {false, true}) {
      const Order order = to_npc ? porter.go_to(cat, options) : porter.go_to(vec3(5, 0, 0), options);
      pass(world, 0.1);
      EXPECT_EQ(order.outcome()->ending, Ending::refused);
      EXPECT_EQ(porter.position(), vec3(0.f));
    }
}

TEST(GoToAnNpc, ReachesItWhereverItGoesAndAtAnyTickRate) {
  const auto ground = crates();
  for (const float speed : {0.f, 0.7f, 1.3f})
    for (const bool avoid : {false, true})
      for (const float rate : {10.f, 60.f}) {
        World world({.ground = ground.get(), .avoid = avoid});
        const Npc cat =
            *world.add({.name = "cat", .at = {9, 7, 0}, .gait = {.speed = std::max(0.1f, speed)}});
        const Npc porter = *world.add({.name = "porter", .at = {1, 1, 0}});
        if (speed > 0.f) cat.go_to(vec3(23, 1, 0));
        const Order order = porter.go_to(cat, {.within = 0.8f, .facing = 1});
        pass(world, 60, 1 / rate, [&] { return !order.running(); });
        ASSERT_TRUE(order.outcome() && *order.outcome()) << speed << " " << rate;
        // It turned meanwhile, and the cat went on.
        EXPECT_LE(glm::distance(porter.position(), cat.position()), 0.85f + 1.1f * speed);
      }
}

TEST(GoToAnNpc, EndsAsGoneWithItAndIsRefusedToItself) {
  World world;
  const Npc porter = *world.add({}), cat = *world.add({.at = {9, 0, 0}});
  EXPECT_EQ(porter.go_to(porter).outcome(), std::nullopt);
  pass(world, 0.1);
  EXPECT_EQ(porter.errand().last->ending, Ending::refused);
  Order order = porter.go_to(cat);
  pass(world, 1);
  EXPECT_EQ(porter.errand().target, cat.id());
  cat.remove();
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::gone);
  order = porter.go_to(cat);
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::gone);
  const Tags strays = *world.tag("stray");
  const Npc stray = *world.add({.at = {0, 4, 0}, .tags = strays});
  order = porter.go_to_one(World::one_of(strays));
  pass(world, 20, 1 / 60.f, [&] { return !order.running(); });
  EXPECT_TRUE(*order.outcome());
  EXPECT_LT(glm::distance(porter.position(), stray.position()), 1.f);
}

/// A floor above the target is not where it is.
TEST(GoToAnNpc, OnAnotherStoreyIsReachedByItsStairsOnly) {
  const auto ground = crates();
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.at = {1, 1, 0}});
  const Npc moth = *world.add({.at = {3, 1, 0}, .drive = Drive::reported});
  EXPECT_TRUE(moth.report({3, 1, 5}));
  const Order order = porter.go_to(moth);
  pass(world, 10, 1 / 60.f, [&] {
    EXPECT_TRUE(moth.report({3, 1, 5}));
    return !order.running();
  });
  EXPECT_FALSE(order.outcome() && *order.outcome());
}

TEST(Waypoints, HaveADistanceOfTheirOwnThatCountsAsArrived) {
  World world;
  Beat points;
  EXPECT_FALSE(points.add({.position = {0, 0, 0}, .within = -1}));
  EXPECT_FALSE(points.add({.position = {0, 0, 0}, .within = std::numeric_limits<float>::quiet_NaN()}));
  EXPECT_FALSE(points.add({.position = {0, 0, 0}, .within = 1001}));
  const auto beat = std::make_shared<Beat>(BeatOrder::once);
  ASSERT_TRUE(beat->append(std::vector<Waypoint>{{.position = {5, 0, 0}, .pause = {1, 1}, .within = 2},
                                                 {.position = {5, 9, 0}, .pause = {1, 1}}}));
  const Npc porter = *world.add({});
  const Order order = porter.patrol(beat, {.start = PatrolStart::first, .within = 0.2f});
  pass(world, 20, 1 / 60.f, [&] { return porter.statistics().arrivals == 1; });
  EXPECT_NEAR(glm::distance(porter.position(), vec3(5, 0, 0)), 2, 0.25);
  pass(world, 20, 1 / 60.f, [&] { return !order.running(); });
  EXPECT_LE(glm::distance(porter.position(), vec3(5, 9, 0)), 0.21f);
  porter.hop(beat, {.visits = 2, .within = 0.2f});
  for (int visit = 1; visit <= 2; ++visit) {
    const std::uint32_t before = porter.statistics().arrivals;
    pass(world, 30, 1 / 60.f, [&] { return porter.statistics().arrivals > before; });
    const bool first = glm::distance(porter.position(), vec3(5, 0, 0)) < 3;
    EXPECT_NEAR(glm::distance(porter.position(), first ? vec3(5, 0, 0) : vec3(5, 9, 0)), first ? 1.9 : 0.2,
                0.3);
  }
}

/// Reversals of the acceleration that change the speed by more than 5 %, each within 0.5 s of the last.
TEST(ClickToMove, ThePointerThatMovesAlongIsFollowedAtAnEvenSpeed) {
  for (const float ahead : {0.4f, 0.5f, 1.f, 3.f})
    for (const float rate : {10.f, 30.f, 60.f, 144.f}) {
      World world;
      const Npc porter = *world.add({});
      const auto clicks = std::make_shared<Clicks>();
      ASSERT_TRUE(clicks->hold({ahead, 0, 0}));
      porter.click_to_move(clicks);
      float slowest = 10, fastest = 0;
      while (world.time() < 10) {
        const auto turn = static_cast<float>(0.5 * world.time());
        ASSERT_TRUE(clicks->hold(porter.position() + lift(ahead * unit(turn))));
        ASSERT_TRUE(world.tick(1 / rate));
        if (world.time() < 3) continue;
        slowest = std::min(slowest, porter.motion().speed());
        fastest = std::max(fastest, porter.motion().speed());
      }
      EXPECT_LT(fastest - slowest, 0.05f * fastest) << ahead << " " << rate;
      EXPECT_GT(slowest, 0.3f);
    }
}

TEST(ClickToMove, ThePointerIsFollowedAroundAWallThatComesBetween) {
  const auto ground = crates();
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.at = {3, 2, 0}});
  const auto clicks = std::make_shared<Clicks>();
  ASSERT_TRUE(clicks->hold({3.5f, 2, 0}));
  porter.click_to_move(clicks, {.every = 0.5f});
  for (int i = 0; i < 60 * 20; ++i) {
    ASSERT_TRUE(clicks->hold({std::min(9.f, 3.5f + 0.05f * static_cast<float>(i)), 2, 0}));
    ASSERT_TRUE(world.tick(1 / 60.f));
    const vec3 at = porter.position();
    ASSERT_TRUE(ground->snap(at, 0.01f)) << at.x << ", " << at.y;
  }
  EXPECT_LT(glm::distance(porter.position(), vec3(9, 2, 0)), 0.5f);
}

}  // namespace
}  // namespace ambulon
