#include "ambulon/ground/field/flow_field.hpp"

#include <algorithm>
#include <numeric>
#include <set>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "ground/tiles/tile_search.hpp"
#include "map_of.hpp"
#include "quay.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

constexpr Body thin{.radius = 0.01f};

vec3 middle(const TileGround& ground, Cell cell) { return lift(ground.map().middle(cell)); }

RC_GTEST_PROP(FlowField, DistancesAreThoseOfTautRoutesNearEnoughAndNowhereWhereThereIsNone, ()) {
  const TileGround ground(random_map({}, false));
  const Cell goal = random_cell(ground.map());
  if (!ground.map().free(goal)) return;
  const vec3 at = middle(ground, goal);
  const FlowField field(ground, std::span(&at, 1), thin);
  for (int i = 0; i < 5; ++i) {
    const Cell cell = random_cell(ground.map());
    if (!ground.map().free(cell)) continue;
    const vec3 from = middle(ground, cell);
    const float taut = ground.distance(ground.snap(from, 0, thin).spot, ground.snap(at, 0, thin).spot);
    RC_ASSERT(std::isfinite(field.distance(from)) == std::isfinite(taut));
    RC_ASSERT((field.nearest_goal(from) == 0) == std::isfinite(taut));
    if (!std::isfinite(taut)) continue;
    // Steps from cell to cell are a subset of its paths; a taut route over cells may be slightly longer.
    TileSearch search;
    RC_ASSERT(search.find(ground.map(), cell, goal));
    RC_ASSERT(static_cast<double>(field.distance(from)) < search.length() + 1e-4);
    RC_ASSERT(field.distance(from) > 0.9f * taut - 1.5f);
  }
}

/// The same ground with cells a third as large.
TileGround in_thirds(const TileMap& map) {
  std::vector<std::uint8_t> cells;
  for (int y = 0; y < 3 * map.height(); ++y)
    for (int x = 0; x < 3 * map.width(); ++x) cells.push_back(map.free({x / 3, y / 3}) ? 1 : 0);
  return TileGround(
      *TileMap::make(cells, {.width = 3 * map.width(), .height = 3 * map.height(), .cell = 1.f / 3}));
}

/// Metres of the shortest paths from everywhere to a place, by straight steps in 32 directions.
std::vector<double> fine_distances(const TileGround& ground, Cell goal) {
  const TileMap& map = ground.map();
  std::vector<double> lengths(static_cast<std::size_t>(map.width() * map.height()),
                              std::numeric_limits<double>::infinity());
  std::set<std::pair<double, std::uint32_t>> open = {{0, map.index(goal)}};
  lengths[map.index(goal)] = 0;
  while (!open.empty()) {
    const auto [length, index] = *open.begin();
    open.erase(open.begin());
    const Cell cell = map.cell_of(index);
    const Spot from = ground.snap(middle(ground, cell), 0, thin).spot;
    for (int y = -3; y <= 3; ++y)
      for (int x = -3; x <= 3; ++x) {
        const Cell to{cell.x + x, cell.y + y};
        const double through = length + std::hypot(x, y) / 3;
        if (std::gcd(x, y) != 1 || !map.inside(to) || !map.free(to) || through >= lengths[map.index(to)])
          continue;
        if (!ground.straight(from, map.middle(to) - map.middle(cell)).free) continue;
        open.erase({lengths[map.index(to)], map.index(to)});
        lengths[map.index(to)] = through;
        open.insert({through, map.index(to)});
      }
  }
  return lengths;
}

RC_GTEST_PROP(FlowField, DistancesAreThoseOfAFineDijkstra, ()) {
  const TileGround ground(random_map({}, false, 10));
  const TileMap& map = ground.map();
  const Cell goal = random_cell(map);
  if (!map.free(goal)) return;
  const vec3 at = middle(ground, goal);
  const FlowField field(ground, std::span(&at, 1), thin);
  const TileGround thirds = in_thirds(map);
  const std::vector<double> fine = fine_distances(thirds, {3 * goal.x + 1, 3 * goal.y + 1});
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const auto distance = static_cast<double>(field.distance_of({x, y}));
      const double expected = fine[thirds.map().index({3 * x + 1, 3 * y + 1})];
      RC_ASSERT(std::isfinite(distance) == std::isfinite(expected));
      if (std::isfinite(distance)) RC_ASSERT(std::abs(distance - expected) <= 0.05 * expected + 0.25);
    }
}

