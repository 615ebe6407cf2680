// Several storeys: NPCs on one storey do not affect those on another unless they go there.

#include "ambulon/errand/order_options.hpp"
#include "ambulon/errand/squad.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "base/written.hpp"
#include "generate.hpp"
#include "level_maker.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// A market hall: a gallery 3 m up above one half of its floor, and stairs to it.
std::unique_ptr<MeshGround> market_hall() {
  Level level;
  add_sheet(level, {0, 0, 0}, {16, 0, 0}, {16, 12, 0}, {0, 12, 0});
  add_box(level, {12, 6}, 2.7f, {8, 12, 0.3f});
  add_steps(level, {4, 6, 0}, {1.f / 3, 2, 0.25f}, 12);
  return MeshGround::make(level).value();
}

struct Hall {
  std::unique_ptr<MeshGround> ground = market_hall();
  World world;
  Npc constable, pickpocket;

  explicit Hall(bool avoid = false, vec3 at = {12, 2, 0}, vec3 other = {12, 2, 3})
      : world({.ground = ground.get(), .avoid = avoid}),
        constable(*world.add({.name = "constable", .at = at, .gait = {.speed = 2}})),
        pickpocket(*world.add({.name = "pickpocket", .at = other})) {}
};

TEST(Storeys, AChaserGoesUpToWhomItIsBelow) {
  for (const bool avoid : {false, true}) {
    Hall hall(avoid);
    const Order chase = hall.constable.chase(hall.pickpocket);
    pass(hall.world, 40, 1.f / 30, [&] { return !chase.running(); });
    EXPECT_EQ(chase.outcome()->ending, Ending::arrived);
    EXPECT_NEAR(hall.constable.position().z, 3, 0.05);
    EXPECT_GT(hall.world.time(), 5);
  }
}

TEST(Storeys, AFollowerAndACompanionStandOnTheFloorOfWhomTheyStandBy) {
  for (const bool escort : {false, true}) {
    Hall hall;
    if (escort)
      hall.constable.escort(hall.pickpocket);
    else
      hall.constable.follow(hall.pickpocket);
    pass(hall.world, 40, 1.f / 30);
    EXPECT_NEAR(hall.constable.position().z, 3, 0.05) << escort;
    EXPECT_LT(flat_distance(hall.constable.position(), hall.pickpocket.position()), 4);
  }
}

TEST(Storeys, OneFleesFromThoseWhoAreNearAndNotFromThoseAFloorAbove) {
  Hall hall;
  // the distance from head to feet is 1.3 m
  const Order flees = hall.constable.flee(hall.pickpocket, {.reach = 1.2f});
  pass(hall.world, 0.1);
  EXPECT_EQ(flees.outcome()->cause, Cause::far_enough);
  EXPECT_NEAR(flees.outcome()->value, 1.3, 1e-3);
}

TEST(Storeys, NearIsWhoIsAtTheSameHeight) {
  Hall hall;
  int acts = 0;
  hall.constable.follow(hall.pickpocket, {.act_within = 1}).on_act([&](Npc, Npc, bool) { ++acts; });
  const Condition near = hall.constable.until_near(hall.pickpocket, 1),
                  apart = hall.constable.until_apart(hall.pickpocket, 1);
  EXPECT_FALSE(near.check().has_value());
  EXPECT_TRUE(apart.check().has_value());
  pass(hall.world, 1);
  EXPECT_EQ(acts, 0);
  const vec3 here = hall.constable.position();
  EXPECT_TRUE(
      hall.world.others().near(here + vec3(0, 0, 0), {.radius = 5, .except = hall.constable.id()}).empty());
  EXPECT_EQ(
      hall.world.others().near(here + vec3(0, 0, 3), {.radius = 5, .except = hall.constable.id()}).size(),
      1U);
}

