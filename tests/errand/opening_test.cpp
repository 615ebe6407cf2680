// Ground that opens while NPCs are on their way: they take the shorter route.

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "ground_behind.hpp"
#include "map_of.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

constexpr float doors[] = {4, 12, 20};

/// 24 m to a side, with a wall through the middle that has three doorways.
std::unique_ptr<BarrierGround> two_rooms(bool of_tiles) {
  if (!of_tiles) {
    Plan plan{.outlines = {{{0, 0}, {24, 0}, {24, 24}, {0, 24}}}};
    for (const auto& [from, to] : {std::pair(0.f, 3.f), {5.f, 11.f}, {13.f, 19.f}, {21.f, 24.f}})
      plan.walls.push_back({.line = {{12, from}, {12, to}}, .thickness = 1});
    return MeshGround::make(plan).value();
  }
  std::vector<std::string> rows;
  for (const char wall : std::string("###..######..######..###"))
    rows.push_back(std::string(12, '.') + wall + std::string(11, '.'));
  return std::make_unique<TileGround>(map_of(rows));
}

std::unique_ptr<BarrierGround> square(float side, bool of_tiles) {
  if (!of_tiles)
    return MeshGround::make(Plan{.outlines = {{{0, 0}, {side, 0}, {side, side}, {0, side}}}}).value();
  const auto cells = static_cast<std::size_t>(side);
  return std::make_unique<TileGround>(map_of(std::vector<std::string>(cells, std::string(cells, '.'))));
}

RC_GTEST_PROP(Opening, TakesNpcsNearlyTheShortestWayFromWhereTheyAre, ()) {
  const bool of_tiles = *rc::gen::arbitrary<bool>(), rooms = *rc::gen::arbitrary<bool>();
  const auto ground = rooms ? two_rooms(of_tiles) : square(24, of_tiles);
  std::vector<BarrierId> fences;
  if (rooms)
    for (const float door : doors)
      if (*rc::gen::arbitrary<bool>())
        fences.push_back(ground->put(*Barrier::box({12.5f, door}, {0.4f, 2.2f})));
  for (int i = *rc::gen::inRange(1, 6); i > 0; --i) {
    const bool lengthwise = *rc::gen::arbitrary<bool>();
    const float length = between(4, 22);
    fences.push_back(ground->put(
        *Barrier::box({between(2, 22), between(2, 22)}, lengthwise ? vec2(length, 1) : vec2(1, length))));
  }
  World world(
      {.ground = ground.get(), .route_work = *rc::gen::element(std::uint64_t{0}, std::uint64_t{500})});
  const auto npc = world.add({.name = "porter", .at = {between(1, 7), between(1, 23), 0}});
  RC_PRE(npc.has_value());
  const vec3 goal(between(17, 23), between(1, 23), 0);
  const Order order = npc->go_to(goal);
  const float tick = 1.f / *rc::gen::element(10.f, 30.f, 60.f, 144.f);
  pass(world, between(1.1f, 5), tick);
  RC_PRE(order.running());
  const BarrierId fence = fences[*rc::gen::inRange<std::size_t>(0, fences.size())];
  if (*rc::gen::arbitrary<bool>())
    RC_ASSERT(ground->remove(fence).has_value());
  else
    RC_ASSERT(ground->move(fence, *Barrier::disc({between(2, 22), between(2, 22)}, 1)).has_value());
  const auto spot = [&](vec3 at) { return ground->snap(at, 1, npc->body()).spot; };
  RC_PRE(ground->snap(goal, 0.01f, npc->body()).within);
  const float best = ground->distance(spot(npc->position()), spot(goal));
  RC_PRE(best < std::numeric_limits<float>::infinity());
  float walked = 0;
  vec3 before = npc->position();
  pass(world, 120, tick, [&] {
    walked += flat_distance(before, npc->position());
    before = npc->position();
    return !order.running();
  });
  RC_ASSERT(order.outcome()->ending == Ending::arrived);
  // At most one second of delay, there and back, plus the gain that is not worth a new route.
  RC_ASSERT(walked <= 1.06f * best + 0.4f + 2.f * npc->gait().speed);
}

