// What is moved along a given path: ease_to and sway, and NPCs that stand on it.

#include "errand/ease_to.hpp"

#include <algorithm>
#include <limits>

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(EaseTo, GetsThereInItsTimeAtAnyTickRateAlongAStraightLine) {
  for (const Easing easing : {Easing::linear, Easing::in, Easing::out, Easing::in_out})
    for (const float rate : {7.f, 30.f, 144.f}) {
      World world;
      const Npc raft = *world.add({.at = {1, 1, 0}, .gait = {.speed = 0.01f}});  // the gait does not count
      const Order order = raft.ease_to({13, 6, 0}, {.seconds = 2.5f, .easing = easing});
      float off = 0.f;
      const double took = pass(world, 10, 1.f / rate, [&] {
        off = std::max(off, std::abs(cross(direction({12, 5}), flat(raft.position()) - vec2(1, 1))));
        return !order.running();
      });
      EXPECT_NEAR(world.journal()[world.journal().next() - 1].time, 2.5, 1e-3) << took;
      EXPECT_LT(flat_distance(raft.position(), {13, 6, 0}), 1e-4f);
      EXPECT_LT(off, 1e-4f);
      EXPECT_EQ(raft.motion().speed(), 0.f);
      pass(world, 1);
      EXPECT_LT(flat_distance(raft.position(), {13, 6, 0}), 1e-4f);
    }
}

TEST(EaseTo, EasesAsItsNameSays) {
  EXPECT_FLOAT_EQ(eased(Easing::linear, 0.25f), 0.25f);
  EXPECT_LT(eased(Easing::in, 0.25f), 0.25f);
  EXPECT_GT(eased(Easing::out, 0.25f), 0.25f);
  EXPECT_FLOAT_EQ(eased(Easing::in_out, 0.5f), 0.5f);
  EXPECT_LT(eased(Easing::in_out, 0.1f), 0.1f);
  for (const Easing easing : {Easing::linear, Easing::in, Easing::out, Easing::in_out}) {
    EXPECT_EQ(eased(easing, 0.f), 0.f);
    EXPECT_EQ(eased(easing, 1.f), 1.f);
  }
}

TEST(EaseTo, TurnsFirstOrOnTheWayOrNotAtAll) {
  const auto headings = [](EaseToTurn turn) {
    World world;
    const Npc cart = *world.add({.gait = {.turn_rate = pi / 2}});
    cart.ease_to({0, 8, 0}, {.seconds = 4, .turn = turn});
    pass(world, 0.5);
    const vec3 at = cart.position();
    const float early = cart.heading();
    pass(world, 3.6);
    EXPECT_LT(flat_distance(cart.position(), {0, 8, 0}), 1e-3f);
    return std::array{at.y, early, cart.heading()};
  };
  const auto first = headings(EaseToTurn::first), going = headings(EaseToTurn::going),
             never = headings(EaseToTurn::never);
  EXPECT_EQ(first[0], 0.f);
  EXPECT_NEAR(first[1], pi / 4, 0.02f);
  EXPECT_GT(going[0], 0.1f);
  EXPECT_NEAR(going[1], pi / 4, 0.02f);
  EXPECT_NEAR(going[2], pi / 2, 0.02f);
  EXPECT_EQ(never[2], 0.f);
}

TEST(EaseTo, EndsAsBlockedWhereThereIsNoGroundUnlessItMayGoAnywhere) {
  const OpenGround quay(vec2(0), vec2(10));
  World world({.ground = &quay});
  const Npc raft = *world.add({.at = {8, 5, 0}});
  const Order order = raft.ease_to({14, 5, 0}, {.seconds = 1});
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::blocked);
  EXPECT_EQ(order.outcome()->why(), "the straight line from (8.00, 5.00) is free for only 2.00 m");
  raft.ease_to({14, 5, 3}, {.seconds = 1, .anywhere = true});
  pass(world, 1.1);
  EXPECT_LT(glm::length(raft.position() - vec3(14, 5, 3)), 1e-3f);
}

