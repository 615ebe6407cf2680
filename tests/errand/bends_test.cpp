// How NPCs pass the bends of their routes.

#include <cmath>

#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

/// What is seen of one walk.
struct Walk {
  Ending ending = Ending::blocked;
  float slowest = std::numeric_limits<float>::infinity();  // of the speed, away from both ends
  float walked = 0.f, route = 0.f;                         // metres
  float back = 0.f;                                        // metres of the route that were walked back
  float sharpest = 0.f;                                    // radians: turn of the path in 0.1 s
  double seconds = 0;
};

Walk walk(const Ground& ground, vec3 from, vec3 to, const Gait& gait, float rate) {
  World world({.ground = &ground});
  const Npc porter = *world.add({.at = from, .gait = gait});
  const Order order = porter.go_to(to);
  Walk seen;
  vec3 before = from;
  vec2 was(0.f);
  float furthest = 0.f, time = 0.f;
  const float setting_out = 0.8f + gait.speed * gait.speed / gait.acceleration,
              arriving = 1.f + gait.slowing_distance + gait.speed * gait.speed / gait.braking;
  while (porter.busy() && world.time() < 300) {
    EXPECT_TRUE(world.tick(1 / rate));
    const Progress progress = porter.errand().progress;
    if (seen.route == 0.f) seen.route = progress.of_metres;
    if (porter.busy()) seen.back = std::max(seen.back, furthest - progress.metres);
    furthest = std::max(furthest, progress.metres);
    seen.walked += glm::distance(porter.position(), before);
    before = porter.position();
    if (glm::distance(before, from) > setting_out && glm::distance(before, to) > arriving)
      seen.slowest = std::min(seen.slowest, porter.motion().speed() / gait.speed);
    if ((time += 1 / rate) < 0.1f) continue;
    time = 0.f;
    if (was != vec2(0.f) && porter.velocity() != vec2(0.f))
      seen.sharpest = std::max(seen.sharpest, std::abs(angle_between(was, porter.velocity())));
    was = porter.velocity();
  }
  seen.ending = order.outcome().value_or(Outcome{.ending = Ending::timed_out}).ending;
  seen.seconds = world.time();
  return seen;
}

// Three walls, around which the way bends by 90 degrees and in an S.
TEST(Bends, ArePassedWithoutAStop) {
  const auto plan = *MeshGround::make(Plan{.outlines = {{{0, 0}, {24, 0}, {24, 14}, {0, 14}}},
                                           .solids = {{{5, 0}, {7, 0}, {7, 9}, {5, 9}},
                                                      {{11, 5}, {13, 5}, {13, 14}, {11, 14}},
                                                      {{17, 0}, {19, 0}, {19, 9}, {17, 9}}}});
  const auto corner =
      *MeshGround::make(Plan{.outlines = {{{0, 0}, {12, 0}, {12, 12}, {10, 12}, {10, 2}, {0, 2}}}});
  for (const float rate : {10.f, 30.f, 60.f, 144.f})
    for (const auto& [ground, goal] :
         {std::pair{plan.get(), vec3(23, 1, 0)}, {corner.get(), vec3(11, 11, 0)}}) {
      double fastest = 1e6;
      for (const float rounding : {0.f, 0.5f, 2.f}) {
        const Walk seen = walk(*ground, {1, 1, 0}, goal, {.rounding = rounding}, rate);
        EXPECT_EQ(seen.ending, Ending::arrived);
        EXPECT_GE(seen.slowest, 0.6f) << rate << " " << rounding;
        EXPECT_LE(seen.walked, 1.01f * seen.route) << rate << " " << rounding;
        EXPECT_LE(seen.back, 0.01f) << rate << " " << rounding;
        EXPECT_LE(seen.sharpest, 0.7f) << rate << " " << rounding;
        EXPECT_LE(seen.seconds, fastest + 1 / rate) << rate << " " << rounding;  // rounding is never slower
        fastest = std::min(fastest, seen.seconds);
      }
    }
}