TEST(Opening, IsToldWithBothLengths) {
  // A wall with a door in the middle, and a gap at its end.
  const auto ground = MeshGround::make(Plan{.outlines = {{{0, 0}, {30, 0}, {30, 30}, {0, 30}}},
                                            .walls = {{.line = {{15, 0}, {15, 4}}, .thickness = 1},
                                                      {.line = {{15, 6}, {15, 26}}, .thickness = 1}}})
                          .value();
  for (const bool along : {false, true}) {
    const BarrierId door = ground->put(*Barrier::box({15, 5}, {0.4f, 3}));
    // The detour around the end touches another barrier, which is removed at the same time.
    const BarrierId crate = ground->put(*Barrier::box({15, along ? 26.f : 29.f}, {1, 0.5f}));
    World world({.ground = ground.get()});
    const Npc porter = *world.add({.name = "porter", .at = {5, 5, 0}});
    const Order order = porter.go_to({25, 5, 0});
    pass(world, 2);
    ASSERT_TRUE(ground->remove(crate));
    ASSERT_TRUE(ground->remove(door));
    pass(world, 60, 1.f / 60, [&] { return !order.running(); });
    EXPECT_EQ(count(world, Event::route_opened), 1) << told(world);
    EXPECT_TRUE(contains(told(world), "porter takes a shorter route that has opened: ")) << told(world);
    EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  }
}

TEST(Opening, TurnsACompanyToTheDoor) {
  const auto ground = two_rooms(false);
  const BarrierId door = ground->put(*Barrier::box({12, 4}, {0.4f, 3}));
  ground->put(*Barrier::box({12, 12}, {0.4f, 3}));
  World world({.ground = ground.get()});
  Selection porters;
  for (const float y : {3.f, 4.f, 5.f}) porters.add(*world.add({.at = {3, y, 0}}));
  ASSERT_TRUE(porters.march({21, 4, 0}));
  pass(world, 3);
  ASSERT_TRUE(ground->remove(door));
  float furthest = 0;
  pass(world, 60, 1.f / 60, [&] {
    for (const Npc porter : porters.npcs()) furthest = std::max(furthest, porter.position().y);
    return std::ranges::none_of(porters.npcs(), &Npc::busy);
  });
  EXPECT_LT(furthest, 13) << told(world);  // the other door is at 20 m
  EXPECT_EQ(count(world, Event::route_opened), 1);
  for (const Npc porter : porters.npcs()) EXPECT_GT(porter.position().x, 18);
}

TEST(Opening, ElsewhereIsNoReasonForAWayThatIsLonger) {
  const auto ground = two_rooms(false);
  ground->put(*Barrier::box({12, 4}, {0.4f, 3}));
  const BarrierId crate = ground->put(*Barrier::disc({11, 7}, 0.5f));
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.name = "porter", .at = {3, 6, 0}});
  const Order order = porter.go_to({21, 6, 0});
  pass(world, 2);
  ASSERT_TRUE(ground->remove(crate));
  ground->put(*Barrier::box({12, 12}, {0.4f, 3}));  // the door it was going to
  pass(world, 60, 1.f / 60, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_EQ(count(world, Event::route_opened), 0) << told(world);
}

