#include "ambulon/ground/mesh/mesh_ground.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <thread>

#include "ambulon/base/angle.hpp"

#include "base/circle.hpp"
#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "generate.hpp"
#include "ground/bottleneck.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// A quay of 30 by 20 m with stalls on it, an islet in the canal beside it, and a wall with a gap of 1 m.
Plan market() {
  Plan plan;
  plan.outlines = {{{0, 0}, {30, 0}, {30, 20}, {0, 20}}, {{40, 0}, {45, 0}, {45, 5}, {40, 5}}};
  plan.holes = {{{12, 8}, {16, 8}, {16, 12}, {12, 12}}};  // the basin
  plan.solids = {{{4, 4}, {7, 4}, {7, 6}, {4, 6}}, {{20, 3}, {22, 4}, {23, 7}, {19, 6}}};
  plan.walls = {{{{25, 0}, {25, 9.5f}}, 0.2f}, {{{25, 10.5f}, {25, 20}}, 0.2f}};
  return plan;
}

const MeshGround& quay() {
  static const std::unique_ptr<MeshGround> ground = std::move(*MeshGround::make(market()));
  return *ground;
}

vec3 anywhere() { return {between(-3, 48), between(-3, 23), 0}; }

RC_GTEST_PROP(MeshGround, AStraightWalkGoesAsFarAsTheGroundDoes, ()) {
  const Body body{.radius = *rc::gen::element(0.01f, 0.2f, 0.3f, 0.6f)};
  const ConvexMesh& mesh = quay().mesh(body);
  const Spot from = quay().snap(anywhere(), 0, body).spot;
  const vec2 way = between(0.1f, 40) * unit(between(0, 6.28f));
  const Stretch walk = quay().straight(from, way);
  const auto off = [&](vec2 point) {
    return glm::distance(mesh.nearest(1000.0 * dvec2(point)).point, 1000.0 * dvec2(point));
  };
  for (int i = 0; i <= 100; ++i)
    RC_ASSERT(off(flat(from.position) + static_cast<float>(i) * 0.01f * walk.metres * direction(way)) < 0.2);
  RC_ASSERT(glm::length(flat(walk.end.position) - flat(from.position) - walk.metres * direction(way)) <
            3e-4f);
  RC_ASSERT(walk.free == (walk.metres == glm::length(way)));
  if (walk.free) return;
  RC_ASSERT(std::abs(glm::length(walk.inward) - 1) < 1e-5f);
  RC_ASSERT(glm::dot(walk.inward, way) < 0);
  // Beyond the edge there is no ground, not even by 1 mm along its normal.
  RC_ASSERT(off(flat(walk.end.position) - 0.001f * walk.inward) > 0.5);
}

/// Routes bend at corners, so most walks lead towards one up to rounding: they end there, or pass.
RC_GTEST_PROP(MeshGround, AStraightWalkTowardsACornerEndsOrPasses, ()) {
  const Body body{.radius = *rc::gen::element(0.01f, 0.2f, 0.25f, 0.6f)};
  const ConvexMesh& mesh = quay().mesh(body);
  const Spot from = quay().snap(anywhere(), 0, body).spot;
  for (const ConvexMesh::Corner& corner : mesh.corners()) {
    const vec2 to = vec2(corner.at / 1000.0) - flat(from.position);
    if (glm::length(to) < 0.01f) continue;
    for (const float far : {1.f, 1.f + 1e-4f, 1.5f}) {
      const Stretch walk = quay().straight(from, far * to);
      const vec2 gone = flat(walk.end.position) - flat(from.position);
      RC_ASSERT(glm::length(gone - walk.metres * direction(to)) < 1e-3f);
      RC_ASSERT(walk.free == (walk.metres == glm::length(far * to)));
      RC_ASSERT(walk.free || glm::dot(walk.inward, to) < 0);
    }
  }
}

