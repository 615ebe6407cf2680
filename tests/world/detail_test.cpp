// Level of detail: the NPCs that decide in a tick, and those that sleep.

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Detail, WhoIsFarFromEyesWalksTheSameAndThinksSeldom) {
  struct Seen {
    double seconds, metres;
    std::size_t thought;
  };
  const auto walk = [](std::span<const vec3> viewers) {
    World world;
    const Npc npc = *world.add({.gait = {.slowing_distance = 1}});
    EXPECT_TRUE(world.set_viewers(viewers, {.near = 10}));
    const auto beat = std::make_shared<Beat>(BeatOrder::once);
    for (const vec3 lamp : lamps) EXPECT_TRUE(beat->add({.position = lamp, .pause = {0.5f, 0.5f}}));
    npc.patrol(beat);
    std::size_t thought = 0;
    const double seconds = pass(world, 60, 1.f / 60, [&] {
      thought += world.deciding();
      return !npc.busy();
    });
    EXPECT_EQ(npc.errand().last->ending, Ending::arrived);
    return Seen{seconds, npc.statistics().metres, thought};
  };
  const Seen near = walk({}), far = walk(std::vector<vec3>{{500, 0, 0}});
  EXPECT_NEAR(far.seconds, near.seconds, 0.02 * near.seconds);  // it turns slightly later
  EXPECT_NEAR(far.metres, near.metres, 0.01 * near.metres);
  EXPECT_GT(near.thought, 60 * near.seconds - 2);
  EXPECT_LT(far.thought, near.thought / 5);
  // Each tick it advances by the same distance, so the lower rate is invisible.
  World world;
  const Npc npc = *world.add({});
  EXPECT_TRUE(world.set_viewers(std::vector<vec3>{{500, 0, 0}}));
  npc.go_to({20, 0, 0});
  pass(world, 3);
  for (int i = 0; i < 16; ++i) {
    const float before = npc.position().x;
    EXPECT_TRUE(world.tick(1.f / 60));
    EXPECT_NEAR(npc.position().x - before, npc.gait().speed / 60, 1e-4f);
  }
}

TEST(Detail, ABudgetIsKeptAndThoseNearestToAnEyeHaveTheFirstCall) {
  World world({.avoid = true});
  std::vector<Npc> all;
  for (int i = 0; i < 900; ++i) {
    const vec3 at(2.f * static_cast<float>(i % 30), 2.f * static_cast<float>(i / 30), 0);
    all.push_back(*world.add({.at = at, .body = {.radius = 0.2f}}));
    all.back().wander();
  }
  const std::vector<vec3> viewers = {{30, 30, 0}};
  EXPECT_TRUE(world.set_viewers(viewers, {.near = 20, .max_interval = 16, .budget = 200}));
  double thought = 0;
  int ticks = 0;
  pass(world, 4, 1.f / 60, [&] {
    if (++ticks > 16) thought += static_cast<double>(world.deciding());
    return false;
  });
  EXPECT_LT(thought / (ticks - 16), 220);
  EXPECT_GT(thought / (ticks - 16), 120);
  // Without a budget, those within 20 m alone are more.
  EXPECT_TRUE(world.set_viewers(viewers, {.near = 20, .max_interval = 16}));
  pass(world, 0.5);
  EXPECT_GT(world.deciding(), 250U);
  EXPECT_TRUE(world.set_viewers({}, {}));
  pass(world, 0.5);
  EXPECT_EQ(world.deciding(), 900U);
}

TEST(Detail, CrowdsFarAwayKeepApartToo) {
  World world({.avoid = true});
  EXPECT_TRUE(world.set_viewers(std::vector<vec3>{{0, 1000, 0}}, {}));
  std::vector<Npc> all;
  for (int i = 0; i < 60; ++i) {
    const vec2 at = 12.f * unit(2.f * pi * static_cast<float>(i) / 60.f);
    all.push_back(*world.add({.at = lift(at)}));
    all.back().go_to(lift(-at));
  }
  float deepest = 0.f;
  pass(world, 90, 1.f / 60, [&] {
    for (const Npc a : all)
      for (const Npc b : all)
        if (a.id().slot < b.id().slot)
          deepest = std::max(deepest, 0.6f - flat_distance(a.position(), b.position()));
    return std::ranges::none_of(all, &Npc::busy);
  });
  for (const Npc npc : all) EXPECT_FALSE(npc.busy());
  EXPECT_LT(deepest, 0.1f * 0.3f);
}

TEST(Detail, WhoThinksSeldomHearsEachSignal) {
  World world;
  EXPECT_TRUE(world.set_viewers(std::vector<vec3>{{500, 0, 0}}));
  std::vector<Npc> all;
  for (int i = 0; i < 8; ++i) all.push_back(*world.add({.at = {static_cast<float>(i), 0, 0}}));
  for (const Npc npc : all) npc.wait_for("bell");
  pass(world, 0.2);
  world.signal("bell");
  pass(world, 0.05);
  for (const Npc npc : all) EXPECT_EQ(npc.errand().last->ending, Ending::done);
}