TEST(Opening, DoesNotSendThoseBackWhoGoRoundAJam) {
  int went_round[2] = {};
  for (const bool moves : {false, true}) {
    const auto ground = MeshGround::make(Plan{.outlines = {{{0, 0}, {40, 0}, {40, 60}, {0, 60}}},
                                              .walls = {{.line = {{20, 0}, {20, 4.5f}}, .thickness = 0.3f},
                                                        {.line = {{20, 5.5f}, {20, 15}}, .thickness = 0.3f},
                                                        {.line = {{20, 16}, {20, 60}}, .thickness = 0.3f}}})
                            .value();
    World world({.ground = ground.get(), .avoid = true});
    std::vector<Npc> all;
    for (int i = 0; i < 80; ++i) {
      const float x = 11.5f + 0.8f * static_cast<float>(i % 10), y = 1.f + 0.8f * static_cast<float>(i / 10);
      all.push_back(*world.add({.at = {x, y, 0}, .body = {.radius = 0.25f}}));
      all.back().go_to({37, 5, 0});
    }
    float x = 24;
    const BarrierId raft = ground->put(*Barrier::disc({x, 1.5f}, 0.5f));
    pass(world, 120, 1.f / 60, [&] {
      if (moves) (void)ground->move(raft, *Barrier::disc({x += 0.001f, 1.5f}, 0.5f));
      return std::ranges::none_of(all, &Npc::busy);
    });
    went_round[moves ? 1 : 0] = count(world, Event::takes_detour);
    EXPECT_LE(count(world, Event::route_opened), 2) << "one that was pushed aside may find a shorter one";
  }
  EXPECT_GT(went_round[0], 15);
  EXPECT_LE(went_round[1], went_round[0] + went_round[0] / 4);
}

/// Counts the route queries of another ground.
struct Counting final : GroundBehind {
  explicit Counting(const Ground& ground) : GroundBehind(ground) {}
  void route(const Spot& from, const Spot& to, Route& route) const override {
    ++routes;
    GroundBehind::route(from, to, route);
  }
  mutable int routes = 0;
};

TEST(Opening, OfABarrierThatMovesAllTheTimeIsTriedMoreAndMoreSeldom) {
  const auto ground = square(200, false);
  ground->put(*Barrier::box({100, 94}, {1, 190}));  // the route leads around its end
  const BarrierId raft = ground->put(*Barrier::disc({60, 20}, 2));
  const Counting counted(*ground);
  World world({.ground = &counted});
  const Npc porter = *world.add({.name = "porter", .at = {10, 10, 0}, .gait = {.speed = 2}});
  const Order order = porter.go_to({190, 10, 0});
  float x = 60;
  pass(world, 150, 1.f / 60, [&] {
    (void)ground->move(raft, *Barrier::disc({x += 0.002f, 20}, 2));
    return !order.running();
  });
  EXPECT_TRUE(order.running());
  EXPECT_LE(counted.routes, 12);  // of 9,000 ticks
  EXPECT_EQ(count(world, Event::route_opened), 0) << told(world);
}

TEST(Opening, LeadsToWhereWasClickedInsteadOfTheNearestSpot) {
  for (const bool of_tiles : {false, true}) {
    const auto ground = square(20, of_tiles);
    const BarrierId fence = ground->put(*Barrier::box({12, 10}, {1, 30}));
    World world({.ground = ground.get()});
    const Npc porter = *world.add({.name = "porter", .at = {2, 2, 0}});
    const auto clicks = std::make_shared<Clicks>();
    ASSERT_TRUE(clicks->click({18, 15, 0}));
    const Order order = porter.click_to_move(clicks, {.unreachable = Unreachable::nearest});
    pass(world, 2);
    ASSERT_TRUE(ground->remove(fence));
    pass(world, 60, 1.f / 60, [&] { return !order.running(); });
    EXPECT_LT(flat_distance(porter.position(), {18, 15, 0}), 0.4f) << told(world);
    EXPECT_EQ(order.outcome()->cause, Cause::none);
  }
}

TEST(Opening, ThatIsCheaperThoughLongerIsTaken) {
  const auto ground =
      MeshGround::make(Plan{.outlines = {{{0, 0}, {40, 0}, {40, 20}, {0, 20}}},
                            .regions = {{.ring = {{10, 0}, {30, 0}, {30, 12}, {10, 12}}, .cost = 8}}})
          .value();
  const BarrierId fence = ground->put(*Barrier::box({20, 16}, {1, 8}));
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.name = "porter", .at = {2, 4, 0}});
  const Order order = porter.go_to({38, 4, 0});
  pass(world, 2);
  ASSERT_TRUE(ground->remove(fence));
  float highest = 0;
  pass(world, 60, 1.f / 60, [&] {
    highest = std::max(highest, porter.position().y);
    return !order.running();
  });
  EXPECT_GT(highest, 11.9f) << told(world);  // it goes round the puddle
}

}  // namespace
}  // namespace ambulon