RC_GTEST_PROP(MeshGround, SpotsAreTheNearestAndReachableOnesAreReached, ()) {
  const Body body{.radius = *rc::gen::element(0.01f, 0.2f, 0.3f, 0.6f)};
  const vec3 point = anywhere();
  const Snap snap = quay().snap(point, 0.5f, body);
  RC_ASSERT(snap.found);
  RC_ASSERT(snap.within == (snap.off <= 0.5f));
  RC_ASSERT(std::abs(snap.off - flat_distance(snap.spot.position, point)) < 1e-5f);
  const Spot other = quay().snap(anywhere(), 0, body).spot;
  for (const Spot& known : {other, snap.spot}) {  // wherever that is
    const Snap near = quay().snap_near(known, point, 0.5f, body);
    RC_ASSERT(near.found && near.within == snap.within && near.off == snap.off);
    RC_ASSERT(near.spot.position == snap.spot.position);
    RC_ASSERT(!quay().snap_near(known, vec3(std::numeric_limits<float>::quiet_NaN()), 0.5f, body).found);
  }
  Route route;
  quay().route(other, snap.spot, route);
  const Snap reachable = quay().nearest_reachable(other, point);
  RC_ASSERT(route.complete == std::isfinite(quay().distance(other, snap.spot)));
  RC_ASSERT(route.complete == quay().reachable(other, snap.spot));
  if (route.complete)
    RC_ASSERT(std::abs(reachable.off - snap.off) < 1e-3f);
  else
    RC_ASSERT(reachable.off > snap.off);
  quay().route(other, reachable.spot, route);
  RC_ASSERT(route.complete);
  float length = 0;
  for (std::size_t i = 1; i < route.bends.size(); ++i) {
    length += flat_distance(route.bends[i - 1], route.bends[i]);
    RC_ASSERT(quay().sight(quay().snap(route.bends[i - 1], 0, body).spot,
                           quay().snap(route.bends[i], 0, body).spot));
  }
  RC_ASSERT(std::abs(length - route.length_xy) < 1e-3f);
}

/// The nearest edge is where walks in all directions end first.
/// Returns the cost of a route over a market with mud from (8, 1) to (18, 7), which costs 3.
float cost_over_mud(std::span<const vec3> bends) {
  float cost = 0;
  for (std::size_t i = 1; i < bends.size(); ++i) {
    const float metres = flat_distance(bends[i - 1], bends[i]);
    const int parts = 1 + static_cast<int>(metres / 0.01f);
    for (int k = 0; k < parts; ++k) {
      const vec3 at =
          glm::mix(bends[i - 1], bends[i], (static_cast<float>(k) + 0.5f) / static_cast<float>(parts));
      const bool in_mud = at.x > 8.001f && at.x < 17.999f && at.y > 1.001f && at.y < 6.999f;
      cost += (in_mud ? 3.f : 1.f) * metres / static_cast<float>(parts);
    }
  }
  return cost;
}

RC_GTEST_PROP(MeshGround, WaysToOneGoalTogetherAreThoseOneByOne, ()) {
  Plan plan = market();
  const bool mud = *rc::gen::arbitrary<bool>();
  if (mud) plan.regions = {{.ring = {{8, 1}, {18, 1}, {18, 7}, {8, 7}}, .cost = 3.f}};
  const auto ground = std::move(*MeshGround::make(plan));
  const Body body{.radius = *rc::gen::element(0.2f, 0.6f)};
  const Spot to = ground->snap(anywhere(), 0, body).spot;
  std::vector<Spot> from;
  for (int i = 0; i < 20; ++i) from.push_back(ground->snap(anywhere(), 0, body).spot);
  std::vector<Route> ways(from.size());
  std::vector<Route*> pointers;
  for (Route& way : ways) pointers.push_back(&way);
  ground->routes_to(to, from, pointers);
  for (std::size_t i = 0; i < from.size(); ++i) {
    Route alone;
    ground->route(from[i], to, alone);
    RC_ASSERT(ways[i].complete == alone.complete);
    if (!alone.complete) continue;
    const float cost = ground->distance(from[i], to);
    if (mud)
      RC_ASSERT(std::abs(cost_over_mud(ways[i].bends) - cost) < 0.003f * cost + 0.03f);
    else
      RC_ASSERT(std::abs(ways[i].length_xy - alone.length_xy) < 1e-3f);
    RC_ASSERT(flat_distance(ways[i].bends.front(), from[i].position) < 2e-4f);
    RC_ASSERT(flat_distance(ways[i].bends.back(), to.position) < 2e-4f);
    for (std::size_t leg = 1; leg < ways[i].bends.size(); ++leg) {
      const Stretch walk = ground->straight(ground->snap(ways[i].bends[leg - 1], 1, body).spot,
                                            flat(ways[i].bends[leg]) - flat(ways[i].bends[leg - 1]));
      RC_ASSERT(flat_distance(walk.end.position, ways[i].bends[leg]) < 2e-3f);
    }
  }
}

