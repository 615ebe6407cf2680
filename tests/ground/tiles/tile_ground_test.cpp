#include "ambulon/ground/tiles/tile_ground.hpp"

#include "ambulon/ambulon.hpp"

#include "quay.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

/// A ground of random cells, and a spot on it; nothing when it has no free cell.
std::optional<Spot> random_spot_on(const TileGround& ground) {
  const float width = static_cast<float>(ground.map().width()),
              height = static_cast<float>(ground.map().height());
  const Snap snap = ground.snap({between(0, width), between(0, height), 0}, 1e9f);
  return snap.found ? std::optional(snap.spot) : std::nullopt;
}

bool on_free_cell(const TileGround& ground, vec2 at) { return ground.map().free(ground.map().cell_at(at)); }

RC_GTEST_PROP(TileGround, SnapsToTheNearestSpotThatLookingEverywhereFinds, ()) {
  const TileGround ground(random_map({}, false));
  const TileMap& map = ground.map();
  const vec2 at(between(-20, 110), between(-20, 110));
  float nearest = std::numeric_limits<float>::infinity();
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (map.free({x, y})) {
        const vec2 middle = map.middle({x, y});
        nearest = std::min(nearest, glm::length(glm::clamp(at, middle - 0.5f, middle + 0.5f) - at));
      }
  const Snap snap = ground.snap(lift(at), 5.f);
  RC_ASSERT(snap.found == std::isfinite(nearest));
  if (!snap.found) return;
  RC_ASSERT(std::abs(snap.off - nearest) < 1e-3f);
  RC_ASSERT(snap.within == (snap.off <= 5.f));
  RC_ASSERT(map.cell_of(snap.spot.piece) == map.cell_at(flat(snap.spot.position)));
}

RC_GTEST_PROP(TileGround, AStraightWalkIsFreeWhereEverySmallStepIs, ()) {
  const TileGround ground(random_map({Neighbours::eight, Corners::cut}, false));
  const auto from = random_spot_on(ground);
  if (!from) return;
  const vec2 way = between(0.1f, 40) * unit(between(-3, 3));
  const Stretch stretch = ground.straight(*from, way);
  // It ends on the ground, in the cell it says, and the way there is free.
  RC_ASSERT(on_free_cell(ground, flat(stretch.end.position)));
  RC_ASSERT(ground.map().cell_of(stretch.end.piece) == ground.map().cell_at(flat(stretch.end.position)));
  const vec2 gone = flat(stretch.end.position - from->position);
  for (int i = 0; i <= 400; ++i) {
    const vec2 at = flat(from->position) + gone * (static_cast<float>(i) / 400.f);
    const Snap off = ground.snap(lift(at), 1.f);
    RC_ASSERT(off.off < 2e-3f);
  }
  if (!stretch.free) {  // and just beyond, it is not
    const vec2 beyond = flat(stretch.end.position) + 0.01f * direction(way);
    RC_ASSERT(!on_free_cell(ground, beyond) || glm::length(gone) < 0.02f ||
              std::abs(std::abs(direction(way).x) - std::abs(direction(way).y)) < 1.f);
    RC_ASSERT(glm::dot(stretch.inward, way) < 0.f);
  }
}

RC_GTEST_PROP(TileGround, RoutesAreFreeFromBendToBendAndNoLongerThanTheWayByCells, ()) {
  const TileRules rules{Neighbours::eight, static_cast<Corners>(*rc::gen::inRange(0, 3))};
  const TileGround ground(random_map(rules, false));
  const auto from = random_spot_on(ground), to = random_spot_on(ground);
  if (!from || !to) return;
  Route route;
  ground.route(*from, *to, route);
  const Cell start = ground.map().cell_of(from->piece), goal = ground.map().cell_of(to->piece);
  TileSearch search;
  RC_ASSERT(route.complete == search.find(ground.map(), start, goal));
  RC_ASSERT(std::isfinite(ground.distance(*from, *to)) == route.complete);
  if (!route.complete) return;
  RC_ASSERT(route.bends.front() == from->position);
  RC_ASSERT(route.bends.back() == to->position);
  for (std::size_t i = 1; i < route.bends.size(); ++i) {
    const Spot a = ground.snap(route.bends[i - 1], 0.f).spot, b = ground.snap(route.bends[i], 0.f).spot;
    RC_ASSERT(ground.sight(a, b));
  }
  RC_ASSERT(route.length < search.length() + 1.5);  // from and to lie anywhere in their cells
}

TEST(TileGround, WhoWalksRoamsAndFleesOnItNeverLeavesIt) {
  Random random(4);
  std::vector<std::uint8_t> costs(40 * 30, 1);
  for (auto& cost : costs) cost = random.below(100) < 25 ? TileMap::blocked : 1;
  const TileGround ground(
      *TileMap::make(costs, {.width = 40, .height = 30, .cell = 1.5f, .origin = {-10, 5}}));
  World world({.ground = &ground});
  std::vector<Npc> cats;
  for (int i = 0; i < 30; ++i) {
    const vec3 at(-8.f + 1.9f * static_cast<float>(i), 20, 0);
    const Npc cat = *world.add({.at = ground.snap(at, 99.f).spot.position, .gait = {.speed = 3}});
    if (i % 4 == 0) cat.roam({.radius = 12});
    if (i % 4 == 1) cat.wander();
    if (i % 4 == 2) cat.flee(cats[0], {.reach = 30});
    if (i % 4 == 3) cat.follow(cats[1]);
    cats.push_back(cat);
  }
  float furthest_off = 0.f;
  pass(world, 60, 1.f / 30.f, [&] {
    for (const Npc cat : cats) furthest_off = std::max(furthest_off, ground.snap(cat.position(), 9.f).off);
    return false;
  });
  EXPECT_LT(furthest_off, 0.2f);  // swinging round a bend takes it a little over the edge
  EXPECT_GT(cats[0].tally().arrivals, 5U);
  EXPECT_GT(cats[1].tally().metres, 60);
}

TEST(TileGround, AWallInTheWayIsWalkedRoundAndWhoIsWalledInIsToldSoAtOnce) {
  TileGround ground(*TileMap::make(std::vector<std::uint8_t>(20 * 11, 1), {.width = 20, .height = 11}));
  World world({.ground = &ground});
  const Npc porter = *world.add({.at = {1.5f, 5.5f, 0}});
  const Order order = porter.go_to({18.5f, 5.5f, 0});
  pass(world, 2);
  for (int y = 0; y < 10; ++y) ASSERT_TRUE(ground.set({10, y}, TileMap::blocked));
  pass(world, 30, 1.f / 60.f, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  EXPECT_GT(porter.tally().metres, 19);
  const Order back = porter.go_to({1.5f, 5.5f, 0});
  pass(world, 1);
  ASSERT_TRUE(ground.set({10, 10}, TileMap::blocked));
  pass(world, 0.05);
  EXPECT_EQ(back.outcome()->ending, Ending::no_way);
  ASSERT_TRUE(ground.set({10, 3}, 1));
  const Order again = porter.go_to({1.5f, 5.5f, 0});
  pass(world, 40, 1.f / 60.f, [&] { return !again.running(); });
  EXPECT_EQ(again.outcome()->ending, Ending::arrived);
}

}  // namespace
}  // namespace ambulon
