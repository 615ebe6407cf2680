#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/world/selection.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "map_of.hpp"
#include "quay.hpp"
#include "world/spots_around.hpp"

namespace ambulon {
namespace {

/// A quay with a shed that cannot be entered, and walls around it.
TileMap quay_with_shed() {
  return map_of({"..............", "..............", "......####....", "......#..#....", "......####....",
                 "..............", ".............."});
}

struct Pointed {
  TileGround ground{quay_with_shed()};
  World world{{.ground = &ground}};
  Npc porter = *world.add({.name = "porter", .at = {1.5f, 1.5f, 0}});
  std::shared_ptr<Clicks> clicks = std::make_shared<Clicks>();
};

TEST(ClickToMove, GoesFromClickToClickAndEnds) {
  Pointed on;
  ASSERT_TRUE(on.clicks->click({4, 5, 0}));
  ASSERT_TRUE(on.clicks->add({12, 5, 0}));
  ASSERT_TRUE(on.clicks->add({12, 1, 0}));
  const Order order = on.porter.click_to_move(on.clicks);
  std::vector<vec3> goals;
  pass(on.world, 60, 1.f / 60, [&] {
    if (const auto goal = on.porter.errand().goal; goal && (goals.empty() || goals.back() != *goal)) {
      goals.push_back(*goal);
      const auto way = on.porter.bends();
      EXPECT_TRUE(way.empty() || way.back() == *goal);  // the drawn route ends at the marker
    }
    return !order.running();
  });
  EXPECT_EQ(goals, (std::vector<vec3>{{4, 5, 0}, {12, 5, 0}, {12, 1, 0}}));
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_EQ(count(on.world, Event::visited), 3);
  EXPECT_LT(flat_distance(on.porter.position(), {12, 1, 0}), 0.31f);
  EXPECT_TRUE(on.clicks->places().empty());
}

TEST(ClickToMove, ANewClickTakesThePlaceOfTheOthers) {
  Pointed on;
  ASSERT_TRUE(on.clicks->click({12, 1, 0}));
  ASSERT_TRUE(on.clicks->add({12, 6, 0}));
  const Order order = on.porter.click_to_move(on.clicks);
  pass(on.world, 1);
  ASSERT_TRUE(on.clicks->click({1.5f, 6, 0}));
  pass(on.world, 30, 1.f / 60, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_LT(flat_distance(on.porter.position(), {1.5f, 6, 0}), 0.31f);
  EXPECT_EQ(count(on.world, Event::ended), 1);  // it is the same order
}

TEST(ClickToMove, FollowsAPointerThatIsHeldWithoutStutter) {
  Pointed on;
  const auto pointer = [](double t) {
    return vec3(3.f + 0.9f * static_cast<float>(t), 1.f + 0.3f * std::sin(static_cast<float>(t)), 0);
  };
  ASSERT_TRUE(on.clicks->hold(pointer(0)));
  const Order order = on.porter.click_to_move(on.clicks, {.every = 0.2f});
  float slowest = 9.f;
  for (int tick = 0; tick < 480; ++tick) {  // in each tick the pointer moves further than the porter can walk
    ASSERT_TRUE(on.clicks->hold(pointer(tick / 60.0)));
    pass(on.world, 1.0 / 60);
    if (tick > 60 && tick < 420) slowest = std::min(slowest, glm::length(on.porter.velocity()));
  }
  EXPECT_GT(slowest, 0.7f);  // it follows at 0.9 m/s all the time
  pass(on.world, 5);
  EXPECT_TRUE(order.running());
  EXPECT_EQ(on.porter.doing(), "standing where the pointer is held");
  // A trembling pointer does not move it.
  const vec3 stood = on.porter.position();
  for (int tick = 0; tick < 60; ++tick) {
    ASSERT_TRUE(on.clicks->hold(pointer(8) + vec3(0.02f * static_cast<float>(tick % 5), 0, 0)));
    pass(on.world, 1.0 / 60);
  }
  EXPECT_EQ(on.porter.position(), stood);
  on.clicks->release();
  pass(on.world, 5, 1.f / 60, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
}

TEST(ClickToMove, GoesToTheNearestSpotOrRefusesAsItIsTold) {
  for (const Unreachable unreachable : {Unreachable::nearest, Unreachable::refuse}) {
    Pointed on;
    ASSERT_TRUE(on.clicks->click({8, 3.5f, 0}));  // inside the shed
    const Order order = on.porter.click_to_move(on.clicks, {.unreachable = unreachable});
    pass(on.world, 30, 1.f / 60, [&] { return !order.running(); });
    const Outcome outcome = *order.outcome();
    if (unreachable == Unreachable::nearest) {
      EXPECT_EQ(outcome.ending, Ending::arrived);
      EXPECT_TRUE(contains(outcome.why(), "it is at the reachable spot nearest to (8.00, 3.50), "))
          << outcome.why();
      EXPECT_NEAR(flat_distance(on.porter.position(), {8, 3.5f, 0}), outcome.value, 0.35f);
    } else {
      EXPECT_EQ(outcome.ending, Ending::no_route);
      EXPECT_EQ(on.porter.position(), vec3(1.5f, 1.5f, 0));
      EXPECT_TRUE(contains(told(on.world), "porter gave up going to (8.00, 3.50): no route leads to"))
          << told(on.world);
    }
  }
}

TEST(ClickToMove, WhatIsRefusedOnTheWayIsLeftOutAndAPointerOverAWallIsWaitedFor) {
  Pointed on;
  ASSERT_TRUE(on.clicks->click({8, 3.5f, 0}));
  ASSERT_TRUE(on.clicks->add({8, 99, 0}));
  ASSERT_TRUE(on.clicks->add({12, 1, 0}));
  const ClickToMoveOptions refuse{.unreachable = Unreachable::refuse};
  Order order = on.porter.click_to_move(on.clicks, refuse);
  pass(on.world, 30, 1.f / 60, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_EQ(count(on.world, Event::gave_up), 2);
  ASSERT_TRUE(on.clicks->hold({12, 5, 0}));
  order = on.porter.click_to_move(on.clicks, refuse);
  pass(on.world, 1);
  ASSERT_TRUE(on.clicks->hold({8, 3.5f, 0}));
  pass(on.world, 10);
  EXPECT_TRUE(order.running());
  EXPECT_LT(flat_distance(on.porter.position(), {12, 5, 0}), 0.31f);  // where the pointer was before
}

TEST(ClickToMove, ReplansWhenItsWayIsBlocked) {
  Pointed on;
  ASSERT_TRUE(on.clicks->click({13, 1.5f, 0}));
  const Order order = on.porter.click_to_move(on.clicks);
  pass(on.world, 2);
  on.ground.put(*Barrier::box({7.5f, 1.f}, {1.f, 2.f}));  // up to the shed
  pass(on.world, 60, 1.f / 60, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_GT(on.porter.statistics().metres, 13);  // round the shed
}

TEST(ClickToMove, RefusesNonsenseAndLosesNothing) {
  Pointed on;
  const float nan = std::numeric_limits<float>::quiet_NaN();
  ASSERT_TRUE(on.clicks->click({4, 5, 0}));
  EXPECT_FALSE(on.clicks->click({nan, 0, 0}));
  EXPECT_FALSE(on.clicks->add({0, INFINITY, 0}));
  EXPECT_FALSE(on.clicks->hold({nan, 0, 0}));
  EXPECT_EQ(on.clicks->places().size(), 1u);
  const auto ending = [&](std::shared_ptr<Clicks> clicks, ClickToMoveOptions options) {
    const Order order = on.porter.click_to_move(std::move(clicks), options);
    pass(on.world, 0.1);
    return order.outcome() ? order.outcome()->why() : "";
  };
  EXPECT_TRUE(contains(ending(on.clicks, {.within = nan}), "within is nan"));
  EXPECT_TRUE(contains(ending(on.clicks, {.every = 11}), "every is 11; it must lie between 0 and 10"));
  EXPECT_TRUE(contains(ending(nullptr, {}), "the set of points is empty"));
  EXPECT_TRUE(contains(ending(std::make_shared<Clicks>(), {}), "the set of points is empty"));
  EXPECT_TRUE(contains(Npc().click_to_move(on.clicks).outcome()->why(), "no longer in the world"));
}

TEST(Selection, TakesInByBoxAndTagAndDropsWhoIsGone) {
  World world;
  const Tags cats = *world.tag("cats");
  const Npc one = *world.add({.at = {0, 0, 0}, .tags = cats}), two = *world.add({.at = {5, 0, 0}}),
            far = *world.add({.at = {50, 0, 0}, .tags = cats});
  const Camera camera = *Camera::flat(10.f, {100, 100});
  Selection selection;
  selection.add_box(world, camera, {160, 120}, {90, 80});
  EXPECT_EQ(selection.npcs(), (std::vector<Npc>{one, two}));
  selection.add_tagged(world, cats);
  selection.add(two);  // is in already
  EXPECT_EQ(selection.npcs(), (std::vector<Npc>{one, two, far}));
  one.remove();
  selection.remove(two);
  EXPECT_EQ(selection.npcs(), std::vector<Npc>{far});
  EXPECT_FALSE(selection.holds(one));
  selection.clear();
  EXPECT_EQ(selection.click({1, 1, 0}).error().text, "no NPC is selected");
}

TEST(Selection, KeepsPlacesToOneAnotherWhereThereIsRoom) {
  World world;
  Selection all;
  const std::vector<vec3> begin = {{0, 0, 0}, {2, 0, 0}, {0, 2, 0}, {2, 2, 0}};
  for (const vec3 at : begin) all.add(*world.add({.at = at}));
  ASSERT_TRUE(all.click({20, 10, 0}, {.within = 0.05f}));
  pass(world, 40);
  for (std::size_t i = 0; i < begin.size(); ++i)
    EXPECT_LT(flat_distance(all.npcs()[i].position(), begin[i] + vec3(19, 9, 0)), 0.06f);
  // Places appended to earlier ones, each with its own spot; and held.
  ASSERT_TRUE(all.click({20, 20, 0}, {.within = 0.05f}));
  pass(world, 1);
  ASSERT_TRUE(all.add_click({5, 20, 0}, {.within = 0.05f}));
  pass(world, 60);
  for (std::size_t i = 0; i < begin.size(); ++i)
    EXPECT_LT(flat_distance(all.npcs()[i].position(), begin[i] + vec3(4, 19, 0)), 0.2f);
  for (int i = 0; i < 100; ++i) {
    ASSERT_TRUE(all.hold({5.f + 0.05f * static_cast<float>(i), 15, 0}, {.within = 0.05f}));
    pass(world, 0.1);
  }
  pass(world, 10);
  all.release();
  pass(world, 2);
  for (std::size_t i = 0; i < begin.size(); ++i) {
    EXPECT_LT(flat_distance(all.npcs()[i].position(), begin[i] + vec3(8.95f, 14, 0)), 0.3f);
    EXPECT_FALSE(all.npcs()[i].busy());
  }
}

TEST(Selection, StandsInFormationFacingTheWayItCame) {
  World world({.avoid = true});
  Selection guard;
  for (int i = 0; i < 7; ++i)
    guard.add(*world.add({.at = {static_cast<float>(i % 3), static_cast<float>(i), 0}}));
  ASSERT_TRUE(guard.form(Formation::wedge, 1.5f));
  ASSERT_TRUE(guard.click({3, 40, 0}));
  pass(world, 60, 1.f / 60,
       [&] { return std::ranges::none_of(guard.npcs(), [](Npc npc) { return npc.busy(); }); });
  // Northwards: one in front, and three pairs behind, each further back and further apart.
  std::vector<vec2> at;
  for (const Npc& npc : guard.npcs()) at.push_back(flat(npc.position()) - vec2(3, 40));
  std::ranges::sort(at, std::greater(), &vec2::y);
  for (std::size_t pair = 1; pair < 7; pair += 2) {
    EXPECT_NEAR(at[0].y - at[pair].y, 1.06f * static_cast<float>(pair + 1) / 2.f, 0.65f) << pair;
    EXPECT_NEAR(std::abs(at[pair].x - at[pair + 1].x), 2.12f * static_cast<float>(pair + 1) / 2.f, 0.65f)
        << pair;
  }
  EXPECT_EQ(guard.form(Formation::line, 0).error().text,
            "the spacing of a formation is 0; it must lie between 0.1 and 100 metres");
  EXPECT_FALSE(guard.click({std::nanf(""), 0, 0}));
}

RC_GTEST_PROP(Selection, EverySpotIsReachableAndNoTwoOverlap, ()) {
  TileGround ground(quay_with_shed());
  World world({.ground = &ground});
  Selection selection;
  std::vector<PlaceFor> places;
  const int count = *rc::gen::inRange(1, 13);
  for (int i = 0; i < count; ++i) {
    const float radius = *rc::gen::element(0.15f, 0.3f, 0.45f);
    const Snap snap = ground.snap({between(0, 14), between(0, 2), 0}, 9.f, {.radius = radius});
    places.push_back({*world.add({.at = snap.spot.position, .body = {.radius = radius}}),
                      {between(-2, 2), between(-2, 2)}});
  }
  const vec3 goal(between(-3, 17), between(-2, 9), 0);
  const std::vector<vec3> spots = spots_around(ground, goal, places);
  for (std::size_t i = 0; i < spots.size(); ++i) {
    const Body body = places[i].npc.body();
    const Snap from = ground.snap(places[i].npc.position(), 1.f, body),
               to = ground.snap(spots[i], 0.01f, body);
    RC_ASSERT(to && ground.reachable(from.spot, to.spot));
    for (std::size_t k = 0; k < i; ++k)
      RC_ASSERT(flat_distance(spots[i], spots[k]) > body.radius + places[k].npc.body().radius - 0.01f);
  }
}

TEST(Selection, EachClickIsTakenAsItsOptionsSay) {
  const auto ground = *MeshGround::make(
      Plan{.outlines = {{{0, 0}, {8, 0}, {8, 6}, {0, 6}}, {{12, 0}, {20, 0}, {20, 6}, {12, 6}}}});
  World world({.ground = ground.get()});
  const Npc cat = *world.add({.name = "cat", .at = {2, 3, 0}});
  Selection selected;
  selected.add(cat);
  ASSERT_TRUE(selected.click({15, 3, 0}));
  pass(world, 1);
  ASSERT_TRUE(cat.busy());  // on the way to the nearest spot
  ASSERT_TRUE(selected.click({16, 3, 0}, {.unreachable = Unreachable::refuse}));
  pass(world, 1);
  EXPECT_FALSE(cat.busy());
  EXPECT_EQ(count(world, Event::gave_up), 1);
  ASSERT_TRUE(selected.click({7, 3, 0}, {.within = 0.1f}));
  pass(world, 1);
  ASSERT_TRUE(selected.click({7, 5, 0}, {.within = 0.1f}));
  ASSERT_TRUE(selected.add_click({3, 3, 0}));
  pass(world, 20);
  EXPECT_LE(flat_distance(cat.position(), {3, 3, 0}), 0.11f);
  EXPECT_EQ(count(world, Event::ordered), 3);
}

}  // namespace
}  // namespace ambulon