TEST(FlowField, OnOpenGroundItIsAsTheCrowFliesToAllSides) {
  const TileGround ground(
      *TileMap::make(std::vector<std::uint8_t>(101 * 101, 1), {.width = 101, .height = 101}));
  const vec3 goal(50.5f, 50.5f, 0);
  const FlowField field(ground, std::span(&goal, 1), thin);
  float worst_turn = 0.f, worst_part = 0.f;
  for (int i = 0; i < 720; ++i) {
    const vec2 out = unit(static_cast<float>(i) * pi / 360);
    const vec3 from = goal + lift((12.f + static_cast<float>(i % 37)) * out);
    worst_turn = std::max(worst_turn, std::abs(angle_between(field.direction(from), -out)));
    worst_part = std::max(worst_part, std::abs(field.distance(from) / flat_distance(from, goal) - 1));
  }
  EXPECT_LT(degrees(worst_turn), 2.5f);  // eight directions would be off by up to 22.5
  EXPECT_LT(worst_part, 0.03f);
}

TEST(FlowField, CostsBendItAsLightIsBent) {
  // Below y = 20 each metre costs twice: the route refracts by Snell's law.
  std::vector<std::uint8_t> cells(80 * 40, 1);
  std::fill(cells.begin(), cells.begin() + 80 * 20, std::uint8_t{2});
  const TileGround ground(*TileMap::make(cells, {.width = 80, .height = 40}));
  const vec3 goal(70.5f, 39.5f, 0), from(10.5f, 0.5f, 0);
  const FlowField field(ground, std::span(&goal, 1), thin);
  double best = 1e9;
  for (int i = 0; i <= 8000; ++i) {
    const vec2 border(static_cast<float>(i) * 0.01f, 20);
    best = std::min(best, 2.0 * static_cast<double>(glm::length(border - flat(from))) +
                              static_cast<double>(glm::length(flat(goal) - border)));
  }
  EXPECT_NEAR(static_cast<double>(field.distance(from)), best, 0.03 * best);
}

/// A refuge is weighed by its distance from here and its distance from the danger.
RC_GTEST_PROP(FlowField, FleesToTheRefugeThatIsWorthItsWay, ()) {
  const TileGround ground(random_map({}, false, 12));
  const TileMap& map = ground.map();
  const vec3 danger_at = middle(ground, random_cell(map));
  FlowField danger(ground, std::span(&danger_at, 1), thin);
  const float caution = *rc::gen::element(1.f, 1.2f, 3.f);
  const FlowField flight = FlowField::away_from(danger, caution);
  std::vector<vec3> refuges;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const Cell here{x, y};
      if (!map.free(here) || danger.nearest_goal(middle(ground, here)) == FlowField::nowhere) continue;
      bool refuge = true;
      for (int i = 0; i < 9; ++i)
        if (const Cell to{x + i % 3 - 1, y + i / 3 - 1}; map.inside(to) && map.free(to))
          refuge =
              refuge && (!map.step_allowed(here, to) || danger.distance_of(to) <= danger.distance_of(here));
      if (refuge) refuges.push_back(middle(ground, here));
    }
  const Cell cell = random_cell(map);
  if (!map.free(cell)) return;
  const vec3 from = middle(ground, cell);
  const std::uint16_t chosen = flight.nearest_goal(from);
  RC_ASSERT((chosen != FlowField::nowhere) == (danger.nearest_goal(from) != FlowField::nowhere));
  if (chosen == FlowField::nowhere) return;
  const FlowField home(ground, std::span(&from, 1), thin);
  const auto worth = [&](vec3 refuge) {
    return static_cast<double>(caution * danger.distance(refuge) - home.distance(refuge));
  };
  double best = -1e9;
  for (const vec3 refuge : refuges) best = std::max(best, worth(refuge));
  const vec3 refuge = flight.goal(chosen).position;
  RC_ASSERT(std::ranges::find(refuges, refuge) != refuges.end());
  RC_ASSERT(worth(refuge) > best - 0.2 - 0.02 * std::abs(best));  // fields are not symmetric to the last cell
  RC_ASSERT(std::abs(flight.distance(from) - home.distance(refuge)) < 0.2f + 0.02f * flight.distance(from));
}

