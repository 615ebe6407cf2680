#include "route/shape.hpp"

#include <algorithm>

#include "ambulon/base/angle.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "ground/tiles/tile_sweep.hpp"
#include "level_maker.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

float length_of(const Route& route) {
  float length = 0.f;
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    length += flat_distance(route.bends[i - 1], route.bends[i]);
  return length;
}

/// The largest turn at a bend, in radians.
float sharpest(const Route& route) {
  float max = 0.f;
  for (std::size_t i = 1; i + 1 < route.bends.size(); ++i)
    max = std::max(max, std::abs(angle_between(direction(flat(route.bends[i] - route.bends[i - 1])),
                                               direction(flat(route.bends[i + 1] - route.bends[i])))));
  return max;
}

RC_GTEST_PROP(RouteShape, WhateverItsShapeARouteKeepsToTheGroundAndItsEnds, ()) {
  const TileGround ground(random_map({}, false, 40));
  const Body body{.radius = between(0.05f, 0.6f)};
  const auto spot = [&] {
    return ground.snap({between(0, static_cast<float>(ground.map().width())),
                        between(0, static_cast<float>(ground.map().height())), 0},
                       99, body);
  };
  const Snap from = spot(), to = spot();
  if (!from.found || !to.found) return;
  Route taut;
  ground.route(from.spot, to.spot, taut);
  if (!taut.complete) return;
  Route centred = taut, rounded = taut;
  keep_clear(ground, body, between(0.f, 2.f), centred);
  round_bends(ground, body, between(0.f, 2.f), rounded);
  for (const Route* route : {&centred, &rounded}) {
    RC_ASSERT(route->bends.front() == taut.bends.front());
    RC_ASSERT(route->bends.back() == taut.bends.back());
    RC_ASSERT(std::abs(route->length_xy - length_of(*route)) < 1e-3f * (1 + route->length_xy));
    for (std::size_t i = 1; i < route->bends.size(); ++i) {
      const vec2 start = flat(route->bends[i - 1]), way = flat(route->bends[i]) - start;
      for (int step = 0; step <= 20; ++step)
        RC_ASSERT(clearance(ground.map(), start + way * (static_cast<float>(step) / 20), 5.f) >
                  body.radius - 5e-3f);
    }
  }
}

TEST(RouteShape, LengthAlongTheGroundCountsSlopesStairsAndCrossings) {
  Level level;
  level.corners = {{0, 0, 0}, {8, 0, 4}, {8, 4, 4}, {0, 4, 0}};  // a ramp, then level ground
  level.triangles = {{{0, 1, 2}}, {{0, 2, 3}}};
  add_box(level, {11, 2}, 3, {6, 4, 1});
  add_box(level, {20, 2}, 3, {8, 4, 1});  // beyond a gap of 2 m
  const auto ground = MeshGround::make(level).value();
  const Body body{.radius = 0.2f};
  (void)ground->place({.kind = Passage::leap, .from = {13.7f, 2, 4}, .to = {16.3f, 2, 4}});
  const auto lengths = [&](vec3 from, vec3 to) {
    Route route;
    ground->route(ground->snap(from, 1, body).spot, ground->snap(to, 1, body).spot, route);
    return vec2(route.length_xy, length_along_ground(*ground, body, route));
  };
  const float ramp = std::hypot(6.f, 3.f);
  EXPECT_NEAR(lengths({1, 2, 0.5f}, {7, 2, 3.5f})[1], ramp, 1e-3f);
  const vec2 over = lengths({1, 2, 0.5f}, {22, 2, 4});
  EXPECT_NEAR(over[0], 21, 1e-3f);
  EXPECT_NEAR(over[1], std::hypot(7.f, 3.5f) + 14, 1e-2f);
  const vec2 level_way = lengths({9, 1, 4}, {12, 3, 4});
  EXPECT_NEAR(level_way[0], level_way[1], 1e-3f);
  EXPECT_EQ(length_along_ground(*ground, body, Route()), 0);
  // Steps count as the slope that they form, within a tenth.
  Level stairs;
  add_steps(stairs, {0, 2, 0}, {0.5f, 4, 0.25f}, 20);
  const auto flight = MeshGround::make(stairs).value();
  ASSERT_TRUE(flight->snap({9.5f, 2, 4.75f}, 0.3f, body));
  Route up;
  flight->route(flight->snap({0.5f, 2, 0.25f}, 1, body).spot, flight->snap({9.5f, 2, 4.75f}, 1, body).spot,
                up);
  EXPECT_NEAR(length_along_ground(*flight, body, up), std::hypot(9.f, 4.5f), 1);
}