TEST(Storeys, OfAGroupTheNearestIsOneThatIsNearByHeightToo) {
  Hall hall;
  const Tags cats = *hall.world.tag("cat");
  const Npc above = *hall.world.add({.name = "tom", .at = {13, 3, 3}, .tags = cats}),
            beside = *hall.world.add({.name = "tabby", .at = {11, 1.5f, 0}, .tags = cats});
  EXPECT_EQ(hall.world.others().nearest(cats, {12, 2, 0}, 1.7f, {})->id, beside.id());
  EXPECT_EQ(hall.world.others().nearest(cats, {12, 2, 3}, 1.7f, {})->id, above.id());
}

/// A lift between the floors, in front of the gallery.
struct Lift : Hall {
  Npc lift;
  Lift()
      : Hall(false, {6, 2, 0}, {12, 2, 3}),
        lift(*world.add({.name = "lift",
                         .at = {7.1f, 2, 0},
                         .body = {.radius = 0.5f, .height = 0.1f, .deck = {1.8f, 2}}})) {
    constable.go_to({7.1f, 2, 0}, {.within = 0.1f});
    pass(world, 3, 1.f / 30);
  }
};

TEST(Storeys, ALiftLeavesThoseBelowIt) {
  Lift hall;
  hall.pickpocket.remove();
  ASSERT_TRUE(hall.constable.teleport({2, 2, 0}));
  hall.lift.ease_to({7.1f, 2, 3}, {.seconds = 3});
  pass(hall.world, 4, 1.f / 30);
  hall.constable.go_to({7.1f, 2, 0}, {.within = 0.1f});
  pass(hall.world, 5, 1.f / 30);
  EXPECT_NEAR(hall.constable.position().x, 7.1, 0.2);
  EXPECT_NEAR(hall.constable.position().z, 0, 0.02);
  hall.lift.ease_to({7.1f, 2, 7}, {.seconds = 3});
  pass(hall.world, 4, 1.f / 30);
  EXPECT_NEAR(hall.constable.position().z, 0, 0.02);
}

TEST(Storeys, WhoGetsAnOrderOnALiftStepsOffWhereThereIsAFloor) {
  for (const float rate : {10.f, 30.f, 144.f}) {
    Lift hall;
    hall.lift.ease_to({7.1f, 2, 3}, {.seconds = 6});
    pass(hall.world, 2, 1 / rate);
    const Order out = hall.constable.go_to({12, 4, 3});
    pass(hall.world, 20, 1 / rate, [&] {
      const vec3 at = hall.constable.position();
      const float off_lift = at.x - 7.1f - 0.9f;
      EXPECT_TRUE(off_lift < 0.02f || std::abs(at.z - 3) < 0.36f) << rate << " at height " << at.z;
      return !out.running();
    });
    ASSERT_FALSE(out.running()) << rate << " at " << written(hall.constable.position());
    EXPECT_EQ(out.outcome()->ending, Ending::arrived) << rate;
    EXPECT_NEAR(hall.constable.position().z, 3, 0.02) << rate;
  }
}

TEST(Storeys, AnOrderOnALiftThatTakesVeryLongIsHeldUpByTheLift) {
  Lift hall;
  hall.lift.ease_to({7.1f, 2, 3}, {.seconds = 100});
  pass(hall.world, 30, 1.f / 30);
  const Order out = hall.constable.go_to({12, 4, 3});
  pass(hall.world, 60, 1.f / 30);
  EXPECT_TRUE(out.running());
  EXPECT_EQ(count(hall.world, Event::held_up), 1)
      << told(hall.world) << written(hall.constable.position()) << out.running();
  pass(hall.world, 20, 1.f / 30);
  ASSERT_FALSE(out.running());
  EXPECT_EQ(count(hall.world, Event::goes_on), 1);
  EXPECT_EQ(out.outcome()->ending, Ending::arrived);
}

