#include <algorithm>
#include <set>

#include "ambulon/ambulon.hpp"
#include "ambulon/errand/order_options.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "map_of.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

const std::vector<std::string> crates = {"###########",  //
                                         "#....#....#",  //
                                         "#.##...##.#",  //
                                         "#.#..#..#.#",  //
                                         "#...###...#",  //
                                         "###.....###",  //
                                         "#...#.#...#",  //
                                         "#.###.###.#",  //
                                         "#.........#",  //
                                         "###########"};
constexpr Body crab_body{.radius = 0.2f};

bool on_line(vec2 at) {
  const vec2 off = glm::abs(at - glm::floor(at) - 0.5f);
  return std::min(off.x, off.y) < 1e-4f;
}

RC_GTEST_PROP(Thread, AtAnySpeedAndTickItKeepsToMiddlesAndTurnsBackOnlyAtDeadEnds, ()) {
  const TileGround ground(map_of(crates));
  World world({.ground = &ground, .seed = static_cast<std::uint64_t>(*rc::gen::inRange(0, 10'000))});
  const Npc crab = *world.add({.at = {1.5f, 1.5f, 0},
                               .body = crab_body,
                               .gait = {.speed = between(0.1f, 40.f), .acceleration = 1000}});
  const Order order = crab.thread({.choice = static_cast<ThreadChoice>(*rc::gen::element(0, 3, 4))});
  const float tick = between(0.002f, 0.2f);
  vec2 before = flat(crab.position());
  for (int i = 0; i < 400; ++i) {
    RC_ASSERT(world.tick(tick).has_value());
    const vec2 now = flat(crab.position());
    RC_ASSERT(on_line(now));
    RC_ASSERT(ground.map().free(ground.map().cell_at(now)));
    // It covers at most what its speed allows, and it never stands.
    RC_ASSERT(glm::length(now - before) <= crab.gait().speed * tick * 1.001f + 1e-5f);
    before = now;
  }
  RC_ASSERT(order.running());
}

/// Records the cells at which it is asked, and takes the first direction.
struct Scout final : JunctionChooser {
  std::vector<Cell> asked;
  int choose(const Junction& junction, Random&) override {
    asked.push_back(junction.cell);
    return 0;
  }
};

TEST(Thread, ThesameWayIsTakenAtEverySpeedAndTick) {
  const TileGround ground(map_of(crates));
  std::vector<std::vector<Cell>> ways;
  for (const auto& [speed, tick] : {std::pair{1.f, 0.01f}, {9.f, 1.f / 30}, {35.f, 0.3f}, {100.f, 1.f}}) {
    World world({.ground = &ground});
    Scout scout;
    const Npc crab = *world.add(
        {.at = {1.5f, 1.5f, 0}, .body = crab_body, .gait = {.speed = speed, .acceleration = 1000}});
    const Order order = crab.thread({.chooser = &scout, .choices = 25});
    pass(world, 500, tick, [&] { return !order.running(); });
    EXPECT_EQ(order.outcome()->why(), "it has done so 25 times, as ordered");
    ways.push_back(scout.asked);
  }
  for (const auto& way : ways) EXPECT_EQ(way, ways.front());
}

TEST(Thread, HuggingAWallLeadsAllRoundTheCellsAlongIt) {
  const TileGround ground(
      map_of({"#######", "#.....#", "#.###.#", "#.#...#", "#.#.###", "#.....#", "#######"}));
  for (const ThreadChoice hand : {ThreadChoice::left, ThreadChoice::right}) {
    World world({.ground = &ground});
    const Npc crab = *world.add({.at = {1.5f, 1.5f, 0}, .body = crab_body, .gait = {.speed = 3}});
    crab.thread({.choice = hand});
    std::set<std::uint32_t> seen;
    pass(world, 20, 1.f / 60.f, [&] {
      seen.insert(ground.map().index(ground.map().cell_at(flat(crab.position()))));
      return false;
    });
    EXPECT_EQ(seen.size(), 18U);
  }
}

TEST(Thread, TowardAndAwayFromSomebodyGoByTheNextCell) {
  const TileGround ground(
      map_of({"#######", "#.....#", "#.....#", "#.....#", "#.....#", "#.....#", "#######"}));
  World world({.ground = &ground});
  const Npc cat = *world.add({.name = "cat", .at = {5.5f, 5.5f, 0}});
  const Npc hunter = *world.add({.at = {1.5f, 1.5f, 0}, .body = crab_body}),
            hunted = *world.add({.at = {4.5f, 4.5f, 0}, .body = crab_body});
  hunter.thread({.choice = ThreadChoice::toward, .target = {.npc = cat.id()}});
  const Order order = hunted.thread({.choice = ThreadChoice::away, .target = {.npc = cat.id()}});
  float nearest = 99;
  pass(world, 10, 1.f / 60.f, [&] {
    nearest = std::min(nearest, flat_distance(hunter.position(), cat.position()));
    return false;
  });
  EXPECT_LT(nearest, 0.8f);
  EXPECT_GT(flat_distance(hunted.position(), cat.position()), 2.5f);
  cat.remove();
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::gone);
}

TEST(Thread, ShutInItStandsUntilASideOpensAndElsewhereItIsRefused) {
  TileGround ground(map_of({"#####", "#...#", "#####"}));
  World world({.ground = &ground});
  const Npc crab = *world.add({.at = {1.5f, 1.5f, 0}, .body = crab_body, .gait = {.speed = 2}});
  const Order order = crab.thread();
  pass(world, 3);
  EXPECT_GT(crab.statistics().metres, 4);
  const BarrierId lid = ground.put(*Barrier::box({2.5f, 1.5f}, {0.5f, 0.5f}));
  pass(world, 2);
  const vec3 shut = crab.position();
  pass(world, 2);
  EXPECT_EQ(crab.position(), shut);
  ASSERT_TRUE(ground.remove(lid));
  pass(world, 2);
  EXPECT_NE(crab.position(), shut);
  EXPECT_TRUE(order.running());
  World open;
  const Order refused = open.add({})->thread();
  pass(open, 0.1);
  EXPECT_EQ(refused.outcome()->why(), "the ground is not made of tiles, so there are no junctions");
  const Order aimless = crab.thread({.choice = ThreadChoice::away});
  pass(world, 0.1);
  EXPECT_EQ(aimless.outcome()->ending, Ending::refused);
}

}  // namespace
}  // namespace ambulon
