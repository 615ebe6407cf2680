// Bodies that the game moves itself: Ambulon advises, and the game reports.

#include <limits>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// A game's character body on a frictional floor, which follows the advice imperfectly.
struct Body3 {
  vec3 at{0.f};
  float follows = 1.f;  // fraction of the advised velocity that it reaches
  vec3 drift{0.f};      // metres per second that push it
};

struct Advised {
  World world;
  Npc npc = *world.add({.name = "porter", .drive = Drive::advised});
  Body3 body;

  void pass(double seconds, float tick = 1.f / 60.f) {
    for (double t = 0; t < seconds - 1e-6; t += tick) {
      EXPECT_TRUE(world.tick(tick));
      body.at += tick * (body.follows * npc.advice().velocity + body.drift);
      EXPECT_TRUE(npc.report(body.at));
    }
  }
};

TEST(Advised, ArrivesLikeABodyThatAmbulonMoves) {
  Advised game;
  World own;
  const Npc twin = *own.add({});
  const Order order = game.npc.go_to({6, 2, 0});
  twin.go_to({6, 2, 0});
  game.pass(8);
  pass(own, 8);
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_LT(flat_distance(game.npc.position(), twin.position()), 0.1f);
  EXPECT_NEAR(game.npc.statistics().metres, twin.statistics().metres, 0.1);
  EXPECT_EQ(
      count(game.world, Event::pushed) + count(game.world, Event::lags) + count(game.world, Event::held_fast),
      0);
}

TEST(Advised, ArrivesWithStepsLongerThanTheArrivalDistance) {
  Advised game;
  ASSERT_TRUE(game.npc.set_gait({.speed = 10, .acceleration = 100, .braking = 100}));
  const Order order = game.npc.go_to({30, 2, 0}, {.within = 0.05f});
  game.pass(8, 0.25f);
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
}

TEST(Advised, APatrolOfABodyThatLagsGoesOnAndTheJournalNamesIt) {
  Advised game;
  game.npc.patrol(lamps);
  game.pass(3);
  game.body.follows = 0.4f;
  game.pass(5);
  EXPECT_EQ(count(game.world, Event::lags), 1);
  EXPECT_TRUE(contains(told(game.world), "porter lags: its body moves at 0.")) << told(game.world);
  game.body.follows = 1.f;
  game.pass(25);
  EXPECT_EQ(count(game.world, Event::moving_again), 1) << told(game.world);
  EXPECT_GT(game.npc.statistics().arrivals, 2U);
}

TEST(Advised, PushesAreNamedSuddenAndSteady) {
  Advised sudden;
  sudden.npc.go_to({20, 0, 0});
  sudden.pass(2);
  sudden.body.at += vec3(0, 1.5f, 0);
  sudden.pass(1);
  EXPECT_EQ(count(sudden.world, Event::pushed), 1);
  EXPECT_TRUE(contains(told(sudden.world), "porter was pushed 1.50 m off its route")) << told(sudden.world);

  Advised steady;
  const Order order = steady.npc.go_to({20, 0, 0});
  steady.body.drift = vec3(0, 0.6f, 0);
  steady.pass(6);
  EXPECT_EQ(count(steady.world, Event::pushed), 1) << told(steady.world);
  steady.body.drift = vec3(0.f);
  steady.pass(16);
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);

  Advised standing;
  standing.body.drift = vec3(0.8f, 0, 0);
  standing.pass(2);
  EXPECT_EQ(count(standing.world, Event::pushed), 1) << told(standing.world);
}

TEST(Advised, HeldFastIsNamedAndEndsTheOrderAsStuck) {
  Advised game;
  const Order order = game.npc.go_to({20, 0, 0});
  game.pass(2);
  game.body.follows = 0.f;
  game.pass(2);
  EXPECT_TRUE(order.running());
  EXPECT_EQ(count(game.world, Event::held_fast), 1) << told(game.world);
  EXPECT_TRUE(contains(told(game.world), "porter is held fast at (2.")) << told(game.world);
  game.pass(4);
  EXPECT_EQ(order.outcome()->ending, Ending::stuck);
  EXPECT_TRUE(contains(order.outcome()->why(), "it was held fast at (2.")) << order.outcome()->why();
  // After it is freed, it continues with the next order.
  game.body.follows = 1.f;
  const Order next = game.npc.go_to({5, 0, 0});
  game.pass(6);
  EXPECT_EQ(next.outcome()->ending, Ending::arrived);
}