TEST(RouteShape, RoundCornersOfSeveralBendsItTurnsOneWayOnly) {
  Plan plan;
  plan.outlines = {{{0, 0}, {20, 0}, {20, 20}, {0, 20}}};
  plan.solids = {{{5, 5}, {15, 5}, {15, 15}, {5, 15}}};
  const auto ground = MeshGround::make(plan).value();
  const Body cart{.radius = 0.6f};
  Route taut;
  ground->route(ground->snap({2, 10, 0}, 1, cart).spot, ground->snap({18, 10, 0}, 1, cart).spot, taut);
  ASSERT_GT(taut.bends.size(), 6U);  // corners are rounded for this width
  Route centred = taut;
  keep_clear(*ground, cart, 0.8f, centred);
  const float side =
      flat(taut.bends[1]).y > 10 ? -1.f : 1.f;  // the side on which it passes: to the right, or to the left
  for (std::size_t i = 1; i + 1 < centred.bends.size(); ++i)
    EXPECT_GT(side * angle_between(flat(centred.bends[i] - centred.bends[i - 1]),
                                   flat(centred.bends[i + 1] - centred.bends[i])),
              -0.05f)
        << i;
  for (std::size_t i = 1; i + 1 < centred.bends.size(); ++i)
    EXPECT_GT(ground->nearest_edge(ground->snap(centred.bends[i], 1, cart).spot, 9)->off, 0.7f) << i;
}

TEST(RouteShape, ALegAlongAnEdgeKeepsOffItAsFarAsIsAskedOrToTheMiddle) {
  const TileGround ground(  // a corridor three cells wide
      *TileMap::make(std::vector<std::uint8_t>(30 * 3, 1), {.width = 30, .height = 3}));
  const Body body{.radius = 0.25f};
  Route along;
  ground.route(ground.snap({1, 0.3f, 0}, 1, body).spot, ground.snap({29, 0.3f, 0}, 1, body).spot, along);
  for (const auto& [asked, kept] : {std::pair(0.6f, 0.85f), std::pair(5.f, 1.5f)}) {
    Route route = along;
    keep_clear(ground, body, asked, route);
    EXPECT_LT(route.bends.size(), 8U);
    for (const vec3 bend : route.bends) {
      if (bend.x > 7 && bend.x < 23) {
        EXPECT_NEAR(bend.y, kept, 0.06f) << asked;
      }
    }
    const auto beyond = std::ranges::find_if(route.bends, [](vec3 bend) { return bend.x > 15; });
    EXPECT_NEAR(glm::mix(std::prev(beyond)->y, beyond->y, 0.5f), kept, 0.06f) << asked;
    EXPECT_EQ(route.bends.back(), along.bends.back());
  }
}

TEST(RouteShape, CentredBendsLieInTheMiddleAndRoundedOnesAreArcsThatKeepOffTheCorner) {
  // A corridor three cells wide, around one corner.
  std::vector<std::uint8_t> cells(12 * 12, 1);
  for (int y = 0; y < 9; ++y)
    for (int x = 3; x < 12; ++x) cells[static_cast<std::size_t>(y * 12 + x)] = TileMap::blocked;
  const TileGround ground(*TileMap::make(cells, {.width = 12, .height = 12}));
  const Body body{.radius = 0.25f};
  Route taut;
  ground.route(ground.snap({1.5f, 0.5f, 0}, 1, body).spot, ground.snap({11.5f, 10.5f, 0}, 1, body).spot,
               taut);
  Route centred = taut, rounded = taut;
  keep_clear(ground, body, 5.f, centred);
  EXPECT_GT(clearance(ground.map(), flat(centred.bends[1]), 9.f), 0.9f);
  round_bends(ground, body, 1.f, rounded);
  EXPECT_GT(rounded.bends.size(), taut.bends.size() + 3);
  EXPECT_LT(degrees(sharpest(rounded)), 13.f);
  EXPECT_GT(degrees(sharpest(taut)), 30.f);
}

TEST(RouteShape, AnEmptyRouteStaysEmpty) {
  const OpenGround ground;
  Route route;
  round_bends(ground, {}, 1, route);
  keep_clear(ground, {}, 1, route);
  EXPECT_TRUE(route.bends.empty());
}

}  // namespace
}  // namespace ambulon
