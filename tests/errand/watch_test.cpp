// Detection of missing progress, and interrupted orders.

#include <algorithm>
#include <limits>

#include "quay.hpp"

namespace ambulon {
namespace {

/// Walks an NPC whose body the game moves: `reach(advised displacement)` returns the actual one.
struct Held {
  World world{WorldOptions{.patience = 4}};
  Npc npc = *world.add({.name = "courier", .drive = Drive::advised});
  template <class Reach>
  void pass(double seconds, Reach&& reach) {
    for (double time = 0; time < seconds; time += 1 / 60.0) {
      ASSERT_TRUE(world.tick(1.f / 60.f));
      ASSERT_TRUE(npc.report(npc.position() + reach(npc.advice().velocity / 60.f)));
    }
  }
};

TEST(ProgressWatch, AWallInTheWayIsPlannedRoundSteppedAsideFromAndEndsAsStuck) {
  Held held;
  const Order order = held.npc.go_to({30, 0, 0});
  // A window sill: nothing goes beyond x = 3, but along it one can move.
  held.pass(12, [&](vec3 way) {
    way.x = std::min(way.x, 3.f - held.npc.position().x);
    return way;
  });
  EXPECT_EQ(order.outcome()->ending, Ending::stuck);
  const std::string text = told(held.world);
  const auto replans = text.find("plans its route again"), aside = text.find("steps aside"),
             stuck = text.find("ended as stuck");
  EXPECT_LT(replans, aside) << text;
  EXPECT_LT(aside, stuck) << text;
  EXPECT_GT(std::abs(held.npc.position().y), 0.3f);  // it really stepped aside
}

TEST(ProgressWatch, SteppingAsideFreesItFromAPostInTheWay) {
  Held held;
  const Order order = held.npc.go_to({10, 0, 0});
  held.pass(20, [&](vec3 way) {
    const vec3 at = held.npc.position();
    if (at.x < 3 && at.x + way.x >= 3 && std::abs(at.y) < 0.4f) way.x = 2.999f - at.x;
    return way;
  });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_EQ(count(held.world, Event::side_steps), 1);
}

TEST(ProgressWatch, WhoIsHeldFastIsNamedSo) {
  Held held;
  const Order order = held.npc.go_to({10, 0, 0});
  held.pass(8, [](vec3) { return vec3(0.f); });
  EXPECT_EQ(order.outcome()->ending, Ending::stuck);
  EXPECT_EQ(order.outcome()->cause, Cause::held_fast);
  EXPECT_GT(held.npc.statistics().held_seconds, 3);
}

TEST(ProgressWatch, EveryErrandThatWalksIsWatched) {
  const auto ends_stuck = [](auto&& give) {
    Held held;
    const Npc far = *held.world.add({.at = {40, 0, 0}});
    const Order order = give(held.npc, far);
    // Pushed about without progress: not held fast, but without headway.
    held.pass(80, [&](vec3 way) { return vec3(0, way.x, 0) + vec3(0, 1e-3f, 0); });
    return order.outcome() && order.outcome()->ending == Ending::stuck;
  };
  EXPECT_TRUE(ends_stuck([](Npc me, Npc) { return me.go_to({30, 0, 0}); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc) { return me.patrol(lamps); }));
  EXPECT_TRUE(ends_stuck(
      [](Npc me, Npc) { return me.patrol(*make_beat(lamps, BeatOrder::around, BeatPath::curve)); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc) { return me.roam({.radius = 1, .home = vec3(40, 0, 0)}); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc) { return me.hop(lamps); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc) { return me.wander(); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc) { return me.pace(); }));
  EXPECT_TRUE(
      ends_stuck([](Npc me, Npc) { return me.flee(*me.world()->add({.at = {0, 40, 0}}), {.reach = 1000}); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc far) { return me.follow(far); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc far) { return me.chase(far); }));
  EXPECT_TRUE(ends_stuck([](Npc me, Npc far) { return me.escort(far); }));
}

TEST(Order, MayBeHaltedAndResumedAndItsPausesStandStill) {
  World world;
  const Npc cat = *world.add({.name = "cat"});
  const Order walk = cat.go_to({10, 0, 0});
  pass(world, 2);
  cat.suspend();
  pass(world, 5);
  EXPECT_EQ(cat.motion().speed(), 0.f);
  EXPECT_EQ(cat.doing(), "suspended");
  EXPECT_TRUE(walk.running());
  const float stood = cat.position().x;
  cat.resume();
  pass(world, 60, 1.f / 60.f, [&] { return !walk.running(); });
  EXPECT_EQ(walk.outcome()->ending, Ending::arrived);
  EXPECT_GT(cat.position().x, stood + 3);
  const Order pause = cat.pause(1);
  pass(world, 0.5);
  cat.suspend();
  pass(world, 10);
  cat.resume();
  EXPECT_NEAR(pass(world, 5, 1.f / 60.f, [&] { return !pause.running(); }), 0.5, 0.05);
  EXPECT_TRUE(contains(told(world), "cat was suspended at"));
}

TEST(Order, GoesOnFromWhereItsNpcIsPutAndOffTheGroundItStays) {
  const OpenGround quay(vec2(0), vec2(20));
  World world({.ground = &quay});
  const Npc courier = *world.add({.at = {1, 1, 0}});
  const Order order = courier.go_to({10, 10, 0});
  pass(world, 1);
  EXPECT_EQ(courier.teleport({19, 1, 0}).value(), vec3(19, 1, 0));
  EXPECT_EQ(courier.position(), vec3(19, 1, 0));
  EXPECT_TRUE(
      contains(courier.teleport({50, 1, 0}).error().text, "the nearest spot is (20.00, 1.00), 30.00 m off"));
  pass(world, 20, 1.f / 60.f, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_LT(courier.statistics().metres, 15);  // what it was carried over is not walked
}

TEST(Order, ChangesItsPaceInTheMiddle) {
  World world;
  const Npc cat = *world.add({.name = "cat", .gait = {.speed = 1}});
  cat.go_to({100, 0, 0});
  pass(world, 3);
  EXPECT_TRUE(cat.set_speed(3));
  pass(world, 3);
  EXPECT_NEAR(cat.motion().speed(), 3.f, 0.01f);
  EXPECT_EQ(cat.set_speed(-1).error().text, "gait speed is -1 m/s; it must lie between 0.01 and 100");
  EXPECT_TRUE(contains(told(world), "cat moves at 3.00 m/s from now on"));
}

TEST(Order, ATimeLimitEndsItToTheMillisecond) {
  World world;
  const Npc cat = *world.add({});
  const Order order = cat.go_to({100, 0, 0}).time_limit(1.2345f);
  pass(world, 3);
  EXPECT_EQ(order.outcome()->ending, Ending::timed_out);
  EXPECT_EQ(order.outcome()->why(), "its time limit of 1.2345 s has passed");
  EXPECT_NEAR(world.journal()[world.journal().next() - 1].time, 1.2345, 1e-3);
}

TEST(Condition, ArrivedAndStuckHoldForWhatHappensFromNowOn) {
  Held held;
  const Npc watcher = *held.world.add({.at = {0, 5, 0}});
  held.npc.go_to({2, 0, 0});
  held.pass(5, [](vec3 way) { return way; });
  const Condition arrived = watcher.until_arrived(held.npc), stuck = watcher.until_stuck(held.npc);
  EXPECT_FALSE(arrived.check());  // it had arrived before
  held.npc.go_to({4, 0, 0});
  held.pass(5, [](vec3 way) { return way; });
  EXPECT_TRUE(arrived.check());
  EXPECT_FALSE(stuck.check());
  held.npc.go_to({9, 0, 0});
  held.pass(8, [](vec3) { return vec3(0.f); });
  EXPECT_TRUE(stuck.check());
}

TEST(Tags, AWorldHasSixtyFour) {
  World world;
  for (int i = 0; i < 64; ++i) EXPECT_TRUE(world.tag("tag " + std::to_string(i)));
  EXPECT_EQ(*world.tag("tag 5"), *world.tag("tag 5"));
  EXPECT_EQ(world.tag("cat").error().text, "the tag \"cat\" would be the 65th; a world has at most 64");
}

}  // namespace
}  // namespace ambulon