TEST(MeshGround, ManyWithOneGoalShareASearchWhenMostOfTheWayIsTheSame) {
  const auto ground = std::move(*MeshGround::make(market()));
  const Spot goal = ground->snap({29, 19, 0}, 1).spot;
  std::vector<Spot> together, around;
  for (int i = 0; i < 100; ++i) {
    const float across = 0.1f * static_cast<float>(i);
    together.push_back(ground->snap({1, 1 + across, 0}, 1).spot);
    around.push_back(ground->snap({2.8f * across, 19, 0}, 1).spot);
  }
  around.push_back(ground->snap({29, 1, 0}, 1).spot);
  EXPECT_TRUE(ground->shares_routes(goal, together));
  EXPECT_FALSE(ground->shares_routes(goal, std::span(together).first(20)));
  EXPECT_FALSE(ground->shares_routes(around[50], around)) << "the goal is in their middle";
  around.insert(around.end(), 200, around[0]);
  EXPECT_TRUE(ground->shares_routes(around[50], around));
  // With a crossing, reversed routes differ.
  ASSERT_TRUE(ground->place({.from = {29.5f, 3, 0}, .to = {40.5f, 3, 0}}));
  EXPECT_FALSE(ground->shares_routes(goal, together));

  // A crowd is served by one search.
  World world({.ground = &quay()});
  for (int i = 0; i < 100; ++i)
    world.add({.at = {1, 1 + 0.1f * static_cast<float>(i), 0}})->go_to({29, 19, 0});
  pass(world, 1.0 / 60);
  EXPECT_EQ(world.route_figures().shared, 100U);
}

RC_GTEST_PROP(MeshGround, TheNearestEdgeIsTheNearestEndOfAnyWalk, ()) {
  const Body body{.radius = *rc::gen::element(0.01f, 0.3f, 0.6f)};
  const Spot spot = quay().snap(anywhere(), 0, body).spot;
  const float reach = between(0, 12);
  const auto edge = quay().nearest_edge(spot, reach);
  const auto further = quay().nearest_edge(spot, 100);
  RC_ASSERT(further.has_value());
  RC_ASSERT(edge.has_value() == (further->off <= reach));
  RC_ASSERT(std::abs(flat_distance(further->at, spot.position) - further->off) < 1e-4f);
  const Clearance clearance = quay().clearance(spot, reach + 0.1f);
  RC_ASSERT(clearance.level);
  RC_ASSERT(std::abs(clearance.metres - std::min(reach + 0.1f, further->off)) < 1e-4f);
  for (int i = 0; i < 32; ++i) {
    const Stretch walk = quay().straight(spot, 100.f * unit(0.2f * static_cast<float>(i)));
    RC_ASSERT(walk.metres > further->off - 1e-3f);
  }
  if (further->off < 0.01f) return;
  const vec2 way = flat(further->at) - flat(spot.position);
  const Stretch walk = quay().straight(spot, 1.1f * way);
  RC_ASSERT(!walk.free && std::abs(walk.metres - further->off) < 1e-3f);
  RC_ASSERT(glm::dot(further->inward, way) < 1e-4f);
}

TEST(MeshGround, RandomSpotsAreUniformByAreaAndReachable) {
  const Spot around = quay().snap({14, 6, 0}, 0).spot;
  Random random(3);
  constexpr int spots = 4'000;
  constexpr float radius = 6;
  int west = 0, islet = 0;
  for (int i = 0; i < spots; ++i) {
    const Spot spot = quay().random_spot(random, around, radius);
    ASSERT_LE(flat_distance(spot.position, around.position), radius + 1e-3f);
    ASSERT_LT(quay().snap(spot.position, 0).off, 2e-4f);
    west += spot.position.x < 14;
    islet += quay().random_spot(random, around, 1000).position.x > 35;
  }
  EXPECT_NEAR(west, spots / 2, 4 * std::sqrt(spots / 4));  // that part of the ground is even to both sides
  EXPECT_EQ(islet, 0);
}

