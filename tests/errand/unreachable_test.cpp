// What orders do if no route leads to their goal: refuse, wait, or go to the nearest spot and continue when a
// route opens.

#include <functional>

#include <fmt/format.h>

#include "ambulon/errand/squad.hpp"
#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "map_of.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

constexpr vec3 home(3.5f, 3.5f, 0), beyond(16.5f, 3.5f, 0);

/// A shed of two rooms with a shut door between them.
struct Shed {
  std::unique_ptr<BarrierGround> ground;
  World world;
  Npc crab, bait;
  BarrierId door;

  Shed(bool of_tiles, std::uint64_t route_work, bool avoid)
      : ground(make(of_tiles)),
        world({.ground = ground.get(), .avoid = avoid, .route_work = route_work}),
        crab(*world.add({.name = "crab", .at = home})),
        bait(*world.add({.name = "bait", .at = beyond, .tags = *world.tag("bait")})),
        door(ground->put(*Barrier::box({10.5f, 3.5f}, {1, 3}))) {}

  static std::unique_ptr<BarrierGround> make(bool of_tiles) {
    if (of_tiles) {
      std::vector<std::string> rows;
      for (const char wall : std::string("##...##"))
        rows.push_back(std::string(10, '.') + wall + "..........");
      return std::make_unique<TileGround>(map_of(rows));
    }
    Plan plan{.outlines = {{{0, 0}, {21, 0}, {21, 7}, {0, 7}}}};
    for (const float y : {0.f, 5.f}) plan.solids.push_back({{10, y}, {11, y}, {11, y + 2}, {10, y + 2}});
    return MeshGround::make(plan).value();
  }
};

/// The orders with a goal, each beyond the door.
struct Verb {
  const char* name;
  bool ends;  // when it is there
  Order (*give)(Shed&, Unreachable);
};

const Verb verbs[] = {
    {"go_to", true,
     [](Shed& shed, Unreachable what) { return shed.crab.go_to(beyond, {.unreachable = what}); }},
    {"click", true,
     [](Shed& shed, Unreachable what) {
       const auto clicks = std::make_shared<Clicks>();
       EXPECT_TRUE(clicks->click(beyond));
       return shed.crab.click_to_move(clicks, {.unreachable = what});
     }},
    {"patrol", false,
     [](Shed& shed, Unreachable what) {
       return shed.crab.patrol(std::vector<vec3>{beyond, beyond - vec3(0, 2, 0)}, {.unreachable = what});
     }},
    {"hop", false,
     [](Shed& shed, Unreachable what) {
       return shed.crab.hop(std::vector<vec3>{beyond, beyond - vec3(0, 2, 0)}, {.unreachable = what});
     }},
    {"follow", false,
     [](Shed& shed, Unreachable what) { return shed.crab.follow(shed.bait, {.unreachable = what}); }},
    {"chase", true,
     [](Shed& shed, Unreachable what) { return shed.crab.chase(shed.bait, {.unreachable = what}); }},
    {"escort", false,
     [](Shed& shed, Unreachable what) { return shed.crab.escort(shed.bait, {.unreachable = what}); }},
    {"march", true,
     [](Shed& shed, Unreachable what) {
       const auto squad = *Squad::make({.unreachable = what});
       EXPECT_TRUE(squad->go_to(beyond));
       return shed.crab.march(squad);
     }},
};

void each_shed(const std::function<void(Shed&, const Verb&, float)>& attempt) {
  for (const Verb& verb : verbs)
    for (const bool of_tiles : {false, true})
      for (const std::uint64_t work : {0U, 200U})
        for (const float rate : {10.f, 60.f}) {
          const bool avoid = rate == 10;
          SCOPED_TRACE(fmt::format("{} tiles {} work {} rate {}", verb.name, of_tiles, work, rate));
          Shed shed(of_tiles, work, avoid);
          attempt(shed, verb, rate);
        }
}

TEST(Unreachable, RefusesAtOnceWithTheReason) {
  each_shed([](Shed& shed, const Verb& verb, float rate) {
    const Order order = verb.give(shed, Unreachable::refuse);
    pass(shed.world, 0.5, 1 / rate);
    ASSERT_FALSE(order.running());
    EXPECT_EQ(order.outcome()->ending, Ending::no_route);
    EXPECT_EQ(order.outcome()->cause, Cause::no_route);
    EXPECT_GT(order.outcome()->value, 5);
  });
}

