#include "ground/tiles/tile_search.hpp"

#include <algorithm>

#include "base/geometry.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

TileRules any_rules() {
  return {static_cast<Neighbours>(*rc::gen::inRange(0, 2)), static_cast<Corners>(*rc::gen::inRange(0, 3))};
}

void expect_as_plain(const TileMap& map, TileSearch& search, TileMethod method) {
  const Cell from = random_cell(map);
  const auto lengths = plain_distances(map, from);
  for (int query = 0; query < 8; ++query) {
    const Cell to = random_cell(map);
    const double length = lengths[map.index(to)];
    const bool found = search.find(map, from, to, method);
    RC_ASSERT(found == std::isfinite(length));
    if (!found) continue;
    RC_ASSERT(std::abs(search.length() - length) < 1e-6);
    RC_ASSERT(search.path().front() == from);
    RC_ASSERT(search.path().back() == to);
    RC_ASSERT(std::abs(walked(map, search.path()) - length) < 1e-6);
  }
}

RC_GTEST_PROP(TileSearch, FindsWaysAsShortAsPlainDijkstraByAllRulesAndCosts, ()) {
  TileSearch search;
  const TileMap map = random_map(any_rules(), *rc::gen::arbitrary<bool>());
  expect_as_plain(map, search, TileMethod::a_star);
  expect_as_plain(map, search, TileMethod::automatic);
}

RC_GTEST_PROP(TileSearch, JumpsAreAsShortAsPlainDijkstra, ()) {
  TileSearch search;
  for (int i = 0; i < 4; ++i) expect_as_plain(random_map({}, false), search, TileMethod::jump_points);
}

RC_GTEST_PROP(TileSearch, DoesNotDependOnHowItIsSliced, ()) {
  const TileMap map = random_map(any_rules(), false);
  const Cell from = random_cell(map), to = random_cell(map);
  TileSearch whole, sliced;
  whole.find(map, from, to);
  sliced.begin(map, from, to);
  const auto slice = static_cast<std::uint64_t>(*rc::gen::inRange(1, 20));
  auto state = TileSearch::State::searching;
  for (int i = 0; i < 20'000 && state == TileSearch::State::searching; ++i) state = sliced.go_on(slice);
  RC_ASSERT(state != TileSearch::State::searching);
  RC_ASSERT(sliced.expanded() == whole.expanded());
  RC_ASSERT(std::equal(sliced.path().begin(), sliced.path().end(), whole.path().begin(), whole.path().end()));
}

RC_GTEST_PROP(TileMap, EditsLeaveItAsIfMadeAnew, ()) {
  TileMap map = random_map({}, true);
  for (int i = 0; i < 30; ++i)
    RC_ASSERT(map.set(random_cell(map), static_cast<std::uint8_t>(*rc::gen::inRange(0, 256))).has_value());
  std::vector<std::uint8_t> costs;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) costs.push_back(map.cost({x, y}));
  const TileMap fresh = *TileMap::make(costs, {.width = map.width(), .height = map.height()});
  RC_ASSERT(fresh.uniform() == map.uniform());
  RC_ASSERT(fresh.rows() == map.rows());
  RC_ASSERT(fresh.columns() == map.columns());
}

TEST(TileMap, WhatMakesNoSenseIsNamed) {
  const std::vector<std::uint8_t> six(6, 1);
  EXPECT_EQ(TileMap::make(six, {.width = 2, .height = 2}).error().text,
            "6 cells were given for a map of 2 by 2; it needs 4");
  EXPECT_EQ(TileMap::make(six, {.width = 0, .height = 6}).error().text,
            "the width of the map is 0 cells; it must lie between 1 and 16384");
  EXPECT_EQ(TileMap::make(six, {.width = 2, .height = 3, .cell = -1}).error().text,
            "a cell of -1 m; it must lie between 0.001 and 1000 m");
  TileMap map = *TileMap::make(six, {.width = 2, .height = 3});
  EXPECT_EQ(map.set({2, 0}, 1).error().text, "cell (2, 0) lies outside of the map of 2 by 3 cells");
  TileSearch search;
  EXPECT_FALSE(search.find(map, {-1, 0}, {1, 1}));
  EXPECT_FALSE(search.find(map, {0, 0}, {9, 9}));
  EXPECT_EQ(search.go_on(5), TileSearch::State::no_route);
  EXPECT_TRUE(search.find(map, {1, 1}, {1, 1}));
  EXPECT_EQ(search.length(), 0);
  EXPECT_EQ(map.cell_at({1e30f, -1e30f}).x, 1'000'000);
}

}  // namespace
}  // namespace ambulon