TEST(Advised, SilenceAndBadReportsAreNamed) {
  Advised game;
  game.npc.go_to({9, 0, 0});
  pass(game.world, 2);
  EXPECT_EQ(count(game.world, Event::silent), 1) << told(game.world);
  EXPECT_EQ(game.npc.position(), vec3(0.f));
  EXPECT_FALSE(game.npc.report({std::numeric_limits<float>::quiet_NaN(), 0, 0}));
  const Npc own = *game.world.add({.name = "cat"});
  EXPECT_EQ(own.report({1, 1, 0}).error().text,
            "cat is moved by Ambulon; add it with Drive::advised or Drive::reported to move it yourself");
}

TEST(Reported, APlayerGoesWhereItLikesAndGetsNoVerdicts) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 8}, {0, 8}}}});
  World world({.ground = ground.get(), .avoid = true});
  const Npc player = *world.add({.name = "player", .at = {3, 4, 0}, .drive = Drive::reported});
  const Npc cat = *world.add({.name = "cat", .at = {17, 4, 0}});
  const Order order = player.go_to({5, 4, 0});
  EXPECT_EQ(order.outcome()->cause, Cause::takes_no_orders);
  const Order follow = cat.follow(player);
  // It runs, reports nothing for a while, jumps 1.2 m high, and stands on a crate off the ground.
  vec3 at(3, 4, 0);
  for (int tick = 0; tick < 1200; ++tick) {
    ASSERT_TRUE(world.tick(1.f / 60));
    if (tick < 120) at.x += 4.f / 60;
    if (tick >= 300 && tick < 360) at.z = 1.2f * std::sin(pi * static_cast<float>(tick - 300) / 60);
    if (tick == 600) at = {10, -3, 1};
    if (tick == 900) at = {10, 1, 0};
    if (tick < 200 || tick >= 300) {
      ASSERT_TRUE(player.report(at));
    }
    if (tick == 60) {
      EXPECT_NEAR(player.velocity().x, 4, 0.05);
      EXPECT_NEAR(player.motion().facing.x, 1, 1e-3);
    }
    ASSERT_TRUE(follow.running());
    EXPECT_EQ(player.position().x, world.find("player").position().x);
  }
  EXPECT_LT(flat_distance(cat.position(), at), 2.5);
  for (const Event verdict :
       {Event::pushed, Event::lags, Event::held_fast, Event::silent, Event::moving_again})
    EXPECT_EQ(count(world, verdict), 0);
  EXPECT_LE(count(world, Event::waits), 1);
}

TEST(Reported, HeadingAndVelocityAreTakenAsTheGameSays) {
  for (const Drive drive : {Drive::advised, Drive::reported}) {
    World world;
    const Npc player = *world.add({.name = "player", .drive = drive});
    ASSERT_TRUE(world.tick(0.1f));
    ASSERT_TRUE(player.report({1, 0, 0}, {.heading = radians(90.f), .velocity = vec3(0, 3, 0)}));
    ASSERT_TRUE(world.tick(0.1f));
    EXPECT_NEAR(player.motion().facing.y, 1, 1e-5);
    EXPECT_EQ(player.velocity(), vec2(0, 3));
    const float nan = std::numeric_limits<float>::quiet_NaN();
    EXPECT_FALSE(player.report({2, 0, 0}, {.heading = nan}));
    EXPECT_FALSE(player.report({2, 0, 0}, {.velocity = vec3(0, nan, 0)}));
    ASSERT_TRUE(world.tick(0.1f));
    EXPECT_EQ(player.position().x, 1);
  }
}

}  // namespace
}  // namespace ambulon
