// Worlds in which all NPCs avoid each other.

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// The deepest overlap of two bodies, in metres.
float deepest(World& world) {
  std::vector<Npc> all;
  world.each([&](Npc npc) { all.push_back(npc); });
  float max = 0.f;
  for (std::size_t i = 0; i < all.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      max = std::max(max, all[i].body().radius + all[k].body().radius -
                              flat_distance(all[i].position(), all[k].position()));
  return max;
}

bool anybody_busy(World& world) {
  bool busy = false;
  world.each([&](Npc npc) { busy = busy || npc.busy(); });
  return busy;
}

/// Lets all reach their goals. Returns the deepest overlap on the way.
float until_all_stand(World& world, double seconds) {
  float max = 0.f;
  pass(world, seconds, 1.f / 60, [&] {
    max = std::max(max, deepest(world));
    return !anybody_busy(world);
  });
  return max;
}

void expect_all_arrived(World& world) {
  world.each([](Npc npc) {
    ASSERT_TRUE(npc.errand().last) << npc.name() << " is still " << npc.doing();
    EXPECT_EQ(npc.errand().last->ending, Ending::arrived) << npc.name();
  });
}

TEST(Avoid, AcrossACircleAllArriveAndHardlyTouch) {
  for (const auto& [count, radius] : {std::pair{2, 5.f}, {8, 6.f}, {50, 14.f}}) {
    World world({.avoid = true});
    for (int i = 0; i < count; ++i) {
      const vec2 at = radius * unit(2.f * pi * static_cast<float>(i) / static_cast<float>(count));
      const Npc npc = *world.add({.name = std::to_string(i), .at = lift(at)});
      npc.go_to(lift(-at));
    }
    const float overlap = until_all_stand(world, 90);
    EXPECT_LT(overlap, 0.05f * 0.3f) << count;
    EXPECT_LT(world.time(), 1.7f * 2.f * radius / 1.4f) << count;
    expect_all_arrived(world);
  }
}

TEST(Avoid, TwoStreamsInALanePassEachOtherAndStayOnTheGround) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {40, 0}, {40, 4}, {0, 4}}}});
  World world({.ground = ground.get(), .avoid = true});
  for (int i = 0; i < 12; ++i) {
    const float along = 1.f + 0.9f * static_cast<float>(i), across = 0.6f + 0.7f * static_cast<float>(i % 5);
    world.add({.name = "east " + std::to_string(i), .at = {along, across, 0}})
        ->go_to({along + 28.f, across, 0});
    world.add({.name = "west " + std::to_string(i), .at = {40.f - along, across, 0}})
        ->go_to({12.f - along, across, 0});
  }
  float overlap = 0.f, off = 0.f;
  pass(world, 120, 1.f / 60, [&] {
    overlap = std::max(overlap, deepest(world));
    world.each([&](Npc npc) { off = std::max(off, ground->snap(npc.position(), 1.f, npc.body()).off); });
    return !anybody_busy(world);
  });
  expect_all_arrived(world);
  EXPECT_LT(overlap, 0.05f * 0.3f);
  EXPECT_LT(off, 2e-3f);
  EXPECT_LT(world.time(), 1.3f * 28.f / 1.4f);
}

TEST(Avoid, WhoIsPushedOntoOthersPushesThemOnInTheSameTick) {
  // Two NPCs touch, and the game places a handcart onto the first.
  World world({.avoid = true});
  const Npc cart = *world.add({.at = {0, 0, 0}, .drive = Drive::advised});
  for (const float at : {0.4f, 1.f}) world.add({.at = {at, 0, 0}});
  ASSERT_TRUE(cart.report({0, 0, 0}));
  pass(world, 1.0 / 60);
  EXPECT_LT(deepest(world), 0.05f * 0.3f);
}

