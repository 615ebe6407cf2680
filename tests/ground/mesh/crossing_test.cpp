#include "ambulon/ground/crossing.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <sstream>

#include <glm/ext/vector_double3.hpp>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "quay.hpp"
#include "random_level.hpp"
#include "random_yard.hpp"

namespace ambulon {
namespace {

// --- The search -------------------------------------------------------------------------------

/// Over the ends of crossings, with paths between them that use none.
double over_all_crossings(const ConvexMesh& mesh, std::span<const MeshCrossing> crossings,
                          const MeshSearch::Place& from, const MeshSearch::Place& to) {
  constexpr double never = std::numeric_limits<double>::infinity();
  MeshSearch search;
  const auto walk = [&](const MeshSearch::Place& a, const MeshSearch::Place& b) {
    return search.find(mesh, a, b) ? search.length() : never;
  };
  std::vector<double> length;  // to the far end of each crossing
  for (const MeshCrossing& each : crossings)
    length.push_back(walk(from, {each.from.at, each.from.polygon}) + each.cost);
  for (std::size_t round = 0; round < crossings.size(); ++round)
    for (std::size_t i = 0; i < crossings.size(); ++i)
      for (std::size_t k = 0; k < crossings.size(); ++k)
        if (std::isfinite(length[i]))
          length[k] = std::min(length[k], length[i] + crossings[k].cost +
                                              walk({crossings[i].to.at, crossings[i].to.polygon},
                                                   {crossings[k].from.at, crossings[k].from.polygon}));
  double best = walk(from, to);
  for (std::size_t i = 0; i < crossings.size(); ++i)
    if (std::isfinite(length[i]))
      best = std::min(best, length[i] + walk({crossings[i].to.at, crossings[i].to.polygon}, to));
  return best;
}

RC_GTEST_PROP(Crossing, RoutesAreTheShortestThatTakeAny, ()) {
  const auto outlines = yard();
  const ConvexMesh mesh = in_patches(outlines, 20'000);
  std::vector<MeshCrossing> crossings;
  for (int i = number(0, 5); i > 0; --i) {
    const MeshSearch::Place from = somewhere(mesh), to = somewhere(mesh);
    MeshCrossing crossing{.from = {from.at, 0, from.polygon}, .to = {to.at, 0, to.polygon}};
    crossing.cost = glm::distance(from.at, to.at) + number(0, 1) * number(0, 3000);
    crossings.push_back(crossing);
    if (number(0, 1) == 0) continue;
    std::swap(crossing.from, crossing.to);
    crossings.push_back(crossing);
  }
  const MeshCrossings kept(mesh, crossings);
  MeshSearch search;
  MeshCrossings::Reached reached;
  for (int i = 0; i < 4; ++i) {
    const MeshSearch::Place from = somewhere(mesh), to = somewhere(mesh);
    const double best = over_all_crossings(mesh, kept.all(), from, to);
    RC_ASSERT(kept.reachable(mesh, from.polygon, to.polygon, reached) == std::isfinite(best));
    RC_ASSERT(search.find(mesh, from, to, kept) == std::isfinite(best));
    if (!std::isfinite(best)) continue;
    RC_ASSERT(std::abs(search.length() - best) < 1e-3);
    // The resulting path has that length.
    double length = 0;
    std::size_t next = 0;
    for (std::size_t k = 0; k + 1 < search.path().size(); ++k) {
      const dvec2 a = search.path()[k].at, b = search.path()[k + 1].at;
      if (next < search.crossed().size() && search.crossed()[next].bend == k) {
        const MeshCrossing& taken = kept.all()[search.crossed()[next++].crossing];
        RC_ASSERT(taken.from.at == a && taken.to.at == b);
        length += taken.cost;
      } else {
        length += glm::distance(a, b);
      }
    }
    RC_ASSERT(next == search.crossed().size());
    RC_ASSERT(std::abs(length - best) < 1e-3);
    // Slices give the same result.
    MeshSearch sliced;
    sliced.begin(mesh, from, to, kept);
    while (sliced.go_on(2) == MeshSearch::State::searching) {
    }
    RC_ASSERT(sliced.length() == search.length());
  }
}

// --- What is found on levels ------------------------------------------------------------------

/// Returns true if no triangle obstructs an upright body that is moved from one place to another.
bool free_between(const Level& level, dvec2 from, dvec2 to, double radius, double low, double high) {
  const dvec2 ahead = (to - from) / glm::distance(from, to), left(-ahead.y, ahead.x);
  for (double along = -radius; along <= glm::distance(from, to) + radius; along += 40)
    for (double aside = -radius; aside <= radius; aside += 40) {
      const dvec2 at = from + along * ahead + aside * left;
      if (glm::distance(nearest_on(from, to, at), at) > radius) continue;
      for (const Level::Triangle& triangle : level.triangles) {
        const auto corner = [&](std::size_t i) {
          return 1000.0 * glm::dvec3(level.corners[triangle.corners[i % 3]]);
        };
        const double whole = cross(dvec2(corner(1) - corner(0)), dvec2(corner(2) - corner(0)));
        if (std::abs(whole) < 1) continue;
        double height = 0;
        bool inside = true;
        for (std::size_t i = 0; i < 3; ++i) {
          const double part = cross(dvec2(corner(i + 1)) - at, dvec2(corner(i + 2)) - at) / whole;
          inside = inside && part >= 0;
          height += part * corner(i).z;
        }
        if (inside && height > low && height < high) return false;
      }
    }
  return true;
}

RC_GTEST_PROP(Crossing, NothingIsInTheWayOfThoseFoundAndNoneIsTooFar, ()) {
  const Level level = random_level();
  const Body body{.radius = *rc::gen::element(0.15f, 0.3f),
                  .jump_up = *rc::gen::element(0.f, 0.6f, 1.2f),
                  .drop_down = *rc::gen::element(0.f, 1.5f, 3.f),
                  .leap = *rc::gen::element(0.f, 0.8f, 2.f)};
  const auto ground = MeshGround::make(level).value();
  const ConvexMesh& mesh = ground->mesh(body);
  for (const MeshCrossing& found : ground->crossings(body).all()) {
    const double off = glm::distance(found.from.at, found.to.at), up = found.over - found.from.height,
                 down = found.over - found.to.height;
    for (const MeshCrossing::End& end : {found.from, found.to}) {
      RC_ASSERT(mesh.holds(end.polygon, end.at) ||
                glm::distance(mesh.nearest_in(end.polygon, end.at), end.at) < 0.01);
      RC_ASSERT(end.height <= found.over);
    }
    RC_ASSERT(found.cost >= off);
    const double highest = 1000 * std::max(body.jump_up, body.step_up) + 10,
                 deepest = std::max(highest, 1000.0 * body.drop_down + 10);
    RC_ASSERT(up <= highest && down <= deepest);
    RC_ASSERT(off <= 1000 * (2 * body.radius + std::max(body.leap, body.radius)) + 10);
    if (found.kind == Passage::leap) {
      RC_ASSERT(up <= 1000 * body.step_up + 10);
      RC_ASSERT(off <= 1000 * (2 * body.radius + body.leap) + 10);
    } else if (found.kind == Passage::drop_down) {
      RC_ASSERT(up <= 1000 * body.step_up + 10 && down > 1000 * body.step_up);
    }
    const bool raised = found.over > std::max(found.from.height, found.to.height) + 1;
    RC_ASSERT(free_between(level, found.from.at, found.to.at, 1000 * body.radius - 20,
                           found.over + (raised ? 0 : 1000 * body.step_up) + 10,
                           found.over + 1000 * body.height - 10));
  }
}

RC_GTEST_PROP(Crossing, AfterBarriersTheyAreThoseOfAGroundMadeAnew, ()) {
  const Level level = random_level();
  const Body body{.radius = 0.15f, .jump_up = 0.8f, .drop_down = 3, .leap = 1};
  const auto changed = MeshGround::make(level).value();
  ASSERT_TRUE(changed->prepare(body));
  std::vector<Barrier> barriers;
  for (int i = number(1, 3); i > 0; --i) {
    const vec2 at(between(0, 6), between(0, 6));
    const Barrier box = Barrier::box(at, {between(0.2f, 2), between(0.2f, 2)}, between(0, 3)).value();
    const BarrierId id = changed->put(number(0, 1) == 0 ? box : box.between(0, between(0.2f, 1.5f)));
    barriers.push_back(changed->barriers().back().barrier);
    if (number(0, 2) > 0) continue;
    RC_ASSERT(changed->remove(id).has_value());
    barriers.pop_back();
  }
  const auto fresh = MeshGround::make(level).value();
  for (const Barrier& barrier : barriers) fresh->put(barrier);
  const auto all = changed->crossings(body).all(), wanted = fresh->crossings(body).all();
  RC_ASSERT(all.size() == wanted.size());
  const auto same = [](const MeshCrossing::End& a, const MeshCrossing::End& b) {
    return glm::distance(a.at, b.at) < 0.1 && std::abs(a.height - b.height) < 0.1;
  };
  for (const MeshCrossing& each : all)
    RC_ASSERT(std::ranges::any_of(wanted, [&](const MeshCrossing& other) {
      return same(each.from, other.from) && same(each.to, other.to) && each.kind == other.kind;
    }));
}

/// Two roofs 3 m up, a gap of that many metres between them.
Level roofs(float gap) {
  Level level = quay_stones(20);
  add_box(level, {5 - gap / 2, 10}, 0, {8, 6, 3});
  add_box(level, {13 + gap / 2, 10}, 0, {8, 6, 3});
  return level;
}

Spot spot(const MeshGround& ground, vec3 at, const Body& body) { return ground.snap(at, 0.3f, body).spot; }

bool reaches(const Level& level, vec3 from, vec3 to, const Body& body) {
  const auto ground = MeshGround::make(level).value();
  return ground->reachable(spot(*ground, from, body), spot(*ground, to, body));
}

TEST(Crossing, WhatABodyCanDoDecidesWhereItGets) {
  const vec3 one{5, 10, 3}, other{13, 10, 3}, below{9, 2, 0};
  EXPECT_FALSE(reaches(roofs(1.2f), one, other, {}));
  EXPECT_FALSE(reaches(roofs(1.2f), one, other, {.leap = 1.1f}));
  EXPECT_TRUE(reaches(roofs(1.2f), one, other, {.leap = 1.3f}));
  EXPECT_FALSE(reaches(roofs(1.2f), one, below, {.drop_down = 2.9f}));
  EXPECT_TRUE(reaches(roofs(1.2f), one, below, {.drop_down = 3.1f}));
  EXPECT_FALSE(
      reaches(roofs(1.2f), below, one, {.jump_up = 2.9f, .drop_down = 3.1f}));  // there is no way back
  EXPECT_TRUE(reaches(roofs(1.2f), below, one, {.jump_up = 3.1f}));

  Level yard = quay_stones(20);  // a wall across it, 0.9 m high
  add_box(yard, {10, 10}, 0, {0.2f, 20, 0.9f});
  EXPECT_FALSE(reaches(yard, {5, 10, 0}, {15, 10, 0}, {.jump_up = 0.8f, .leap = 3}));
  EXPECT_TRUE(reaches(yard, {5, 10, 0}, {15, 10, 0}, {.jump_up = 1}));
  add_box(yard, {10, 10}, 2, {6, 20, 0.2f});  // a roof above it, too low to jump below
  EXPECT_FALSE(reaches(yard, {5, 10, 0}, {15, 10, 0}, {.jump_up = 1}));
  EXPECT_TRUE(reaches(yard, {5, 10, 0}, {15, 10, 0}, {.height = 1, .jump_up = 1}));
}

TEST(Crossing, ShutAndOpenedPlacedAndTakenAway) {
  const auto ground = MeshGround::make(roofs(4)).value();
  const Body body;
  const Spot low = spot(*ground, {9, 2, 0}, body), roof = spot(*ground, {5, 10, 3}, body);
  EXPECT_FALSE(ground->reachable(low, roof));
  const CrossingId ladder = ground
                                ->place({.kind = Passage::ladder,
                                         .from = {4, 6.5f, 0},
                                         .to = {4, 7.5f, 3},
                                         .both_ways = false,
                                         .cost = 2})
                                .value();
  EXPECT_TRUE(ground->reachable(low, roof));
  EXPECT_FALSE(ground->reachable(roof, low));
  Route route;
  ground->route(low, roof, route);
  ASSERT_EQ(route.crossings.size(), 1);
  EXPECT_EQ(route.crossings[0].kind, Passage::ladder);
  EXPECT_NEAR(route.bends[route.crossings[0].bend].z, 0, 1e-3f);
  EXPECT_NEAR(route.bends[route.crossings[0].bend + 1].z, 3, 1e-3f);
  EXPECT_GT(ground->distance(low, roof), route.length_xy + 2);
  const std::uint64_t before = ground->revision();
  ASSERT_TRUE(ground->shut(ladder));
  EXPECT_TRUE(ground->changed_along(route.bends, body, before));
  EXPECT_FALSE(ground->reachable(low, roof));
  EXPECT_NEAR(ground->nearest_reachable(low, {4, 8, 3}).spot.position.z, 0, 1e-3f);
  ASSERT_TRUE(ground->open(ladder));
  EXPECT_NEAR(ground->nearest_reachable(low, {4, 8, 3}).spot.position.z, 3, 1e-3f);
  ASSERT_TRUE(ground->remove(ladder));
  EXPECT_FALSE(ground->reachable(low, roof));
  EXPECT_TRUE(contains(ground->shut(ladder).error().text, "crossing 1 is not on the ground"));
  EXPECT_TRUE(contains(ground->place({.from = {1, 1, 0}, .to = {1, 1, 0}}).error().text, "1 cm apart"));
  EXPECT_TRUE(contains(ground->place({.to = {1, std::nanf(""), 0}}).error().text, "not a number"));
  EXPECT_TRUE(contains(ground->place({.to = {1, 1, 0}, .cost = -1}).error().text, "between 0 and 1000"));
}

// --- Crossing ---------------------------------------------------------------------------------

/// The movement from roof to roof.
struct CompactRoute {
  explicit CompactRoute(const MeshGround& ground, const Body& body, vec3 from, Drive drive = Drive::own)
      : world({.ground = &ground}),
        courier(*world.add({.name = "courier", .at = from, .body = body, .drive = drive})) {}
  World world;
  Npc courier;
};

TEST(Crossing, ACourierLeapsFromRoofToRoof) {
  const auto ground = MeshGround::make(roofs(1.5f)).value();
  const Body body{.leap = 1.6f};
  std::vector<double> times;
  for (const float rate : {30.f, 60.f, 144.f}) {
    CompactRoute walk(*ground, body, {5, 10, 3});
    const Order order = walk.courier.go_to({13, 10, 3}, {.within = 0.1f});
    float highest = 0, lowest = 9, furthest = 0;
    vec3 before = walk.courier.position();
    times.push_back(pass(walk.world, 20, 1 / rate, [&] {
      const Motion& motion = walk.courier.motion();
      if (motion.stance == Stance::jumping) {
        highest = std::max(highest, motion.position.z);
        furthest = std::max(furthest, flat_distance(before, motion.position));
      }
      lowest = std::min(lowest, motion.position.z);
      before = motion.position;
      return order.outcome().has_value();
    }));
    EXPECT_TRUE(order.outcome() && *order.outcome());
    EXPECT_GT(highest, 3.1f);
    EXPECT_LT(highest, 4);
    EXPECT_NEAR(lowest, 3, 1e-3f);      // never in the gap
    EXPECT_LT(furthest, 3.01f / rate);  // no faster than 3 m/s
    EXPECT_EQ(count(walk.world, Event::crosses), 1);
    EXPECT_TRUE(contains(told(walk.world), "courier leaps at")) << told(walk.world);
  }
  EXPECT_NEAR(times[0], times[1], 0.01 * times[1]);
  EXPECT_NEAR(times[2], times[1], 0.01 * times[1]);
}

TEST(Crossing, WhoeverIsInTheAirLandsWhateverBecomesOfTheOrder) {
  const auto ground = MeshGround::make(roofs(1.5f)).value();
  CompactRoute walk(*ground, {.leap = 1.6f}, {5, 10, 3});
  const auto in_air = [&] { return walk.courier.motion().stance == Stance::jumping; };
  walk.courier.go_to({13, 10, 3});
  pass(walk.world, 20, 1.f / 60, in_air);
  ASSERT_TRUE(in_air());
  const Order back = walk.courier.go_to({5, 10, 3}, {.within = 0.1f});
  EXPECT_TRUE(walk.world.tick(1.f / 60));
  EXPECT_TRUE(in_air());
  float furthest = 0;
  pass(walk.world, 20, 1.f / 60, [&] {
    furthest = std::max(furthest, walk.courier.position().x);
    return back.outcome().has_value();
  });
  EXPECT_GT(furthest, 9.9f);                        // it was on the other roof,
  EXPECT_EQ(count(walk.world, Event::crosses), 2);  // and leapt back
  EXPECT_TRUE(back.outcome() && *back.outcome());

  walk.courier.go_to({13, 10, 3});
  pass(walk.world, 20, 1.f / 60, in_air);
  walk.courier.cancel();
  pass(walk.world, 1);
  EXPECT_NEAR(walk.courier.position().z, 3, 1e-3f);
  ASSERT_TRUE(walk.courier.teleport({5, 10, 3}));
  walk.courier.go_to({13, 10, 3});
  pass(walk.world, 20, 1.f / 60, in_air);
  ASSERT_TRUE(walk.courier.teleport({9, 2, 0}));  // nothing carries it on from there
  pass(walk.world, 1);
  EXPECT_NEAR(walk.courier.position().z, 0, 1e-3f);
}

TEST(Crossing, LaddersAreClimbedDoorsAreGoneThroughAndShutOnesAreNot) {
  Level level = roofs(4);
  add_box(level, {10, 4}, 0, {20, 0.2f, 2});  // a wall, with a door in it
  const auto ground = MeshGround::make(level).value();
  ground->place({.kind = Passage::ladder, .from = {4, 6.5f, 0}, .to = {4, 7.5f, 3}}).value();
  const CrossingId door =
      ground->place({.kind = Passage::door, .from = {10, 3.5f, 0}, .to = {10, 4.5f, 0}}).value();
  CompactRoute walk(*ground, {}, {10, 2, 0});
  const Order up = walk.courier.go_to({5, 10, 3}, {.within = 0.1f});
  float climbing = 0;
  pass(walk.world, 60, 1.f / 60, [&] {
    climbing += walk.courier.motion().stance == Stance::climbing ? 1.f / 60 : 0.f;
    return up.outcome().has_value();
  });
  EXPECT_TRUE(up.outcome() && *up.outcome()) << told(walk.world);
  EXPECT_TRUE(contains(told(walk.world), "goes through the door"));
  EXPECT_NEAR(climbing, std::hypot(3.f, 1.f) / 0.7f, 0.1f);  // half of 1.4 m/s

  const Order home = walk.courier.go_to({10, 2, 0}, {.within = 0.1f});
  pass(walk.world, 4);
  ASSERT_TRUE(ground->shut(door));
  pass(walk.world, 60, 1.f / 60, [&] { return home.outcome().has_value(); });
  ASSERT_TRUE(home.outcome());
  EXPECT_EQ(home.outcome()->ending, Ending::no_route);
  EXPECT_GT(walk.courier.position().y, 4);
}

TEST(Crossing, WhoIsMovedByTheGameIsToldOfTheArc) {
  const auto ground = MeshGround::make(roofs(1.5f)).value();
  CompactRoute walk(*ground, {.leap = 1.6f}, {8, 10, 3}, Drive::advised);
  const Order order = walk.courier.go_to({10.5f, 10, 3}, {.within = 0.1f});
  vec3 body = walk.courier.position();
  float highest = 0;
  pass(walk.world, 10, 1.f / 60, [&] {
    body += walk.courier.advice().velocity / 60.f;
    highest = std::max(highest, body.z);
    walk.courier.report(body);
    return order.outcome().has_value();
  });
  EXPECT_TRUE(order.outcome() && *order.outcome()) << told(walk.world);
  EXPECT_GT(highest, 3.1f);
  EXPECT_NEAR(body.z, 3, 0.01f);
}

}  // namespace
}  // namespace ambulon
