// Orders make progress, end, or report what they wait for; none that makes progress ends as stuck.

#include <algorithm>
#include <cmath>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "generate.hpp"
#include "level_maker.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Headway, ARunnerSlidesPastTheCornerAtTheHeadOfTheStairs) {
  Level level;
  add_sheet(level, {0, 0, 0}, {30, 0, 0}, {30, 12, 0}, {0, 12, 0});
  add_steps(level, {14, 6, 0}, {0.3f, 3, 0.2f}, 12);
  add_box(level, {23.8f, 6}, 2.1f, {12.4f, 12, 0.3f});
  const auto ground = MeshGround::make(level).value();
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.at = {21.9995728f, 3.26016426f, 2.4000001f},
                                 .body = {.radius = 0.059155494f},
                                 .gait = {.speed = 2.99254704f}});
  const Order order = porter.go_to({3.69668913f, 1.81242716f, 0});
  EXPECT_LT(pass(world, 30, 1.f / 30, [&] { return !order.running(); }), 10);
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_EQ(count(world, Event::replans), 0);
}

TEST(Headway, NobodyCreepsRoundTheCornersOfTiles) {
  std::vector<std::uint8_t> cells(40 * 30, 1);
  for (std::size_t y = 0; y < 30; ++y)
    if (y != 15) cells[y * 40 + 20] = TileMap::blocked;
  const TileGround ground(*TileMap::make(cells, {.width = 40, .height = 30}));
  World world({.ground = &ground});
  for (int i = 0; i < 120; ++i)
    world
        .add({.at = {0.5f + 0.3f * static_cast<float>(i % 40), i < 60 ? 0.5f : 6.5f, 0},
              .body = {.radius = 0.2f}})
        ->go_to({22.5f, 2.5f, 0});
  pass(world, 60, 1.f / 60);
  EXPECT_EQ(count(world, Event::replans), 0);
  EXPECT_EQ(count(world, Event::ended), 120);
}

TEST(Headway, WhoGetsOnIsNotTakenForStuckHoweverSlowlyItGetsGoing) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {60, 0}, {60, 60}, {0, 60}}},
                                             .solids = {{{20, 20}, {40, 20}, {40, 40}, {20, 40}}}});
  const Gait barge{.speed = 5, .acceleration = 0.1f, .braking = 0.1f, .turn_rate = 0.2f};
  for (const Gait& gait : {Gait{.speed = 0.02f}, Gait{}, Gait{.speed = 30}, barge})
    for (const float rate : {10.f, 30.f, 144.f})
      for (const float patience : {0.1f, 4.f}) {
        World world({.ground = ground.get(), .patience = patience});
        const Npc npc =
            *world.add({.at = {10, 30, 0}, .heading = pi, .body = {.radius = 0.2f}, .gait = gait});
        const Order order = npc.go_to({50, 30, 0});
        pass(world, 60, 1 / rate, [&] { return !order.running(); });
        EXPECT_EQ(count(world, Event::replans), 0)
            << gait.speed << " m/s, rate " << rate << ", patience " << patience;
        EXPECT_TRUE(order.running() || order.outcome()->ending == Ending::arrived);
      }
}

TEST(Headway, ABodyThatTheGameLetsSlideAlongAWallIsStuckInTheEnd) {
  const OpenGround quay(vec2(0), vec2(20));
  World world({.ground = &quay});
  const Npc player = *world.add({.at = {10, 10, 0}, .drive = Drive::advised});
  const Order order = player.go_to({18, 18, 0});
  vec3 at = player.position();
  pass(world, 300, 1.f / 30, [&] {
    at += player.advice().velocity / 30.f;
    at = {std::min(at.x, 12.f), 10 + std::sin(0.6f * static_cast<float>(world.time())),
          0};  // a wall of glass
    EXPECT_TRUE(player.report(at));
    return !order.running();
  });
  EXPECT_EQ(order.outcome()->ending, Ending::stuck);
  EXPECT_LT(world.time(), 20);
}

/// A game's errand that keeps walking towards a goal behind a wall.
class Push final : public Errand {
 public:
  std::string_view name() const override { return "push"; }
  std::optional<vec3> goal() const override { return vec3(50, 3, 0); }
  std::optional<float> left(const View& see) const override { return 50 - see.me.position.x; }
  Progress progress(const View&) const override { return {}; }
  Step step(const View& see, float) override { return {.intent = {.velocity = {see.gait.speed, 0}}}; }
};

/// In a world with avoidance as well: an NPC a floor above is no obstacle, and slow NPCs do not count as
/// crowded.
TEST(Headway, AnErrandThatWalksAgainstAWallEndsAsStuckWhoeverStandsAbove) {
  Level level;
  for (const float z : {0.f, 4.f}) add_box(level, {3, 3}, z - 0.3f, {6, 6, 0.3f});
  const auto ground = MeshGround::make(level).value();
  for (const float speed : {0.05f, 1.4f, 8.f})
    for (const bool avoid : {false, true})
      for (const float other : {0.f, 4.f}) {
        World world({.ground = ground.get(), .avoid = avoid});
        const Npc porter = *world.add({.at = {5, 3, 0}, .gait = {.speed = speed}});
        if (other > 0.f) {
          ASSERT_TRUE(world.add({.at = {5.6f, 3, other}, .drive = Drive::reported}));
        }
        const Order order = porter.order<Push>();
        pass(world, 60, 1 / 30.f, [&] { return !order.running(); });
        ASSERT_TRUE(order.outcome()) << speed << " m/s, avoid " << avoid << ", other at " << other;
        EXPECT_EQ(order.outcome()->ending, Ending::stuck);
      }
}