TEST(Unreachable, WaitsAndGoesOnWhenTheDoorOpens) {
  each_shed([](Shed& shed, const Verb& verb, float rate) {
    const Order order = verb.give(shed, Unreachable::wait);
    pass(shed.world, 90, 1 / rate);
    ASSERT_TRUE(order.running());
    EXPECT_LT(flat_distance(shed.crab.position(), home), 0.01);
    EXPECT_EQ(count(shed.world, Event::waits), 1);
    EXPECT_EQ(count(shed.world, Event::goes_on), 0);
    EXPECT_LE(shed.world.route_figures().asked, 8U);
    const double opened = shed.world.time();
    shed.ground->remove(shed.door);
    pass(shed.world, 1.5, 1 / rate);
    EXPECT_GT(flat_distance(shed.crab.position(), home), 0.2) << "soon after the door was opened";
    pass(shed.world, 30, 1 / rate, [&] { return !order.running(); });
    EXPECT_EQ(count(shed.world, Event::goes_on), 1);
    EXPECT_LT(flat_distance(shed.crab.position(), beyond), 3);
    EXPECT_EQ(order.running(), !verb.ends);
    if (verb.ends) {
      EXPECT_EQ(order.outcome()->ending, Ending::arrived);
      EXPECT_LT(shed.world.time(), opened + 14);
    }
    EXPECT_LE(count(shed.world, Event::gave_up) + count(shed.world, Event::skipped), 9);
  });
}

TEST(Unreachable, GoesToTheNearestSpotAndOnWhenTheDoorOpens) {
  each_shed([](Shed& shed, const Verb& verb, float rate) {
    const Order order = verb.give(shed, Unreachable::nearest);
    pass(shed.world, 20, 1 / rate, [&] { return !order.running(); });
    EXPECT_NEAR(shed.crab.position().x, 9.3, 0.9);
    EXPECT_EQ(count(shed.world, Event::waits), 0);
    const std::string_view name = verb.name;
    if (name == "go_to" || name == "click") {
      ASSERT_FALSE(order.running());
      EXPECT_EQ(order.outcome()->cause, Cause::nearest_instead);
      EXPECT_NEAR(order.outcome()->value, flat_distance(shed.crab.position(), beyond), 0.02);
      return;
    }
    if (name == "march") return;  // the squad has come as near as it can
    ASSERT_TRUE(order.running());
    const auto asked = shed.world.route_figures().asked;
    const bool stays = name == "follow" || name == "chase" || name == "escort";
    pass(shed.world, 20, 1 / rate);
    if (stays) {
      EXPECT_LE(shed.world.route_figures().asked - asked, 2U);
    }
    shed.ground->remove(shed.door);
    pass(shed.world, 20, 1 / rate, [&] { return !order.running(); });
    EXPECT_LT(flat_distance(shed.crab.position(), beyond), 3);
  });
}

TEST(Unreachable, ADoorThatShutsOnTheWayIsWaitedForToo) {
  each_shed([](Shed& shed, const Verb& verb, float rate) {
    shed.ground->remove(shed.door);
    const Order order = verb.give(shed, Unreachable::wait);
    pass(shed.world, 2, 1 / rate);
    shed.door = shed.ground->put(*Barrier::box({10.5f, 3.5f}, {1, 3}));
    pass(shed.world, 20, 1 / rate);
    ASSERT_TRUE(order.running());
    EXPECT_LT(shed.crab.position().x, 10);
    EXPECT_EQ(count(shed.world, Event::waits), 1);
    shed.ground->remove(shed.door);
    pass(shed.world, 30, 1 / rate, [&] { return !order.running(); });
    EXPECT_EQ(count(shed.world, Event::goes_on), 1);
    EXPECT_LT(flat_distance(shed.crab.position(), beyond), 3);
  });
}

/// Whenever the door shuts, also at a bend of the route, it stands and waits.
TEST(Unreachable, ADoorThatShutsAtAnyMomentIsWaitedFor) {
  for (int tenth = 0; tenth < 120; ++tenth) {
    const auto ground = *MeshGround::make(
        Plan{.outlines = {{{0, 0}, {20, 0}, {20, 10}, {0, 10}}},
             .solids = {{{4, 2}, {6, 2}, {6, 10}, {4, 10}}, {{9, 0}, {10, 0}, {10, 7}, {9, 7}}}});
    World world({.ground = ground.get()});
    const Npc crab = *world.add({.at = {2, 8, 0}, .body = {.radius = 0.2f}, .gait = {.speed = 2}});
    const Order order = crab.go_to({18, 2, 0}, {.unreachable = Unreachable::wait});
    pass(world, 0.1 * tenth, 1 / 30.f);
    const BarrierId door = ground->put(*Barrier::box({14, 5}, {0.5f, 12}));
    pass(world, 2, 1 / 30.f);
    if (crab.position().x < 13.5f) {
      EXPECT_TRUE(order.running());
      EXPECT_EQ(count(world, Event::waits), 1);
    }
    ground->remove(door);
    pass(world, 30, 1 / 30.f);
    ASSERT_TRUE(order.outcome());
    EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  }
}

/// A point that it already stands at does not make it try the others again and again.
TEST(Unreachable, AHopThatGetsNowhereButWhereItIsTellsItOnce) {
  for (const Unreachable what : {Unreachable::wait, Unreachable::refuse})
    for (const float rate : {10.f, 60.f}) {
      Shed shed(false, 0, false);
      const Order hop =
          shed.crab.hop(std::vector<vec3>{home, beyond, beyond - vec3(0, 2, 0)}, {.unreachable = what});
      pass(shed.world, 60, 1 / rate);
      EXPECT_EQ(hop.running(), what == Unreachable::wait);
      EXPECT_EQ(count(shed.world, Event::waits), what == Unreachable::wait);
      EXPECT_LT(shed.world.journal().next(), 120U);
      EXPECT_LT(shed.world.route_figures().asked, 10U);
      shed.ground->remove(shed.door);
      pass(shed.world, 60, 1 / rate);
      EXPECT_EQ(count(shed.world, Event::goes_on), what == Unreachable::wait);
    }
}