TEST(Detail, NonsenseIsRefused) {
  World world;
  EXPECT_FALSE(world.set_viewers({}, {.near = -1}));
  EXPECT_FALSE(world.set_viewers({}, {.near = NAN}));
  EXPECT_FALSE(world.set_viewers({}, {.max_interval = 0}));
  EXPECT_FALSE(world.set_viewers(std::vector<vec3>{{NAN, 0, 0}}));
}

TEST(Sleep, WhoHasNothingToDoSleepsUntilItGetsAnOrder) {
  World world({.avoid = true});
  std::vector<Npc> all;
  for (int i = 0; i < 100; ++i)
    all.push_back(*world.add({.at = {static_cast<float>(i % 10), static_cast<float>(i / 10), 0}}));
  const Npc busy = *world.add({.at = {-5, 0, 0}});
  busy.patrol(lamps);
  pass(world, 1.2);
  EXPECT_GT(world.sleeping(), 90U);  // except those that made room for the walker
  EXPECT_LT(world.deciding(), 10U);
  all[5].go_to({5, -8, 0});
  all[77].remove();
  pass(world, 0.1);
  EXPECT_GT(all[5].velocity().y, -1.5f);
  EXPECT_LT(all[5].velocity().y, -0.1f);
  EXPECT_FALSE(all[77].alive());
  // Queries find sleeping NPCs.
  EXPECT_EQ(world.others().near(all[22].position(), {.radius = 0.1f}).size(), 1U);
  const Npc fresh = *world.add({.at = {7, 7, 0}});  // in the slot of the removed one
  EXPECT_EQ(world.others().near({7, 7, 0}, {.radius = 0.1f}).size(), 1U);
  pass(world, 3);
  EXPECT_TRUE(fresh.alive());
  EXPECT_TRUE(all[30].teleport({30, 30, 0}));
  EXPECT_EQ(world.others().near({30, 30, 0}, {.radius = 0.1f}).size(),
            0U);  // as it was when the tick began
  pass(world, 0.05);
  EXPECT_EQ(world.others().near({30, 30, 0}, {.radius = 0.1f}).size(), 1U);
}

TEST(Sleep, WhoIsTakenAwayWhileItSleepsIsGoneForThoseWhoAsk) {
  World world({.avoid = true});
  std::vector<Npc> cats;
  for (int i = 0; i < 200; ++i) cats.push_back(*world.add({.at = {2.f * static_cast<float>(i), 0, 0}}));
  const auto near = [&] { return world.others().near({0, 0, 0}, {.radius = 1000}).size(); };
  pass(world, 2);
  EXPECT_EQ(world.sleeping(), cats.size());
  // Each tick removes one, and wakes the first now and then, which falls asleep again.
  for (std::size_t left = cats.size(); left > 1;) {
    EXPECT_EQ(near(), left);
    cats[--left].remove();
    if (left % 2 == 0) {
      EXPECT_EQ(near(), left);
    }
    cats.front().suspend();
    cats.front().resume();
    EXPECT_TRUE(world.tick(1.f / 60));
  }
  EXPECT_EQ(near(), 1U);
}

TEST(Sleep, SleepersMakeRoomAndArePushedAside) {
  // A lane 1.4 m wide, in which a cat sleeps.
  const auto ground = *MeshGround::make({.outlines = {{{0, 0}, {30, 0}, {30, 1.4f}, {0, 1.4f}}}});
  World world({.ground = ground.get(), .avoid = true});
  world.add({.at = {12, 0.7f, 0}, .body = {.radius = 0.2f}});
  const Npc porter = *world.add({.at = {2, 0.7f, 0}, .body = {.radius = 0.4f}});
  pass(world, 1.2);
  ASSERT_EQ(world.sleeping(), 2U);
  porter.go_to({28, 0.7f, 0});
  pass(world, 40, 1.f / 60, [&] { return !porter.busy(); });
  EXPECT_EQ(porter.errand().last->ending, Ending::arrived);
  // A player, which avoids nobody, walks across the place where it sleeps.
  World square({.avoid = true});
  const Npc sleeper = *square.add({});
  const Npc player = *square.add({.at = {-4, 0.05f, 0}, .avoidance = {.takes_part = false}});
  pass(square, 1.2);
  ASSERT_EQ(square.sleeping(), 2U);
  player.go_to({4, 0.05f, 0});
  float deepest = 0.f;
  pass(square, 10, 1.f / 60, [&] {
    deepest = std::max(deepest, 0.6f - flat_distance(player.position(), sleeper.position()));
    return !player.busy();
  });
  EXPECT_GT(player.position().x, 3.f);
  EXPECT_LT(deepest, 0.1f);
  EXPECT_GT(glm::length(flat(sleeper.position())), 0.3f);
}

}  // namespace
}  // namespace ambulon