TEST(Avoid, StreamsThatMeetInALanePartIntoFilesAndDoNotJam) {
  for (const float width : {2.f, 3.f, 4.f}) {
    const auto ground = *MeshGround::make(Plan{.outlines = {{{-15, -4},
                                                             {0, -4},
                                                             {0, 0},
                                                             {20, 0},
                                                             {20, -4},
                                                             {35, -4},
                                                             {35, 8},
                                                             {20, 8},
                                                             {20, width},
                                                             {0, width},
                                                             {0, 8},
                                                             {-15, 8}}}});
    World world({.ground = ground.get(), .avoid = true});
    for (int i = 0; i < 45; ++i) {
      const float off = 2.f + static_cast<float>(i / 6), across = static_cast<float>(i % 6) - 0.5f;
      const vec3 west(-off, across, 0), east(20.f + off, across, 0);
      world.add({.at = west})->go_to(east);
      world.add({.at = east})->go_to(west);
    }
    EXPECT_LT(until_all_stand(world, 200), 0.05f * 0.3f) << width;
    expect_all_arrived(world);
    EXPECT_LT(world.time(), 4.f * 38.f / 1.4f) << width;
  }
}

TEST(Avoid, WhoHasPriorityGoesStraightAndTheOtherGoesRound) {
  World world({.avoid = true});
  const Npc constable = *world.add({.at = {0, 0, 0}, .avoidance = {.priority = 1}}),
            cat = *world.add({.at = {12, 0, 0}});
  constable.go_to({12, 0, 0});
  cat.go_to({0, 0, 0});
  float aside = 0.f, cats = 0.f;
  pass(world, 20, 1.f / 60, [&] {
    aside = std::max(aside, std::abs(constable.position().y));
    cats = std::max(cats, std::abs(cat.position().y));
    EXPECT_LT(deepest(world), 0.015f);
    return !anybody_busy(world);
  });
  EXPECT_LT(aside, 1e-3f);
  EXPECT_GT(cats, 0.3f);
  expect_all_arrived(world);
}

TEST(Avoid, NobodyRunsIntoWhoStandsOrIsMovedByTheGame) {
  World world({.avoid = true});
  (void)*world.add({.name = "stall", .at = {6, 0.05f, 0}, .body = {.radius = 0.8f}});
  const Npc player = *world.add({.name = "player", .at = {12, 6, 0}, .drive = Drive::advised});
  const Npc porter = *world.add({.name = "porter", .at = {0, 0, 0}});
  porter.go_to({20, 0, 0});
  for (int tick = 0; tick < 60 * 25; ++tick) {
    // The player crosses the porter's path and does not avoid it.
    ASSERT_TRUE(player.report({12, 6.f - 0.02f * static_cast<float>(tick), 0}));
    pass(world, 1.0 / 60);
    EXPECT_LT(deepest(world), 0.015f) << world.time();
  }
  EXPECT_EQ(porter.errand().last->ending, Ending::arrived);
}

// An NPC without neighbours is not tested for overlaps, unless another one is fast enough to reach it.
TEST(Avoid, WhoIsRunIntoByWhatIsFasterThanPeopleStepsAsideInThatTick) {
  World world({.avoid = true});
  const Npc porter = *world.add({.at = {0, 0, 0}, .body = {.radius = 0.25f}});
  porter.go_to({40, 0, 0});
  pass(world, 2);
  const vec3 next = porter.position() + lift(1.f / 60.f * porter.velocity());
  const Npc cart = *world.add({.at = next + vec3(0, 0.8f, 0), .body = {.radius = 0.4f}});
  cart.ease_to(next + vec3(0, 0.5f, 0), {.seconds = 1.f / 60.f});
  pass(world, 1.f / 60.f);
  EXPECT_NEAR(cart.position().y, 0.5f, 1e-3f);
  EXPECT_GT(flat_distance(cart.position(), porter.position()), 0.55f) << "a quarter of its radius at least";
}