TEST(Storeys, ADeckThatStopsAndGoesByMillimetresDoesNotMakeItsRidersPlanEachTime) {
  World world;
  const Npc raft = *world.add(
      {.name = "raft", .body = {.radius = 1, .height = 0.3f, .deck = {6, 6}}, .drive = Drive::reported});
  const Npc porter = *world.add({.name = "porter", .at = {-2, 0, 0.3f}});
  porter.go_to({500, 0, 0});
  pass(world, 1);
  const auto asked = world.route_figures().asked;
  for (int i = 0; i < 600; ++i) {
    ASSERT_TRUE(raft.report({0.001f * static_cast<float>(i / 2), 0, 0}));
    pass(world, 1.0 / 60);
  }
  EXPECT_LT(world.route_figures().asked - asked, 8U);
}

TEST(Storeys, WhoseLiftIsTakenAwayStandsOnAFloorAgain) {
  Lift hall;
  hall.lift.ease_to({7.1f, 2, 3}, {.seconds = 6});
  pass(hall.world, 1, 1.f / 30);
  EXPECT_GT(hall.constable.position().z, 0.1f);
  hall.lift.remove();
  EXPECT_NEAR(hall.constable.position().z, 0, 0.01);
  const Order out = hall.constable.go_to({2, 2, 0});
  pass(hall.world, 10, 1.f / 30);
  EXPECT_EQ(out.outcome()->ending, Ending::arrived);
}

TEST(Storeys, HopsClicksAndCompaniesGoToTheFloorTheyAreSentTo) {
  for (const bool avoid : {false, true}) {
    Hall hall(avoid);
    const Order hop = hall.constable.hop(std::vector<vec3>{{12, 2, 3}, {14, 4, 0}}, {.visits = 4});
    pass(hall.world, 200, 1.f / 30, [&] { return !hop.running(); });
    EXPECT_EQ(hop.outcome()->ending, Ending::done);
    for (auto number = hall.world.journal().first(); number < hall.world.journal().next(); ++number)
      if (const Note& note = hall.world.journal()[number]; note.event == Event::visited) {
        EXPECT_EQ(note.where.z, note.where.x == 12 ? 3 : 0);
      }

    const auto clicks = std::make_shared<Clicks>();
    for (const vec3 place : {vec3(14, 1.5f, 0), vec3(10, 4, 3), vec3(10, 4, 0)}) {
      ASSERT_TRUE(clicks->click(place));
      const Order click = hall.constable.click_to_move(clicks);
      pass(hall.world, 40, 1.f / 30, [&] { return !click.running(); });
      EXPECT_EQ(click.outcome()->ending, Ending::arrived);
      EXPECT_NEAR(hall.constable.position().z, place.z, 0.02);
      EXPECT_LT(flat_distance(hall.constable.position(), place), 0.4f);
    }

    ASSERT_TRUE(hall.pickpocket.teleport({8, 2, 0}));
    const auto squad = *Squad::make({.formation = Formation::column});
    ASSERT_TRUE(squad->go_to({13, 4, 3}));
    const Order first = hall.constable.march(squad), second = hall.pickpocket.march(squad);
    pass(hall.world, 60, 1.f / 30, [&] { return !first.running() && !second.running(); });
    for (const Order& march : {first, second}) EXPECT_EQ(march.outcome()->ending, Ending::arrived);
    for (const Npc npc : {hall.constable, hall.pickpocket}) EXPECT_NEAR(npc.position().z, 3, 0.05);
  }
}

/// A road along y, and a bridge over it along x with stairs at its western end.
struct Bridge {
  std::unique_ptr<MeshGround> ground;
  World world;

  explicit Bridge(bool avoid) : ground(make()), world({.ground = ground.get(), .avoid = avoid}) {}
  static std::unique_ptr<MeshGround> make() {
    Level level;
    add_sheet(level, {-6, -12, 0}, {24, -12, 0}, {24, 12, 0}, {-6, 12, 0});
    add_box(level, {14, 0}, 2.7f, {20, 2, 0.3f});
    add_steps(level, {0, 0, 0}, {1.f / 3, 2, 0.25f}, 12);
    return MeshGround::make(level).value();
  }
};

