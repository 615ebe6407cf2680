// Bodies that the game moves itself: Ambulon advises, the game reports.

#include <limits>

#include "quay.hpp"

namespace ambulon {
namespace {

/// A game's own character body on a frictional floor: follows the advice in its own manner.
struct Body3 {
  vec3 at{0.f};
  float follows = 1.f;  // part of the advised velocity that it reaches
  vec3 drift{0.f};      // metres per second that something pushes it by
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
  EXPECT_NEAR(game.npc.tally().metres, twin.tally().metres, 0.1);
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
  EXPECT_GT(game.npc.tally().arrivals, 2U);
}

TEST(Advised, PushesAreNamedSuddenAndSteady) {
  Advised sudden;
  sudden.npc.go_to({20, 0, 0});
  sudden.pass(2);
  sudden.body.at += vec3(0, 1.5f, 0);
  sudden.pass(1);
  EXPECT_EQ(count(sudden.world, Event::pushed), 1);
  EXPECT_TRUE(contains(told(sudden.world), "porter was pushed 1.50 m off its way")) << told(sudden.world);

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
  // It can be freed, and goes on with the next order.
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
            "cat is moved by Ambulon; add it with Drive::advised to move it yourself");
}

}  // namespace
}  // namespace ambulon