TEST(FlowField, WhoFleesByItLeavesTheDeadEnd) {
  TileGround ground(map_of({
      "#######",
      "#.....#",
      "#.###.#",
      "#.###.#",
      "#.....#",
      "###.###",
      "###.###",
  }));
  const vec3 constable{3.5f, 2.5f, 0}, cat{3.5f, 0.5f, 0};
  FlowField danger(ground, std::span(&constable, 1));
  FlowField flight = FlowField::away_from(danger, 3);
  World world({.ground = &ground});
  const Npc npc = *world.add({.at = cat});
  const Order order = npc.flow(flight);
  pass(world, 15);
  EXPECT_TRUE(order.outcome());
  EXPECT_GT(npc.position().y, 5);  // past the constable, and round the block
  // That route is shut.
  for (const Cell cell : {Cell{1, 4}, Cell{5, 4}}) ASSERT_TRUE(ground.set(cell, TileMap::blocked));
  EXPECT_TRUE(danger.update() && flight.update());
  EXPECT_LT(flight.goal(flight.nearest_goal(cat)).position.y, 4);
}

RC_GTEST_PROP(FlowField, KeptUpAfterEditsItIsAsIfMadeAnew, ()) {
  TileGround ground(random_map({}, *rc::gen::arbitrary<bool>()));
  const Body body{.radius = *rc::gen::arbitrary<bool>() ? 0.3f : 0.9f};
  std::vector<vec3> goals;
  for (int i = *rc::gen::inRange(1, 4); i > 0; --i)
    goals.push_back(middle(ground, random_cell(ground.map())));
  FlowField field(ground, goals, body);
  RC_ASSERT(!field.update());
  std::optional<BarrierId> barrier;
  for (int round = 0; round < 4; ++round) {
    for (int edit = *rc::gen::inRange(1, 4); edit > 0; --edit) {
      const Cell low = random_cell(ground.map());
      const Cell high{low.x + *rc::gen::inRange(0, 5), low.y + *rc::gen::inRange(0, 5)};
      (void)ground.fill({low, high}, static_cast<std::uint8_t>(*rc::gen::inRange(0, 3)));
    }
    const Barrier disc = *Barrier::disc(ground.map().middle(random_cell(ground.map())), 2.f);
    if (barrier)
      RC_ASSERT(ground.move(*barrier, disc).has_value());
    else
      barrier = ground.put(disc);
    RC_ASSERT(field.update());
    const FlowField fresh(ground, goals, body);
    for (int y = 0; y < ground.map().height(); ++y)
      for (int x = 0; x < ground.map().width(); ++x) {
        const float kept = field.distance_of({x, y}), made = fresh.distance_of({x, y});
        RC_ASSERT(kept == made || std::abs(kept - made) < 1e-4f * (1 + made));
      }
  }
}

TEST(FlowField, ManyGoByOneFieldAndNobodyPlansAndAChangeTurnsThem) {
  std::vector<std::uint8_t> cells(40 * 30, 1);
  for (int y = 0; y < 30; ++y) cells[static_cast<std::size_t>(y * 40 + 20)] = y == 5 || y == 25 ? 1 : 0;
  TileGround ground(*TileMap::make(cells, {.width = 40, .height = 30}));
  const vec3 gate(36.5f, 5.5f, 0);
  FlowField field(ground, std::span(&gate, 1));
  World world({.ground = &ground});
  std::vector<Order> orders;
  for (int i = 0; i < 60; ++i)
    orders.push_back(
        world
            .add({.at = {2.5f + static_cast<float>(i % 10), 2.5f + 4 * static_cast<float>(i / 10), 0},
                  .body = {.radius = 0.25f}})
            ->flow(field));
  pass(world, 3);
  ASSERT_TRUE(ground.set({20, 5}, TileMap::blocked));
  ASSERT_TRUE(field.update());
  pass(world, 90, 1.f / 60.f, [&] { return std::ranges::none_of(orders, &Order::running); });
  for (const Order& order : orders) {
    EXPECT_EQ(order.outcome()->ending, Ending::arrived);
    EXPECT_GT(order.npc().statistics().metres, 30);  // by the other gap
  }
  ASSERT_TRUE(ground.set({20, 25}, TileMap::blocked));
  ASSERT_TRUE(field.update());
  const Order late = world.add({.at = {2.5f, 2.5f, 0}})->flow(field);
  pass(world, 0.1);
  EXPECT_EQ(late.outcome()->why(), "no route leads from (2.50, 2.50) to a goal of the flow field");
}

}  // namespace
}  // namespace ambulon