TEST(MeshGround, AWideBodyDoesNotGetThroughTheGap) {
  const auto distance = [](float radius) {
    const Body body{.radius = radius};
    return quay().distance(quay().snap({24, 10, 0}, 1, body).spot, quay().snap({26, 10, 0}, 1, body).spot);
  };
  EXPECT_NEAR(distance(0.3f), 2, 1e-3f);
  EXPECT_NEAR(distance(0.49f), 2, 1e-3f);
  EXPECT_EQ(distance(0.51f), std::numeric_limits<float>::infinity());
}

Barrier crate() {
  const vec2 at(between(-1, 31), between(-1, 21));
  if (*rc::gen::arbitrary<bool>()) return *Barrier::disc(at, between(0.1f, 2));
  return *Barrier::box(at, {between(0.1f, 6), between(0.1f, 6)}, between(0, 3));
}

/// A yard with a wall from south to north and two doors, in the middle and further north, both in costly
/// places.
Plan two_doors(float cost) {
  return {.outlines = {{{0, 0}, {40, 0}, {40, 30}, {0, 30}}},
          .solids = {{{20, 0}, {20.4f, 0}, {20.4f, 11.5f}, {20, 11.5f}},
                     {{20, 12.5f}, {20.4f, 12.5f}, {20.4f, 26}, {20, 26}},
                     {{20, 27}, {20.4f, 27}, {20.4f, 30}, {20, 30}}},
          .regions = {{{{17, 20}, {20, 20}, {20, 30}, {17, 30}}, cost},
                      {{{18, 10.5f}, {22, 10.5f}, {22, 14}, {18, 14}}, cost}}};
}

TEST(MeshGround, TheWayRoundABottleneckIsTheOneThatIsLeftWhenItIsShut) {
  for (const float cost : {1.f, 3.f}) {
    const auto ground = *MeshGround::make(two_doors(cost));
    const Body body{.radius = 0.25f};
    for (const vec3 goal : {vec3(33, 12, 0), vec3(22, 3, 0), vec3(25, 14, 0)}) {
      const Spot from = ground->snap({14, 10, 0}, 1, body).spot, to = ground->snap(goal, 1, body).spot;
      Route way, round, shut;
      ground->route(from, to, way);
      const auto jam = bottleneck_ahead(*ground, body, from.position, way.bends, 12, 4);
      ASSERT_TRUE(jam);
      EXPECT_NEAR(glm::length(jam->place.left - jam->place.right), 0.5f, 0.1f);
      EXPECT_NEAR(jam->place.middle.position.x, 20.2f, 0.5f);
      ground->detour(from, to, jam->place, 100, round);
      const BarrierId crate = ground->put(*Barrier::box({20.2f, 12}, {0.4f, 1}));
      ground->route(ground->snap(from.position, 1, body).spot, ground->snap(goal, 1, body).spot, shut);
      EXPECT_TRUE(ground->remove(crate));
      // Routes over costly ground are near the minimum.
      EXPECT_NEAR(round.length_xy, shut.length_xy, cost > 1.f ? 0.02f * shut.length_xy : 0.001f);
      EXPECT_GT(round.length_xy, way.length_xy + 1);
      const vec2 middle = flat(jam->place.middle.position);
      for (std::size_t i = 0; i + 1 < round.bends.size(); ++i)
        EXPECT_FALSE(lines_cross(middle + jam->place.left, middle + jam->place.right, flat(round.bends[i]),
                                 flat(round.bends[i + 1])));
      const Spot again = ground->snap(from.position, 1, body).spot, end = ground->snap(goal, 1, body).spot;
      ground->detour(again, end, jam->place, shut.length_xy + (cost > 1.f ? 1.f : -0.01f), round);
      EXPECT_FALSE(round.complete) << "it is longer than that, or costs more";
      for (const float none : {NAN, INFINITY, 0.f}) {
        ground->detour(again, end, {.middle = again, .left = vec2(none), .right = vec2(none)}, 100, round);
        EXPECT_FALSE(round.complete) << none;
      }
    }
  }
}