// At the same bends, faster NPCs turn on wider arcs if their gait says so.
TEST(Bends, AreFasterWithWiderArcs) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {40, 0}, {40, 40}, {0, 40}}},
                                             .solids = {{{0, 10}, {20, 10}, {20, 30}, {0, 30}}}});
  float before = 0.f;
  for (const float rounding : {0.f, 1.f, 3.f}) {
    const Walk seen = walk(*ground, {5, 5, 0}, {5, 35, 0}, {.speed = 4, .rounding = rounding}, 60);
    EXPECT_GE(seen.slowest, before) << rounding;
    EXPECT_LE(seen.back, 0.01f);
    before = seen.slowest;
  }
  EXPECT_GT(before, 0.25f);
}

// The route is lost on an arc, since the NPC is teleported to where it is.
RC_GTEST_PROP(Bends, MayLoseTheirRouteAtAnyMoment, ()) {
  const TileGround tiles(random_map({}, false, 16));
  const vec2 size(static_cast<float>(tiles.map().width()), static_cast<float>(tiles.map().height()));
  std::vector<vec3> points;
  for (int i = 0; i < 4; ++i) {
    const Snap spot = tiles.snap({between(0, size.x), between(0, size.y), 0}, 99, {});
    if (spot && (points.empty() || tiles.reachable(tiles.snap(points[0], 1, {}).spot, spot.spot)))
      points.push_back(spot.spot.position);
  }
  RC_PRE(points.size() > 1);
  World world({.ground = &tiles});
  const Npc lamplighter = *world.add({.at = points[0]});
  lamplighter.patrol(points, {.lap = between(5, 40)});
  const int every = *rc::gen::inRange(5, 40);
  for (int tick = 1; tick < 900; ++tick) {
    RC_ASSERT(world.tick(1.f / 30).has_value());
    if (tick % every == 0) RC_ASSERT(lamplighter.teleport(lamplighter.position()).has_value());
  }
  RC_ASSERT(finite(lamplighter.position()));
}

// Waypoints without a pause are passed on arcs within their circle.
TEST(Waypoints, AreFlowedThrough) {
  const OpenGround ground;
  const auto beat = *make_beat(std::vector<vec3>{{0, 0, 0}, {8, 0, 0}, {8, 8, 0}, {2, 9, 0}, {0, 4, 0}});
  for (const float rate : {10.f, 30.f, 60.f, 144.f})
    for (const float within : {0.3f, 1.f}) {
      World world({.ground = &ground});
      const Npc lamplighter = *world.add({});
      lamplighter.patrol(beat, {.within = within});
      float slowest = 1.f;
      std::vector<float> nearest(beat->size(), 1e6f);
      while (world.time() < 90) {
        ASSERT_TRUE(world.tick(1 / rate));
        if (world.time() > 2) slowest = std::min(slowest, lamplighter.motion().speed() / 1.4f);
        for (std::size_t i = 0; i < nearest.size(); ++i)
          nearest[i] = std::min(nearest[i], glm::distance(lamplighter.position(), (*beat)[i].position));
      }
      EXPECT_GE(slowest, within < 0.5f ? 0.6f : 0.85f) << rate << " " << within;
      for (const float metres : nearest) EXPECT_LE(metres, within);
      EXPECT_GE(lamplighter.statistics().metres, 0.97f * 88 * 1.4f);
      EXPECT_GE(lamplighter.statistics().arrivals, 19U);
    }
}

RC_GTEST_PROP(Bends, OfAnyRouteAreNotWalkedBack, ()) {
  const TileGround tiles(random_map({}, false, 24));
  const Gait gait{.speed = between(0.1f, 3.f), .rounding = between(0.f, 1.f)};
  const vec2 size(static_cast<float>(tiles.map().width()), static_cast<float>(tiles.map().height()));
  const auto spot = [&] { return tiles.snap({between(0, size.x), between(0, size.y), 0}, 99, {}); };
  const Snap from = spot(), to = spot();
  RC_PRE(from && to && tiles.reachable(from.spot, to.spot));
  const float rate = between(10, 144);
  const Walk seen = walk(tiles, from.spot.position, to.spot.position, gait, rate);
  RC_ASSERT(seen.ending == Ending::arrived);
  RC_ASSERT(seen.walked <= 1.01f * seen.route + 0.1f);
  RC_ASSERT(seen.back <= 0.1f);
  RC_ASSERT(seen.slowest >= 0.1f);
}

}  // namespace
}  // namespace ambulon