TEST(Sway, GoesThereAndBackByASineOrRoundAnEllipse) {
  World world;
  const Npc duck = *world.add({.at = {5, 5, 0}}), moth = *world.add({.at = {0, 0, 0}});
  duck.sway({.axis = {2, 0, 0}, .frequency = 0.5f});
  const Order ellipse = moth.sway({.axis = {0, 1, 0}, .across = {3, 0, 0}, .frequency = 0.25f, .times = 2});
  for (int tick = 1; tick <= 240; ++tick) {
    ASSERT_TRUE(world.tick(1.f / 60.f));
    const float time = static_cast<float>(tick) / 60.f;
    EXPECT_NEAR(duck.position().x, 5 + 2 * std::sin(pi * time), 1e-3f);
    EXPECT_NEAR(moth.position().y, std::sin(0.5f * pi * time), 1e-3f);
    EXPECT_NEAR(moth.position().x, 3 * std::cos(0.5f * pi * time) - 3, 2e-3f);
  }
  pass(world, 5);
  EXPECT_EQ(ellipse.outcome()->ending, Ending::done);
  EXPECT_LT(flat_distance(moth.position(), vec3(0.f)), 0.01f);
  const Order bad = duck.sway({.frequency = std::numeric_limits<float>::quiet_NaN()});
  pass(world, 0.05);
  EXPECT_EQ(bad.outcome()->ending, Ending::refused);
}

TEST(Sway, GoesOnWhereItWasWhenItWasHalted) {
  World world;
  const Npc raft = *world.add({});
  raft.sway({.axis = {4, 0, 0}, .frequency = 0.2f});
  pass(world, 1);
  raft.suspend();
  const vec3 held = raft.position();
  pass(world, 3);
  EXPECT_LT(glm::length(raft.position() - held), 1e-4f);
  raft.resume();
  pass(world, 0.25);
  EXPECT_NEAR(raft.position().x, 4 * std::sin(0.4f * pi * 1.25f), 1e-2f);
}

TEST(Deck, CarriesWhoeverStandsOnItRoundBendsTooUntilTheyStepOff) {
  World world;
  const Npc raft = *world.add({.name = "ferry", .body = {.deck = {4, 2}}});
  const Npc rider = *world.add({.name = "courier", .at = {1, 0.5f, 0}});
  const Npc ashore = *world.add({.name = "duck", .at = {1, -1.5f, 0}});
  raft.sway({.axis = {0, 10, 0}, .across = {10, 0, 0}, .frequency = 0.05f, .anywhere = true});
  pass(world, 5);
  EXPECT_LT(flat_distance(rider.position() - raft.position(), {1, 0.5f, 0}), 1e-3f);
  EXPECT_GT(flat_distance(raft.position(), vec3(0.f)), 5.f);
  EXPECT_EQ(ashore.position(), vec3(1, -1.5f, 0));
  EXPECT_EQ(rider.statistics().metres, 0);  // carried distance is not walked distance
  EXPECT_TRUE(contains(told(world), "courier stepped onto ferry"));
  rider.go_to(raft.position() + vec3(-40, 0, 0));
  pass(world, 10);
  EXPECT_TRUE(contains(told(world), "courier stepped off ferry"));
  // The riders rotate about the deck's centre.
  raft.cancel();
  rider.cancel();
  ASSERT_TRUE(rider.teleport(raft.position() + vec3(1, 0, 0)));
  pass(world, 0.1);
  raft.turn_to_heading(pi / 2);
  pass(world, 2);
  EXPECT_LT(flat_distance(rider.position() - raft.position(), {0, 1, 0}), 0.02f);
}

TEST(Deck, WhoStoodOnARaftThatIsGoneStaysOnTheGroundAgain) {
  const OpenGround quay(vec2(-3), vec2(3));
  World world({.ground = &quay});
  const Npc raft = *world.add({.body = {.deck = {4, 4}}}), rider = *world.add({.at = {1, 0, 0}});
  pass(world, 0.1);
  raft.remove();
  auto onward = std::make_shared<Blend>();
  ASSERT_TRUE(onward->add({.behaviour = Behaviour::seek, .at = vec3(50, 0, 0)}));
  rider.steer(onward);
  pass(world, 10);
  EXPECT_NEAR(rider.position().x, 3.f, 1e-3f);
}

}  // namespace
}  // namespace ambulon