TEST(Unreachable, AFlowFieldIsWaitedForAndKnowsNoNearestSpot) {
  TileGround ground(map_of({".......", "#######", "......."}));
  const vec3 goals[] = {{3.5f, 0.5f, 0}};
  const FlowField field(ground, goals);
  World world({.ground = &ground});
  const Npc crab = *world.add({.name = "crab", .at = {3.5f, 2.5f, 0}});
  const Order nearest = crab.flow(field, {.unreachable = Unreachable::nearest});
  pass(world, 0.1);
  EXPECT_EQ(nearest.outcome()->ending, Ending::refused);
  const Order waits = crab.flow(field, {.unreachable = Unreachable::wait});
  pass(world, 20);
  EXPECT_TRUE(waits.running());
  EXPECT_EQ(count(world, Event::waits), 1);
}

/// A goal beside the ground is reached within `within` of the goal itself, not of the spot beside it.
TEST(Unreachable, OffTheGroundWithinIsMeasuredFromTheGoal) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 6}, {0, 6}}}});
  for (const float rate : {10.f, 60.f, 144.f})
    for (const float off : {0.f, 0.1f, 0.3f, 0.45f, 1.5f, 4.f})
      for (const float within : {0.05f, 0.3f, 1.f, 2.f, 5.f}) {
        World world({.ground = ground.get()});
        const Npc crab = *world.add({.name = "crab", .at = {2, 3, 0}});
        const vec3 goal(19.7f + off, 3, 0);  // the ground of its middle ends at 19.7
        const Order order = crab.go_to(goal, {.within = within});
        pass(world, 30, 1 / rate, [&] { return !order.running(); });
        SCOPED_TRACE(fmt::format("rate {} off {} within {}", rate, off, within));
        ASSERT_FALSE(order.running());
        const Outcome outcome = *order.outcome();
        if (off > 0.5f && off > within) {
          EXPECT_EQ(outcome.ending, Ending::off_ground);
          EXPECT_NEAR(outcome.value, off, 0.01);
          continue;
        }
        ASSERT_EQ(outcome.ending, Ending::arrived) << outcome.why();
        const float away = flat_distance(crab.position(), goal);
        if (off <= within) {
          EXPECT_EQ(outcome.cause, Cause::none) << outcome.why();
          EXPECT_LE(away, within + 0.06f);
        } else {
          EXPECT_EQ(outcome.cause, Cause::nearest_instead);
          EXPECT_NEAR(outcome.value, away, 0.03);
          EXPECT_LE(away, off + within + 0.01f);
        }
      }
}

TEST(Unreachable, AWideBodyCatchesAndFollowsASmallOneAtAWall) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 12}, {0, 12}}}});
  for (const bool avoid : {false, true})
    for (const float radius : {0.5f, 1.f, 3.f, 5.f})
      for (const vec3 at : {vec3(19.8f, 6, 0), vec3(19.8f, 0.2f, 0)})
        for (const int verb : {0, 1, 2}) {
          World world({.ground = ground.get(), .avoid = avoid});
          const Npc ogre = *world.add({.name = "barge", .at = {6, 6, 0}, .body = {.radius = radius}});
          const Npc small = *world.add({.name = "duck", .at = at, .body = {.radius = 0.2f}});
          const Order order = verb == 0   ? ogre.chase(small, {.reach = radius + 0.2f})
                              : verb == 1 ? ogre.follow(small, {.stop = 0.5f, .resume = 1})
                                          : ogre.go_to(at, {.within = 1.42f * radius});
          pass(world, 40, 1.f / 30, [&] { return !order.running(); });
          SCOPED_TRACE(fmt::format("avoid {} radius {} verb {} at {}", avoid, radius, verb, at.y));
          const float apart = flat_distance(ogre.position(), at);
          if (verb != 2 && at.y < 1 && radius > 2) {  // in a corner it cannot touch it
            const auto why = verb == 0 ? order.outcome() : std::nullopt;
            EXPECT_EQ(order.running(), verb == 1);
            EXPECT_TRUE(verb == 1 ? count(world, Event::waits) == 1 : why->ending == Ending::off_ground);
            continue;
          }
          if (verb != 1) {
            ASSERT_FALSE(order.running()) << apart;
            EXPECT_EQ(order.outcome()->ending, Ending::arrived) << order.outcome()->why();
          } else {
            EXPECT_TRUE(order.running()) << order.outcome()->why();
            EXPECT_LT(ogre.motion().speed(), 0.01);
          }
          EXPECT_LT(apart, 1.45f * radius + 0.6f);
        }
}

}  // namespace
}  // namespace ambulon