RC_GTEST_PROP(MeshGround, AfterAnyEditsItIsAsIfItHadBeenMadeSo, ()) {
  const auto kept = std::move(*MeshGround::make(market())), fresh = std::move(*MeshGround::make(market()));
  (void)kept->mesh({.radius = 0.3f}),
      (void)kept->mesh({.radius = 0.6f});  // that it is kept right, not made when it is asked for
  std::vector<BarrierId> ids;
  for (int edit = *rc::gen::inRange(1, 12); edit > 0; --edit) {
    const auto kind = *rc::gen::inRange(0, 3);
    const auto which = ids.empty() ? 0 : *rc::gen::inRange<std::size_t>(0, ids.size());
    const std::uint64_t revision = kept->revision();
    if (kind == 0 || ids.empty()) {
      ids.push_back(kept->put(crate()));
    } else if (kind == 1) {
      RC_ASSERT(kept->move(ids[which], crate()).has_value());
    } else {
      RC_ASSERT(kept->remove(ids[which]).has_value());
      RC_ASSERT(!kept->remove(ids[which]).has_value());
      ids.erase(ids.begin() + static_cast<std::ptrdiff_t>(which));
    }
    RC_ASSERT(kept->revision() > revision);
  }
  for (const PlacedBarrier& placed : kept->barriers()) fresh->put(placed.barrier);
  for (const float radius : {0.3f, 0.6f}) {
    const Body body{.radius = radius};
    RC_ASSERT(std::abs(kept->mesh({.radius = radius}).area() - fresh->mesh({.radius = radius}).area()) < 1);
    for (int i = 0; i < 5; ++i) {
      const vec3 here = anywhere(), there = anywhere();
      const Snap from = kept->snap(here, 0, body), to = kept->snap(there, 0, body);
      const Snap as_from = fresh->snap(here, 0, body), as_to = fresh->snap(there, 0, body);
      RC_ASSERT(std::abs(from.off - as_from.off) < 1e-5f);
      for (const PlacedBarrier& placed : kept->barriers())
        if (placed.barrier.radius() > 0)
          RC_ASSERT(flat_distance(from.spot.position, lift(placed.barrier.corners()[0])) >
                    0.975f * (placed.barrier.radius() + radius) - 0.003f);
      const float length = kept->distance(from.spot, to.spot);
      RC_ASSERT(std::isfinite(length) == std::isfinite(fresh->distance(as_from.spot, as_to.spot)));
      RC_ASSERT(std::isfinite(length) == std::isfinite(kept->distance(to.spot, from.spot)));
      if (!std::isfinite(length)) continue;
      RC_ASSERT(std::abs(length - fresh->distance(as_from.spot, as_to.spot)) < 2e-3f);
      RC_ASSERT(std::abs(length - kept->distance(to.spot, from.spot)) < 1e-3f);
    }
  }
}

TEST(MeshGround, WhoIsCaughtInAWallOfCratesIsToldSoAndOnlyTheirWaysAreLaidAnew) {
  const auto ground = std::move(*MeshGround::make(market()));
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.name = "porter", .at = {10, 16, 0}}),
            cat = *world.add({.name = "cat", .at = {2, 2, 0}});
  const Order far = porter.go_to({28, 18, 0}), near = cat.go_to({2, 18, 0});
  pass(world, 2, 1.f / 60.f);
  const std::vector<vec3> way = {{12, 16, 0}, {24, 16, 0}}, beside = {{2, 2, 0}, {2, 18, 0}};
  const std::uint64_t before = ground->revision();
  // The gap in the wall is filled, and with it the only route.
  const BarrierId crates = ground->put(*Barrier::box({25, 10}, {0.5f, 2}));
  EXPECT_FALSE(ground->changed_along(way, {.radius = 0.3f}, before));
  EXPECT_TRUE(ground->changed_along(std::vector<vec3>{{24, 10, 0}, {26, 10, 0}}, {.radius = 0.3f}, before));
  pass(world, 60, 1.f / 60.f, [&] { return !far.running(); });
  EXPECT_EQ(far.outcome()->ending, Ending::no_route) << told(world);
  pass(world, 60, 1.f / 60.f, [&] { return !near.running(); });
  EXPECT_EQ(near.outcome()->ending, Ending::arrived) << told(world);
  ASSERT_TRUE(ground->remove(crates));
  const Order again = porter.go_to({28, 18, 0});
  pass(world, 60, 1.f / 60.f, [&] { return !again.running(); });
  EXPECT_EQ(again.outcome()->ending, Ending::arrived) << told(world);
}