TEST(Avoid, ThoseWithATagThatIsPassedThroughAndThoseWhoTakeNoPartAreAsIfAlone) {
  const auto way_of = [](const WorldOptions& options, const Avoidance& avoidance, bool ghosts) {
    World world(options);
    const Tags moths = *world.tag("moths");
    const Npc npc =
        *world.add({.at = {0, 0, 0}, .body = {.passes = ghosts ? moths : Tags()}, .avoidance = avoidance});
    world.add({.at = {8, 0.1f, 0}, .tags = moths})->go_to({0, 0.1f, 0});
    npc.go_to({8, 0, 0});
    std::vector<vec3> way;
    pass(world, 8, 1.f / 60, [&] {
      way.push_back(npc.position());
      return false;
    });
    return way;
  };
  const auto alone = way_of({}, {}, false);
  EXPECT_EQ(way_of({.avoid = true}, {.takes_part = false}, false), alone);
  EXPECT_EQ(way_of({.avoid = true}, {}, true), alone);
  EXPECT_NE(way_of({.avoid = true}, {}, false), alone);
}

TEST(Avoid, WhoIsPushedOffItsBeatIntoACornerFindsItsWayOutOfIt) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {24, 0}, {24, 6}, {0, 6}}},
                                             .solids = {{{10, 0}, {12, 0}, {12, 2.2f}, {10, 2.2f}}}});
  World world({.ground = ground.get(), .avoid = true});
  const Npc visitor = *world.add({.name = "visitor", .at = {2, 3, 0}});
  const Npc cart = *world.add({.at = {20, 5, 0}, .body = {.radius = 0.6f}, .drive = Drive::advised});
  const vec3 beat[] = {{2, 3, 0}, {22, 3, 0}};
  visitor.patrol(beat);
  bool pushed = false;
  pass(world, 40, 1.f / 60, [&] {
    const vec3 at = visitor.position();
    pushed = pushed || at.y < 1.f;
    // The cart shoves it in front of the stall, and leaves.
    EXPECT_TRUE(cart.report(!pushed && at.x > 9.f ? at + vec3(0, 0.7f, 0) : vec3(20, 5, 0)));
    return visitor.statistics().arrivals >= 2;
  });
  EXPECT_TRUE(pushed);
  EXPECT_LT(world.time(), 25);
}

TEST(Avoid, WhoIsHeldUpStillTellsWhichVelocityItWants) {
  const auto alley = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 0.8f}, {0, 0.8f}}}});
  World world({.ground = alley.get(), .avoid = true});
  world.add({.at = {10, 0.4f, 0}})->set_avoidance({.priority = 1});  // stands, and makes no room
  const Npc porter = *world.add({.at = {4, 0.4f, 0}});
  porter.go_to({18, 0.4f, 0});
  pass(world, 6.2);
  EXPECT_LT(glm::length(porter.velocity()), 0.1f);
  EXPECT_GT(porter.wanted_velocity().x, 1.f);
}

TEST(Avoid, WalkingSpeedInAnEmptyLaneIsKept) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {44, 0}, {44, 3}, {0, 3}}}});
  World world({.ground = ground.get(), .avoid = true});
  const Npc npc = *world.add({.at = {1, 1.5f, 0}});
  npc.go_to({43, 1.5f, 0});
  pass(world, 2);
  const vec3 from = npc.position();
  pass(world, 20);
  EXPECT_NEAR(flat_distance(from, npc.position()) / 20, 1.4f, 0.028f);
}

TEST(Avoid, RefusesOptionsOutOfRange) {
  World world;
  EXPECT_EQ(world.add({.avoidance = {.horizon = 0}}).error().text,
            "the horizon of avoidance is 0; it must lie between 0.1 and 30");
  EXPECT_TRUE(contains(world.add({.avoidance = {.sight = std::nanf("")}}).error().text,
                       "the sight of avoidance is nan"));
  EXPECT_TRUE(contains(world.add({.avoidance = {.side = 2}}).error().text, "between -1 and 1"));
}

}  // namespace
}  // namespace ambulon