TEST(Storeys, ABridgeAndTheRoadBelowItHaveNothingToDoWithEachOther) {
  for (const float rate : {10.f, 30.f, 60.f, 144.f}) {
    std::vector<vec3> ends[2];
    for (const bool together : {false, true}) {
      Bridge quay(true);
      const Npc porter = *quay.world.add({.name = "porter", .at = {14, -8, 0}, .gait = {.speed = 2}});
      porter.patrol(std::vector<vec3>{{14, 8, 0}, {14, -8, 0}});
      Npc courier;
      if (together) {
        courier = *quay.world.add({.name = "courier", .at = {-3, 0, 0}, .gait = {.speed = 2}});
        courier.go_to({14, 0, 3});
        for (const float x : {13.f, 15.f}) ASSERT_TRUE(quay.world.add({.name = "gazer", .at = {x, 0.4f, 3}}));
      }
      pass(quay.world, 20, 1 / rate);
      ends[together].push_back(porter.position());
      if (!together) continue;
      EXPECT_NEAR(courier.position().z, 3, 0.02) << rate;
      EXPECT_EQ(count(quay.world, Event::boarded), 0);
      // Right above the porter, it does not catch it, and is not fled from.
      const Order chase = porter.chase(courier);
      pass(quay.world, 3, 1 / rate);
      EXPECT_TRUE(chase.running()) << "it has to go round by the stairs";
      pass(quay.world, 40, 1 / rate, [&] { return !chase.running(); });
      ASSERT_FALSE(chase.running());
      EXPECT_EQ(chase.outcome()->ending, Ending::arrived);
      EXPECT_NEAR(porter.position().z, 3, 0.02);
    }
    EXPECT_EQ(ends[0], ends[1]) << rate;
  }
}

/// Floors of 6 m, one 10 m above the other.
std::unique_ptr<MeshGround> two_floors() {
  Level level;
  for (const float z : {0.f, 10.f}) add_box(level, {3, 3}, z - 0.3f, {6, 6, 0.3f});
  for (const float z : {0.f, 10.f}) add_box(level, {3, 2}, z, {0.5f, 1.5f, 1});
  return MeshGround::make(level).value();
}

/// The orders of the NPCs of one half, drawn once and given in each world.
struct Told {
  int verb;
  std::size_t whom;
  vec3 at, to;
  float radius, speed;
};

/// One half of a world, and what happened to its NPCs.
struct Half {
  std::vector<Npc> npcs;
  std::vector<int> touches, acts, near, seen;  // by NPC
};