TEST(MeshGround, NpcsWalkRoundWhatIsInTheWayAndArrive) {
  World world({.ground = &quay()});
  const Npc porter = *world.add({.at = {10, 10, 0}});
  const Order order = porter.go_to({28, 2, 0});
  double off = 0;
  pass(world, 60, 1.f / 60.f, [&] {
    off = std::max(off, static_cast<double>(quay().snap(porter.position(), 0).off));
    return !order.running();
  });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived) << told(world);
  EXPECT_LT(off, 1e-3);
  const Order swim = porter.go_to({42, 2, 0});  // to the islet
  pass(world, 60, 1.f / 60.f, [&] { return !swim.running(); });
  EXPECT_EQ(swim.outcome()->ending, Ending::no_route) << told(world);
}

TEST(MeshGround, ThreadsGetTheAnswersOfOne) {
  const auto ground = std::move(*MeshGround::make(market()));
  std::array<std::vector<float>, 4> answers;
  std::vector<std::thread> threads;
  for (auto& all : answers)
    threads.emplace_back([&] {
      Random random(1);
      for (int i = 0; i < 300; ++i) {
        const Body body{.radius = 0.05f * static_cast<float>(1 + random.below(10))};
        const auto spot = [&] {
          return ground->snap({45 * random.fraction(), 20 * random.fraction(), 0}, 0, body).spot;
        };
        const Spot from = spot(), to = spot();
        all.push_back(ground->distance(from, to));
      }
    });
  for (auto& thread : threads) thread.join();
  for (const auto& all : answers) EXPECT_EQ(all, answers[0]);
}

TEST(MeshGround, WhatMakesNoSenseIsNamedAndNothingIsFoundWhereThereIsNoRoom) {
  EXPECT_EQ(MeshGround::make(Plan{}).error().text,
            "the plan has no outline; what can be walked on lies inside of one");
  EXPECT_FALSE(quay().snap({1, 1, 0}, 1, {.radius = 30}).found);
  const float no_number = std::numeric_limits<float>::quiet_NaN();
  EXPECT_FALSE(quay().snap({no_number, 1, 0}, 1).found);
}

#ifndef AMBULON_ASSERTIONS
TEST(MeshGround, SpotsOfAnotherGroundAreHarmless) {
  const auto square = [](float size) {
    return MeshGround::make(Plan{.outlines = {{{0, 0}, {size, 0}, {size, size}, {0, size}}}}).value();
  };
  const auto small = square(5), large = square(200);
  std::vector<Spot> spots = {Spot{}, {.position = {1e30f, std::nanf(""), 0}, .piece = 7, .layer = 63}};
  for (const float radius : {0.1f, 0.7f, 1.2f})
    spots.push_back(large->snap({150, 150, 0}, 0, {.radius = radius}).spot);
  Route route;
  Random random;
  for (int meshes = 0; meshes < 2; ++meshes) {  // none yet, then one
    for (const Spot& from : spots)
      for (const Spot& to : spots) {
        small->route(from, to, route);
        small->detour(from, to, {.middle = to, .left = {0, 1}, .right = {0, -1}}, 100, route);
        (void)small->sight(from, to), (void)small->straight(from, {1, 1}), (void)small->clearance(from, 3);
        (void)small->reachable(from, to), (void)small->distance(from, to);
        (void)small->nearest_reachable(from, {1, 1, 0}), (void)small->nearest_edge(from, 3);
        (void)small->random_spot(random, from, 5), (void)small->snap_near(from, {1, 1, 0}, 1, {});
        small->each_piece_around(from, 3, [](std::span<const vec3>) {});
        Route* way = &route;
        small->routes_to(to, std::span(&from, 1), std::span(&way, 1));
      }
    EXPECT_TRUE(small->reachable(small->snap({1, 1, 0}, 0).spot, small->snap({4, 4, 0}, 0).spot));
  }
}
#endif

}  // namespace
}  // namespace ambulon