/// An order's own patience overrides its gait's, which overrides the world's.
TEST(Headway, OrdersAndGaitsHaveTheirOwnPatience) {
  struct Case {
    float gait, order, expected;  // seconds
  };
  for (const auto& [gait, own, expected] : {Case{0, 0, 4}, {1, 0, 1}, {1, 9, 9}, {0, 0.5f, 0.5f}, {30, 2, 2}})
    for (const float rate : {10.f, 144.f}) {
      World world;
      const Npc held = *world.add({.gait = {.patience = gait}, .drive = Drive::advised});  // it never moves
      const Order order = held.go_to({18, 18, 0});
      if (own > 0.f) order.patience(own).patience(std::nanf("")).patience(0.05f);
      pass(world, 60, 1 / rate, [&] {
        EXPECT_TRUE(held.report({0, 0, 0}));
        return !order.running();
      });
      ASSERT_TRUE(order.outcome());
      EXPECT_EQ(order.outcome()->ending, Ending::stuck);
      EXPECT_EQ(order.outcome()->value, expected);
      EXPECT_GT(world.time(), 0.9f * expected);
      EXPECT_LT(world.time(), 2.f * expected + 1.5f) << expected << " s, rate " << rate;
    }
  // The same number of seconds passes before an NPC in the only door is reported.
  for (const auto& [gait, own, expected] : {Case{0, 0, 4}, {1.6f, 0, 1.6f}, {1.6f, 9, 9}}) {
    const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 1}, {0, 1}}}});
    World world({.ground = ground.get(), .avoid = true});
    (void)*world.add({.at = {10, 0.5f, 0}, .drive = Drive::reported});
    const Npc porter = *world.add({.at = {8, 0.5f, 0}, .gait = {.patience = gait}});
    const Order order = porter.go_to({18, 0.5f, 0});
    if (own > 0.f) order.patience(own);
    pass(world, 60, 1 / 30.f, [&] { return count(world, Event::held_up) > 0; });
    const double met = 3;  // seconds that it takes to reach the player, at most
    EXPECT_GT(world.time(), expected);
    EXPECT_LT(world.time(), expected + met);
  }
  EXPECT_FALSE(validate(Gait{.patience = 0.05f}));
  EXPECT_FALSE(validate(Gait{.patience = std::nanf("")}));
}

TEST(Headway, APatrolLeavesACurveWhereThatLeavesTheGround) {
  for (const float rate : {10.f, 30.f, 144.f}) {
    const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 20}, {0, 20}}},
                                               .solids = {{{9, 0}, {11, 0}, {11, 4}, {9, 4}}}});
    World world({.ground = ground.get()});
    const Npc watch = *world.add({.at = {2, 3, 0}});
    const std::vector<vec3> lamps = {{2, 3, 0}, {18, 3, 0}, {10, 16, 0}};
    const Order order = watch.patrol(*make_beat(lamps, BeatOrder::around, BeatPath::curve));
    pass(world, 120, 1 / rate);
    EXPECT_TRUE(order.running());
    EXPECT_GE(watch.statistics().arrivals, 8U) << rate;
    EXPECT_EQ(count(world, Event::replans), 0) << rate;
  }
}

TEST(Headway, ACompanyWaitsWhileItsWayIsShut) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {40, 0}, {40, 10}, {0, 10}}}});
  World world({.ground = ground.get()});
  const auto squad = *Squad::make();
  ASSERT_TRUE(squad->go_to({35, 5, 0}));
  std::vector<Order> orders;
  for (int i = 0; i < 4; ++i)
    orders.push_back(world.add({.at = {3.f + static_cast<float>(i), 5, 0}})->march(squad));
  pass(world, 4, 1.f / 30);
  const BarrierId crates = ground->put(*Barrier::box({20, 5}, {1, 12}));
  pass(world, 20, 1.f / 30);
  for (const Order& order : orders) EXPECT_TRUE(order.running());
  EXPECT_EQ(count(world, Event::waits), 1);
  ASSERT_TRUE(ground->remove(crates));
  pass(world, 60, 1.f / 30);
  for (const Order& order : orders) EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_EQ(count(world, Event::goes_on), 1);
}

TEST(Chase, CatchesNobodyThroughAWall) {
  for (const bool avoid : {false, true})
    for (const float thick : {0.02f, 0.5f}) {
      const auto ground =
          *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 10}, {0, 10}}},
                                 .solids = {{{10, 0}, {10 + thick, 0}, {10 + thick, 9}, {10, 9}}}});
      World world({.ground = ground.get(), .avoid = avoid});
      const Npc thief = *world.add({.at = {10.31f + thick, 2, 0}}),
                constable = *world.add({.at = {9.68f, 2, 0}});
      const Order order = constable.chase(thief, {.reach = 1.5f});
      pass(world, 60, 1.f / 30, [&] { return !order.running(); });
      EXPECT_EQ(order.outcome()->ending, Ending::arrived);
      EXPECT_GT(constable.position().x, 9.9f) << thick;
    }
}

}  // namespace
}  // namespace ambulon