std::unique_ptr<Half> half(World& world, std::span<const Told> all, float up) {
  auto made = std::make_unique<Half>();
  std::vector<Npc>& npcs = made->npcs;
  for (auto* counts : {&made->touches, &made->acts, &made->near, &made->seen}) counts->resize(all.size());
  const auto squad = *Squad::make({.formation = Formation::column});
  (void)squad->go_to(all[0].to + vec3(0, 0, up));
  const Tags walkers = *world.tag("walker");
  for (const Told& told : all)
    npcs.push_back(*world.add({.at = told.at + vec3(0, 0, up),
                               .body = {.radius = told.radius},
                               .gait = {.speed = told.speed},
                               .tags = walkers}));
  for (std::size_t i = 0; i < all.size(); ++i) {
    const Told& told = all[i];
    const vec3 to = told.to + vec3(0, 0, up);
    const Npc npc = npcs[i], whom = npcs[told.whom];
    const Target nearest{.tags = walkers};
    auto blend = std::make_shared<Blend>();
    (void)blend->add({.behaviour = Behaviour::separation, .within = 3});
    (void)blend->add({.behaviour = Behaviour::evade, .tags = walkers, .within = 4});
    (void)blend->add({.behaviour = Behaviour::wander});
    switch (told.verb) {
      case 0:
        npc.go_to(to);
        break;
      case 1:
        npc.patrol(std::vector{told.at + vec3(0, 0, up), to});
        break;
      case 2:
        npc.roam();
        break;
      case 3:
        npc.chase(nearest, {.reach = 0.3f, .act_within = 1})
            .on_act([&counts = made->acts, i](Npc, Npc, bool) { ++counts[i]; });
        break;
      case 4:
        npc.follow(nearest, {.act_within = 2});
        break;
      case 5:
        npc.flee(whom, {.reach = 4});
        break;
      case 6:
        npc.escort(whom);
        break;
      case 7:
        npc.wander();
        break;
      case 8:
        npc.pace();
        break;
      case 9:
        npc.hop(std::vector{told.at + vec3(0, 0, up), to, vec3(5, 5, up)});
        break;
      case 10: {
        const auto clicks = std::make_shared<Clicks>();
        (void)clicks->click(to);
        npc.click_to_move(clicks);
        break;
      }
      case 11:
        npc.march(squad);
        break;
      case 12:
        npc.sway({.axis = {0.5f, 0.3f, 0}, .frequency = 0.3f});
        break;
      case 13:
        npc.ease_to(to, {.seconds = 1.5f});
        break;
      default:
        npc.steer(blend, {.queue_gap = 1});
        break;
    }
    npc.on_touch([&counts = made->touches, i](Npc, Npc, float) { ++counts[i]; });
  }
  return made;
}

/// Records what conditions and queries say of each NPC.
void look(World& world, Half& half) {
  for (std::size_t i = 0; i < half.npcs.size(); ++i) {
    const Npc npc = half.npcs[i], next = half.npcs[(i + 1) % half.npcs.size()];
    half.near[i] += npc.until_near(next, 1).check().has_value();
    half.near[i] += npc.until_apart(next, 2).check().has_value();
    for (const auto& seen :
         {world.others().near(npc.position(), {.radius = 2, .height = npc.body().height, .except = npc}),
          world.others().in_cone(npc.position(), unit(npc.heading()), 1,
                                 {.radius = 3, .height = npc.body().height, .except = npc})})
      half.seen[i] += static_cast<int>(seen.size());
  }
}

RC_GTEST_PROP(Storeys, NpcsDoWhatTheyDoWithoutThoseTenMetresAbove, ()) {
  static const auto ground = two_floors();
  const auto draw = [] {
    std::vector<Told> all;
    const auto count = *rc::gen::inRange<std::size_t>(1, 7);
    for (std::size_t i = 0; i < count; ++i)
      all.push_back({*rc::gen::inRange(0, 15),
                     *rc::gen::inRange<std::size_t>(0, count),
                     {between(0.5f, 5.5f), between(3.5f, 5.5f), 0},
                     {between(0.5f, 5.5f), between(0.5f, 5.5f), 0},
                     between(0.1f, 0.4f),
                     between(0.3f, 3)});
    return all;
  };
  const auto below = draw(), above = draw();
  const bool avoid = *rc::gen::arbitrary<bool>();
  const float tick = 1 / *rc::gen::element(10.f, 30.f, 60.f);
  World alone({.ground = ground.get(), .avoid = avoid}), both({.ground = ground.get(), .avoid = avoid});
  const auto some = half(alone, below, 0), same = half(both, below, 0), others = half(both, above, 10);
  for (int i = 0; i < 120; ++i) {
    RC_ASSERT(alone.tick(tick).has_value());
    RC_ASSERT(both.tick(tick).has_value());
    look(alone, *some);
    look(both, *same);
    for (std::size_t k = 0; k < below.size(); ++k)
      RC_ASSERT(some->npcs[k].position() == same->npcs[k].position());
  }
  RC_ASSERT(some->touches == same->touches);
  RC_ASSERT(some->acts == same->acts);
  RC_ASSERT(some->near == same->near);
  RC_ASSERT(some->seen == same->seen);
}

}  // namespace
}  // namespace ambulon
