#include "ambulon/ground/tiles/tile_ground.hpp"

#include <algorithm>
#include <map>
#include <thread>

#include <glm/common.hpp>

#include "ambulon/ambulon.hpp"

#include "base/circle.hpp"
#include "base/geometry.hpp"
#include "counting_memory.hpp"
#include "ground/tiles/tile_clearance.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "ground/tiles/tile_search.hpp"
#include "ground/tiles/tile_sweep.hpp"
#include "ground_behind.hpp"
#include "quay.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

constexpr TileRules points{Neighbours::eight, Corners::cut};  // under which bodies count as points

/// Returns a spot for `body` on a ground of random cells; nothing if there is none.
std::optional<Spot> random_spot_on(const TileGround& ground, const Body& body = {}) {
  const float width = static_cast<float>(ground.map().width()),
              height = static_cast<float>(ground.map().height());
  const Snap snap = ground.snap({between(0, width), between(0, height), 0}, 1e9f, body);
  return snap.found ? std::optional(snap.spot) : std::nullopt;
}

Body wide(float radius) { return {.radius = radius}; }

/// Returns the distance from a point to the nearest blocked cell or the edge, by testing all cells.
float plain_clearance(const TileMap& map, vec2 at) {
  const float size = map.cell_size();
  const vec2 low = map.origin(), high = map.corner({map.width(), map.height()});
  float min = std::min({at.x - low.x, at.y - low.y, high.x - at.x, high.y - at.y});
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (!map.free({x, y})) {
        const vec2 corner = map.corner({x, y});
        min = std::min(min, glm::length(glm::clamp(at, corner, corner + size) - at));
      }
  return std::max(0.f, min);
}

/// Returns the minimum clearance along a line, sampled in small steps.
float plain_clearance(const TileMap& map, vec2 from, vec2 to) {
  float min = std::numeric_limits<float>::infinity();
  const int steps = 1 + static_cast<int>(glm::length(to - from) / 0.05f);
  for (int i = 0; i <= steps; ++i)
    min = std::min(
        min, plain_clearance(map, glm::mix(from, to, static_cast<float>(i) / static_cast<float>(steps))));
  return min;
}

RC_GTEST_PROP(TileGround, SnapsToTheNearestSpotThatLookingEverywhereFinds, ()) {
  const TileGround ground(random_map(points, false));
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

RC_GTEST_PROP(TileGround, ASpotHasRoomForItsBodyAndIsNoFurtherThanTheMiddleOfACellThatHas, ()) {
  const TileGround ground(random_map({}, false));
  const TileMap& map = ground.map();
  const float radius = between(0.02f, 2.2f);
  const vec2 at(between(-5, 95), between(-5, 95));
  RC_ASSERT(std::abs(clearance(map, at, 3.f) - std::min(3.f, plain_clearance(map, at))) < 1e-4f);
  float nearest = std::numeric_limits<float>::infinity();
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const vec2 middle = map.middle({x, y});
      if (plain_clearance(map, middle) >= radius + 0.04f)
        nearest = std::min(nearest, glm::length(middle - at));
    }
  const Snap snap = ground.snap(lift(at), 5.f, wide(radius));
  if (std::isfinite(nearest)) RC_ASSERT(snap.found && snap.off <= nearest + 1e-3f);
  if (!snap.found) return;
  RC_ASSERT(plain_clearance(map, flat(snap.spot.position)) > radius - 1e-3f);
  if (plain_clearance(map, at) < radius - 1e-3f) RC_ASSERT(snap.off > 0.f);
}

RC_GTEST_PROP(TileGround, AStraightWalkIsFreeWhereEverySmallStepIs, ()) {
  const bool as_point = *rc::gen::arbitrary<bool>();
  const TileGround ground(random_map(as_point ? points : TileRules{}, false));
  const float radius = as_point ? 0.f : static_cast<float>(*rc::gen::inRange(1, 50)) / 32.f;
  const auto from = random_spot_on(ground, wide(radius));
  if (!from) return;
  const vec2 start = flat(from->position), way = between(0.1f, 40) * unit(between(-3, 3));
  const Stretch stretch = ground.straight(*from, way);
  const vec2 end = flat(stretch.end.position);
  RC_ASSERT(plain_clearance(ground.map(), start, end) > radius - 2e-3f);
  RC_ASSERT(std::abs(glm::length(end - start) - stretch.metres) < 2e-3f);
  if (stretch.free) {
    RC_ASSERT(glm::length(start + way - end) < 2e-3f);
    return;
  }
  RC_ASSERT(glm::dot(stretch.inward, way) < 0.f);
  // A little further on there is no room, unless it only grazes something.
  if (glm::dot(stretch.inward, direction(way)) < -0.5f && radius > 0.1f)
    RC_ASSERT(plain_clearance(ground.map(), end + 0.02f * direction(way)) < radius - 1e-3f);
}

RC_GTEST_PROP(TileGround, ClearanceIsTheCircleInWhichStraightWalksAreFree, ()) {
  const bool as_point = *rc::gen::arbitrary<bool>();
  const TileGround ground(random_map(as_point ? points : TileRules{}, false));
  const float radius = as_point ? 0.f : static_cast<float>(*rc::gen::inRange(1, 50)) / 32.f;
  const auto spot = random_spot_on(ground, wide(radius));
  if (!spot) return;
  const float max = between(0.1f, 8);
  const Clearance clearance = ground.clearance(*spot, max);
  const float plain = plain_clearance(ground.map(), flat(spot->position)) - radius;
  RC_ASSERT(clearance.level);
  RC_ASSERT(ground.clearance(*spot, std::numeric_limits<float>::quiet_NaN()).metres == 0.f);
  RC_ASSERT(std::abs(clearance.metres - std::clamp(plain, 0.f, max)) < 2e-3f);
  for (int i = 0; i < 16; ++i)
    RC_ASSERT(ground.straight(*spot, 0.999f * clearance.metres * unit(0.4f * static_cast<float>(i))).free);
}

RC_GTEST_PROP(TileGround, RoutesHaveRoomForTheBodyAndAreNoLongerThanTheWayByCells, ()) {
  const TileRules rules{Neighbours::eight, static_cast<Corners>(*rc::gen::inRange(0, 3))};
  const bool along_cells = *rc::gen::arbitrary<bool>();
  const TileGround ground(random_map(rules, *rc::gen::arbitrary<bool>()), {.along_cells = along_cells});
  const Body body = wide(between(0.02f, 1.6f));
  const auto from = random_spot_on(ground, body), to = random_spot_on(ground, body);
  if (!from || !to) return;
  Route route;
  ground.route(*from, *to, route);
  const TileMap& seen = ground.layer(body.radius).map();
  TileSearch search;
  RC_ASSERT(route.complete == search.find(seen, seen.cell_of(from->piece), seen.cell_of(to->piece)));
  RC_ASSERT(std::isfinite(ground.distance(*from, *to)) == route.complete);
  if (!route.complete) return;
  RC_ASSERT(route.bends.front() == from->position);
  RC_ASSERT(route.bends.back() == to->position);
  const bool as_point = rules.corners != Corners::both_free && body.radius <= 0.5f;
  const float room = as_point ? 0.f : body.radius;
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    RC_ASSERT(plain_clearance(ground.map(), flat(route.bends[i - 1]), flat(route.bends[i])) > room - 5e-3f);
  if (seen.uniform())
    RC_ASSERT(route.length_xy < search.length() + 3);  // the ends lie anywhere near their cells
}

RC_GTEST_PROP(TileGround, RoutesRoundAJamKeepToTheCellsThatItsLineDoesNotTouch, ()) {
  const TileRules rules{Neighbours::eight, static_cast<Corners>(*rc::gen::inRange(0, 3))};
  TileGround ground(random_map(rules, *rc::gen::arbitrary<bool>()));
  const Body body = wide(between(0.02f, 1.2f));
  for (int i = 0; i < 4; ++i) {
    if (i == 2)
      (void)ground.set(ground.map().cell_of(0), 1);  // what it keeps for such questions is out of date
    const auto middle = random_spot_on(ground, body);
    if (!middle) return;
    const float angle = between(0, 2 * pi);
    const vec2 across = 200.f * vec2(std::cos(angle), std::sin(angle));
    const Stretch left = ground.straight(*middle, across), right = ground.straight(*middle, -across);
    const vec2 at = flat(middle->position), a = flat(left.end.position), b = flat(right.end.position);
    const Bottleneck jam{.middle = *middle, .left = a - at, .right = b - at};
    TileMap cells = ground.layer(body.radius).map();
    for (int y = 0; y < cells.height(); ++y)
      for (int x = 0; x < cells.width(); ++x)
        if (crosses_box(a, b, cells.corner({x, y}) - 0.03f, cells.corner({x + 1, y + 1}) + 0.03f))
          cells.cover({x, y}, true);
    const auto from = random_spot_on(ground, body), to = random_spot_on(ground, body);
    Route route;
    ground.detour(*from, *to, jam, 1e6f, route);
    TileSearch search;
    const bool there =
        search.find(cells, cells.cell_of(from->piece), cells.cell_of(to->piece), TileMethod::a_star);
    const bool in_cells = cells.cell_at(flat(from->position)) == cells.cell_of(from->piece) &&
                          cells.cell_at(flat(to->position)) == cells.cell_of(to->piece);
    RC_ASSERT(route.complete || !there || !in_cells);
    if (!route.complete) continue;
    const float room = rules.corners != Corners::both_free && body.radius <= 0.5f ? 0.f : body.radius;
    for (std::size_t leg = 1; leg < route.bends.size(); ++leg) {
      const vec2 start = flat(route.bends[leg - 1]), end = flat(route.bends[leg]);
      RC_ASSERT(plain_clearance(ground.map(), start, end) > room - 5e-3f);
      RC_ASSERT(!lines_cross(a, b, start, end));
    }
    if (there && cells.uniform())
      RC_ASSERT(route.length_xy < search.length() + 5);  // ends may lie beside cells
    const float length = route.length_xy;
    ground.detour(*from, *to, jam, 0.99f * length, route);
    RC_ASSERT(!route.complete);
    for (const float none : {NAN, INFINITY})
      ground.detour(*from, *to, {.middle = *middle, .left = vec2(none), .right = vec2(0)}, 1e6f, route);
    RC_ASSERT(!route.complete);
    ground.detour(*from, *to, jam, NAN, route);
    RC_ASSERT(!route.complete);
    ground.detour(*from, *to, jam, 1.5f * length + 3, route);
    RC_ASSERT(!cells.uniform() || route.length_xy == length);
  }
}

/// The corners that a taut line may bend at: of all blocked cells, grown by the radius, as octagons.
std::vector<vec2> corners_of(const TileMap& map, float radius) {
  std::vector<vec2> corners;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      for (int corner = 0; corner < 4 && !map.free({x, y}); ++corner) {
        const vec2 out(corner % 2 == 0 ? -1 : 1, corner / 2 == 0 ? -1 : 1);
        for (const vec2 off : {vec2(1.f, std::tan(pi / 8)), vec2(std::tan(pi / 8), 1.f)})
          corners.push_back(map.middle({x, y}) + 0.5f * out + radius * off * out);
      }
  return corners;
}

RC_GTEST_PROP(TileGround, TautRoutesAreTheShortestThatAVisibilityGraphHasOnTheirSideOfObstacles, ()) {
  const int width = *rc::gen::inRange(4, 12), height = *rc::gen::inRange(4, 12);
  Random random(static_cast<std::uint64_t>(*rc::gen::inRange(0, 1'000'000)));
  std::vector<std::uint8_t> cells(static_cast<std::size_t>(width * height), 1);
  for (auto& cell : cells) cell = random.below(100) < 20 ? TileMap::blocked : 1;
  const TileGround ground(*TileMap::make(cells, {.width = width, .height = height}));
  const float radius = 0.0625f * static_cast<float>(*rc::gen::inRange(1, 8));
  const auto from = random_spot_on(ground, wide(radius)), to = random_spot_on(ground, wide(radius));
  if (!from || !to) return;
  Route route;
  ground.route(*from, *to, route);
  if (!route.complete) return;

  std::vector<vec2> nodes = corners_of(ground.map(), radius);
  std::erase_if(nodes, [&](vec2 at) { return plain_clearance(ground.map(), at) < radius - 1e-3f; });
  nodes.push_back(flat(from->position)), nodes.push_back(flat(to->position));
  std::vector<float> lengths(nodes.size(), std::numeric_limits<float>::infinity());
  std::vector<bool> done(nodes.size());
  lengths[nodes.size() - 2] = 0;
  for (std::size_t round = 0; round < nodes.size(); ++round) {
    std::size_t best = nodes.size();
    for (std::size_t i = 0; i < nodes.size(); ++i)
      if (!done[i] && (best == nodes.size() || lengths[i] < lengths[best])) best = i;
    if (!std::isfinite(lengths[best])) break;
    done[best] = true;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      const float length = lengths[best] + glm::length(nodes[i] - nodes[best]);
      if (length < lengths[i] && plain_clearance(ground.map(), nodes[best], nodes[i]) > radius - 1e-3f)
        lengths[i] = length;
    }
  }
  const float shortest = lengths.back();
  RC_CLASSIFY(route.length_xy < 1.001f * shortest, "the shortest of all");
  RC_ASSERT(route.length_xy > shortest * 0.999f - 1e-2f);
  // A route by cells may pass an obstacle on the other side, which is as long from middle to middle.
  RC_ASSERT(route.length_xy < shortest * 1.09f + 2.f);
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
    const Body body{.radius = 0.2f};
    const Npc cat =
        *world.add({.at = ground.snap(at, 99.f, body).spot.position, .body = body, .gait = {.speed = 3}});
    if (i % 4 == 0) cat.roam({.radius = 12});
    if (i % 4 == 1) cat.wander();
    if (i % 4 == 2) cat.flee(cats[0], {.reach = 30});
    if (i % 4 == 3) cat.follow(cats[1]);
    cats.push_back(cat);
  }
  float furthest_off = 0.f;
  pass(world, 60, 1.f / 30.f, [&] {
    for (const Npc cat : cats)
      furthest_off = std::max(furthest_off, 0.2f - clearance(ground.map(), flat(cat.position()), 1.f));
    return false;
  });
  EXPECT_LT(furthest_off, 0.002f);
  EXPECT_GT(cats[0].statistics().arrivals, 5U);
  EXPECT_GT(cats[1].statistics().metres, 60);
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
  EXPECT_GT(porter.statistics().metres, 19);
  const Order back = porter.go_to({1.5f, 5.5f, 0});
  pass(world, 1);
  ASSERT_TRUE(ground.set({10, 10}, TileMap::blocked));
  pass(world, 0.05);
  EXPECT_EQ(back.outcome()->ending, Ending::no_route);
  ASSERT_TRUE(ground.set({10, 3}, 1));
  const Order again = porter.go_to({1.5f, 5.5f, 0});
  pass(world, 40, 1.f / 60.f, [&] { return !again.running(); });
  EXPECT_EQ(again.outcome()->ending, Ending::arrived);
}

Barrier random_barrier(Random& random, float extent) {
  const vec2 at(extent * random.fraction(), extent * random.fraction());
  if (random.below(2) == 0) return *Barrier::disc(at, 0.1f + 4.f * random.fraction());
  const vec2 size(0.2f + 6.f * random.fraction(), 0.2f + 6.f * random.fraction());
  return *Barrier::box(at, size, 7.f * random.fraction());
}

RC_GTEST_PROP(TileGround, AfterAnyEditsItIsAsIfItHadBeenMadeSo, ()) {
  const TileRules rules{Neighbours::eight, static_cast<Corners>(*rc::gen::inRange(0, 3))};
  TileGround ground(random_map(rules, true));
  const TileMap& map = ground.map();
  const auto extent = static_cast<float>(std::max(map.width(), map.height()));
  std::vector<std::uint8_t> surface;  // as it is without barriers
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) surface.push_back(map.value({x, y}));
  (void)ground.layer(0.8f), (void)ground.layer(1.6f);  // so that they are there to be kept right
  Random random(static_cast<std::uint64_t>(*rc::gen::inRange(0, 1'000'000)));
  std::vector<BarrierId> ids;
  for (int edit = *rc::gen::inRange(1, 30); edit > 0; --edit) {
    const auto revision = ground.revision();
    if (const std::uint32_t kind = random.below(4); kind == 0) {
      const Cell low{static_cast<int>(random.below(static_cast<std::uint32_t>(map.width()))),
                     static_cast<int>(random.below(static_cast<std::uint32_t>(map.height())))};
      const Cell high{low.x + static_cast<int>(random.below(9)), low.y + static_cast<int>(random.below(9))};
      const auto value = static_cast<std::uint8_t>(random.below(3));
      const CellBox done = *ground.fill({low, high}, value);
      for (int y = done.low.y; y <= done.high.y; ++y)
        for (int x = done.low.x; x <= done.high.x; ++x) surface[map.index({x, y})] = value;
    } else if (kind == 1 || ids.empty()) {
      ids.push_back(ground.put(random_barrier(random, extent)));
    } else {
      const std::size_t which = random.below(static_cast<std::uint32_t>(ids.size()));
      if (kind == 2) {
        RC_ASSERT(ground.move(ids[which], random_barrier(random, extent)).has_value());
      } else {
        RC_ASSERT(ground.remove(ids[which]).has_value());
        RC_ASSERT(!ground.remove(ids[which]).has_value());
        ids.erase(ids.begin() + static_cast<std::ptrdiff_t>(which));
      }
    }
    RC_ASSERT(ground.revision() >= revision);  // the same where a barrier lies beside the map
  }
  TileGround fresh(*TileMap::make(surface, {.width = map.width(), .height = map.height(), .rules = rules}));
  for (const PlacedBarrier& placed : ground.barriers()) fresh.put(placed.barrier);
  for (const float radius : {0.3f, 0.8f, 1.6f}) {
    const TileLayer &kept = ground.layer(radius), &made = fresh.layer(radius);
    std::map<std::uint32_t, std::uint32_t> names;  // of a component here, and there
    for (int y = 0; y < map.height(); ++y)
      for (int x = 0; x < map.width(); ++x) {
        const Cell cell{x, y};
        RC_ASSERT(kept.map().free(cell) == made.map().free(cell));
        RC_ASSERT(kept.map().cost(cell) == made.map().cost(cell));
        const std::uint32_t here = kept.components().component(kept.map(), cell),
                            there = made.components().component(made.map(), cell);
        RC_ASSERT(names.emplace(here, there).first->second == there);
        RC_ASSERT(kept.components().size(here) == made.components().size(there) || here == 0);
      }
  }
}

TEST(TileGround, FarRoutesOverDearGroundAreLittleLongerThanTheShortestAndKnowOfChanges) {
  constexpr int size = 400;
  std::vector<std::uint8_t> costs(static_cast<std::size_t>(size) * size, 1);
  Random random(11);
  for (int blot = 0; blot < 400; ++blot) {
    const std::uint32_t x = random.below(size - 30), y = random.below(size - 30);
    const std::uint32_t w = 3 + random.below(25), h = 3 + random.below(25);
    for (std::uint32_t j = y; j < y + h; ++j)
      for (std::uint32_t i = x; i < x + w; ++i) costs[j * size + i] = static_cast<std::uint8_t>(blot % 4);
  }
  TileGround ground(*TileMap::make(costs, {.width = size, .height = size}),
                    {.along_cells = true, .far_cells = 1});
  TileSearch exact;
  Route route;
  int over_gates = 0;
  for (int i = 0; i < 12; ++i) {
    const auto spot = [&] {
      const std::uint32_t x = random.below(size), y = random.below(size);
      const vec2 at = vec2(x, y) + 0.5f;
      const Cell cell = ground.map().cell_of(ground.snap(lift(at), 0, wide(0.3f)).spot.piece);
      return ground.snap(lift(ground.map().middle(cell)), 0, wide(0.3f)).spot;
    };
    const Spot from = spot(), to = spot();
    ground.route(from, to, route);
    ASSERT_EQ(route.complete,
              exact.find(ground.map(), ground.map().cell_of(from.piece), ground.map().cell_of(to.piece)));
    if (!route.complete) continue;
    std::vector<Cell> cells;
    for (const vec3 bend : route.bends)
      if (const Cell cell = ground.map().cell_at(flat(bend)); cells.empty() || !(cells.back() == cell))
        cells.push_back(cell);
    const double length = cells.size() > 1 ? walked(ground.map(), cells) : 0;
    EXPECT_GE(length, exact.length() - 1e-6);
    EXPECT_LE(length, 1.01 * exact.length() + 1e-6);
    over_gates += route.expanded > 16'384;
    // A wall across the way.
    const Cell middle = cells[cells.size() / 2];
    ASSERT_TRUE(ground.fill({{middle.x - 6, middle.y - 1}, {middle.x + 6, middle.y + 1}}, TileMap::blocked));
  }
  EXPECT_GT(over_gates, 3);
}

/// A ground that counts the routes it is asked for.
class CountingGround final : public GroundBehind {
 public:
  using GroundBehind::GroundBehind;
  mutable int routes = 0;

  void route(const Spot& from, const Spot& to, Route& route) const override {
    ++routes;
    GroundBehind::route(from, to, route);
  }
};

TEST(TileGround, OnlyThoseReplanWhoseWayAChangeCrosses) {
  TileGround tiles(*TileMap::make(std::vector<std::uint8_t>(40 * 40, 1), {.width = 40, .height = 40}));
  const CountingGround ground(tiles);
  World world({.ground = &ground});
  std::vector<Order> orders;
  for (int i = 0; i < 20; ++i) {
    const float y = 1.5f + 2.f * static_cast<float>(i);
    orders.push_back(world.add({.at = {1.5f, y, 0}})->go_to({38.5f, y, 0}));
  }
  pass(world, 2);
  EXPECT_EQ(ground.routes, 20);
  const BarrierId cart = tiles.put(*Barrier::box({20, 11.5f}, {1, 1}));  // in the way of the sixth
  pass(world, 1);
  EXPECT_EQ(ground.routes, 21);
  ASSERT_TRUE(tiles.move(cart, *Barrier::box({20, 21.5f}, {1, 1})));
  pass(world, 1);
  EXPECT_EQ(ground.routes, 22);
  for (int i = 0; i < 400; ++i) ASSERT_TRUE(tiles.set({0, 39}, i % 2 == 0 ? TileMap::blocked : 1));
  pass(world, 0.1);
  EXPECT_EQ(ground.routes, 42);  // more changes at once than are kept apart
  pass(world, 60, 1.f / 60.f, [&] { return std::ranges::none_of(orders, &Order::running); });
  for (const Order& order : orders) EXPECT_EQ(order.outcome()->ending, Ending::arrived);
}

TEST(TileGround, ManyThreadsGetTheAnswersThatOneGets) {
  Random random(8);
  std::vector<std::uint8_t> cells(90 * 90, 1);
  for (auto& cell : cells) cell = random.below(100) < 30 ? TileMap::blocked : 1;
  const TileMap map = *TileMap::make(cells, {.width = 90, .height = 90});
  const auto ask = [](const TileGround& ground, int number) {
    const auto at = [&](int salt) {
      return vec3(static_cast<float>(number * 37 % 90), static_cast<float>(number * salt % 90), 0);
    };
    const Body body{.radius = 0.2f + 0.1f * static_cast<float>(number % 9)};
    const Snap from = ground.snap(at(53), 90, body), to = ground.snap(at(71), 90, body);
    return from.found && to.found ? ground.distance(from.spot, to.spot) : -1.f;
  };
  constexpr int questions = 600;
  const TileGround alone(map), shared(map);
  std::vector<float> expected, answers(questions);
  for (int i = 0; i < questions; ++i) expected.push_back(ask(alone, i));
  {
    std::vector<std::jthread> threads;
    for (int thread = 0; thread < 4; ++thread)
      threads.emplace_back([&, thread] {
        for (int i = thread; i < questions; i += 4) answers[static_cast<std::size_t>(i)] = ask(shared, i);
      });
  }
  EXPECT_EQ(answers, expected);
}

TEST(TileGround, WhoIsTooWideForTheDoorGoesRoundAndIsToldWhenThereIsNoWay) {
  std::vector<std::uint8_t> cells(12 * 9, 1);
  for (int y = 0; y < 9; ++y)
    cells[static_cast<std::size_t>(y * 12 + 5)] = y == 2 || y > 5 ? 1 : TileMap::blocked;
  const TileGround ground(*TileMap::make(cells, {.width = 12, .height = 9}));  // a door of 1 m, one of 3 m
  const auto metres = [&](float radius) {
    const Snap from = ground.snap({3, 2.5f, 0}, 1, wide(radius)),
               to = ground.snap({9, 2.5f, 0}, 1, wide(radius));
    return ground.distance(from.spot, to.spot);
  };
  EXPECT_FLOAT_EQ(metres(0.5f), 6);
  EXPECT_GT(metres(0.6f), 9);
  World world({.ground = &ground});
  const Npc handcart = *world.add({.at = {2.5f, 4.5f, 0}, .body = {.radius = 1.6f}});
  const Order order = handcart.go_to({9, 4.5f, 0});
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::no_route);
  EXPECT_EQ(order.outcome()->why(),
            "no route leads to (9.00, 4.50); the nearest reachable spot is 5.62 m off");
}

// --- Cells, layers and barriers ---------------------------------------------------------------

TEST(TileMap, ACoveredCellStaysCoveredWhateverItsSurfaceBecomes) {
  TileMap map = TileMap::make(std::vector<std::uint8_t>(9, 1), {.width = 3, .height = 3}).value();
  map.cover({1, 1}, true);
  for (const std::uint8_t cost : std::initializer_list<std::uint8_t>{0, 1, 5}) {
    ASSERT_TRUE(map.set({1, 1}, cost));
    EXPECT_FALSE(map.free({1, 1}));
  }
  map.cover({1, 1}, false);
  EXPECT_TRUE(map.free({1, 1}));
  TileGround ground(std::move(map));
  const BarrierId crate = ground.put(Barrier::box({1.5f, 1.5f}, {0.5f, 0.5f}).value());
  ASSERT_TRUE(ground.set({1, 1}, 0) && ground.set({1, 1}, 1));
  EXPECT_FALSE(ground.map().free({1, 1}));
  ASSERT_TRUE(ground.remove(crate));
  EXPECT_TRUE(ground.map().free({1, 1}));
}

TEST(TileMap, CopiesTakeTheirMemoryWhereTheOriginalDoes) {
  CountingMemory memory;
  const TileMap map =
      TileMap::make(std::vector<std::uint8_t>(64 * 64, 1), {.width = 64, .height = 64}, &memory).value();
  const std::size_t one = memory.bytes;
  const TileMap copy = map;
  EXPECT_EQ(memory.bytes, 2 * one);
  CountingMemory other;
  const TileMap elsewhere(map, &other);
  EXPECT_EQ(memory.bytes, 2 * one);
  EXPECT_EQ(other.bytes, one);
}

RC_GTEST_PROP(TileClearance, HasRoomWhereNoBlockedCellReachesIntoTheBody, ()) {
  const TileMap map = random_map({}, false, 60);
  const float radius = between(0, 12);
  const CellBox box{{*rc::gen::inRange(0, map.width()), *rc::gen::inRange(0, map.height())},
                    {map.width() - 1, map.height() - 1}};
  const std::vector<bool> room = TileClearance(radius, map.cell_size()).room(map, box);
  const auto gap = [](int cells) { return std::max(0.f, std::abs(static_cast<float>(cells)) - 0.5f); };
  std::size_t next = 0;
  for (int y = box.low.y; y <= box.high.y; ++y)
    for (int x = box.low.x; x <= box.high.x; ++x, ++next) {
      float nearest = std::numeric_limits<float>::infinity();
      for (int v = -1; v <= map.height(); ++v)
        for (int u = -1; u <= map.width(); ++u)
          if ((u != x || v != y) && !(map.inside({u, v}) && map.free({u, v})))
            nearest = std::min(nearest, std::hypot(gap(u - x), gap(v - y)));
      RC_ASSERT(std::abs(nearest - radius) < 2e-4f || !map.free({x, y}) || room[next] == (nearest > radius));
    }
}

RC_GTEST_PROP(TileGround, FarRoutesReachTheirGoalWhereverThereIsAWay, ()) {
  const TileRules rules{Neighbours::eight,
                        *rc::gen::element(Corners::both_free, Corners::one_free, Corners::cut)};
  const TileMap map = random_map(rules, true, 140);
  const TileGround near(map), far(map, {.far_cells = 1});
  Route one, other;
  for (int i = 0; i < 3; ++i) {
    const auto from = random_spot_on(near), to = random_spot_on(near);
    RC_ASSERT(far.snap({}, 0, {}).spot.layer == 0);  // the same layers, in the same order
    RC_PRE(from.has_value() && to.has_value());
    near.route(*from, *to, one);
    far.route(*from, *to, other);
    RC_ASSERT(other.complete == near.reachable(*from, *to));
    RC_ASSERT(other.complete == one.complete);
    if (other.complete) RC_ASSERT(other.bends.back() == to->position);
    for (std::size_t k = 1; k < other.bends.size(); ++k) {
      const Spot here = far.snap(other.bends[k - 1], 0, {}).spot;
      RC_ASSERT(far.straight(here, flat(other.bends[k] - other.bends[k - 1])).free);
    }
  }
}

TEST(TileGround, FarRoutesGoThroughAWallOnlyWhereItsCellsTouchAtTheirCorners) {
  std::vector<std::uint8_t> cells(512 * 512, 1);
  for (std::size_t y = 0; y < 512; ++y) cells[y * 512 + 63] = cells[y * 512 + 64] = TileMap::blocked;
  cells[100 * 512 + 63] = cells[101 * 512 + 64] = 1;
  cells[0] = 2;  // so that costs differ
  const TileGround ground(TileMap::make(cells, {.width = 512, .height = 512, .rules = points}).value(),
                          {.far_cells = 1});
  Route route;
  ground.route(ground.snap({10.5f, 500.5f, 0}, 0, {}).spot, ground.snap({500.5f, 500.5f, 0}, 0, {}).spot,
               route);
  EXPECT_TRUE(route.complete);
  EXPECT_GT(route.length_xy, 994.8f);  // straight to the gap, and on from it
  EXPECT_LT(route.length_xy, 1.02f * 994.8f);
}

TEST(TileGround, BarriersFarAwayAreNotLookedAt) {
  TileGround ground(
      TileMap::make(std::vector<std::uint8_t>(1'000 * 1'000, 1), {.width = 1'000, .height = 1'000}).value());
  std::vector<BarrierId> crates;
  for (int i = 0; i < 2'000; ++i)
    crates.push_back(ground.put(
        Barrier::box({static_cast<float>(i % 50) * 20.f + 10.f, static_cast<float>(i / 50) * 20.f + 10.f},
                     {1.5f, 1.5f})
            .value()));
  EXPECT_LE(ground.barriers_near({100, 100}, {125, 125}).size(), 4);
  EXPECT_EQ(ground.barriers_near({0, 0}, {1'000, 1'000}).size(), 2'000);
  for (const BarrierId crate : crates) ASSERT_TRUE(ground.remove(crate));
  EXPECT_TRUE(ground.barriers_near({0, 0}, {1'000, 1'000}).empty());
  EXPECT_EQ(ground.layer(0).components().size(ground.layer(0).components().component(ground.map(), {3, 3})),
            1'000'000U);
}

RC_GTEST_PROP(BarrierGround, FindsTheBarriersNearABoxThatLookingAtAllFinds, ()) {
  TileGround ground(TileMap::make(std::vector<std::uint8_t>(100, 1), {.width = 10, .height = 10}).value());
  std::vector<BarrierId> ids;
  const auto any = [] {
    const float far = *rc::gen::element(20.f, 300.f, 1e5f), size = *rc::gen::element(1.f, 30.f, 900.f);
    return Barrier::box({between(-far, far), between(-far, far)}, {between(0.1f, size), between(0.1f, size)},
                        between(0, 6))
        .value();
  };
  for (int i = *rc::gen::inRange(1, 60); i > 0; --i) {
    if (ids.empty() || *rc::gen::inRange(0, 3) > 0) {
      ids.push_back(ground.put(any()));
      continue;
    }
    const auto chosen = ids.begin() + *rc::gen::inRange(0, static_cast<int>(ids.size()));
    if (*rc::gen::arbitrary<bool>()) {
      RC_ASSERT(ground.move(*chosen, any()).has_value());
    } else {
      RC_ASSERT(ground.remove(*chosen).has_value());
      RC_ASSERT(!ground.remove(*chosen).has_value());
      ids.erase(chosen);
    }
  }
  const float far = *rc::gen::element(20.f, 300.f, 1e5f);
  const vec2 low(between(-far, far), between(-far, far)), high = low + vec2(between(0, far), between(0, 50));
  std::vector<const PlacedBarrier*> all;
  for (const PlacedBarrier& placed : ground.barriers()) {
    const vec2 min = placed.barrier.min(), max = placed.barrier.max();
    if (min.x <= high.x && min.y <= high.y && max.x >= low.x && max.y >= low.y) all.push_back(&placed);
  }
  RC_ASSERT(ground.barriers_near(low, high) == all);
}

#ifndef AMBULON_ASSERTIONS
TEST(TileGround, SpotsOfAnotherGroundAreHarmless) {
  const TileGround small(TileMap::make(std::vector<std::uint8_t>(9, 1), {.width = 3, .height = 3}).value());
  const TileGround large(
      TileMap::make(std::vector<std::uint8_t>(900, 1), {.width = 30, .height = 30}).value());
  std::vector<Spot> spots = {Spot{}, {.position = {1e30f, std::nanf(""), 0}, .piece = 800, .layer = 63}};
  for (const float radius : {0.1f, 0.7f, 1.2f})
    spots.push_back(large.snap({25, 25, 0}, 0, wide(radius)).spot);
  Route route;
  Random random;
  for (const Spot& from : spots)
    for (const Spot& to : spots) {
      small.route(from, to, route);
      small.detour(from, to, {.middle = to, .left = {0, 1}, .right = {0, -1}}, 100, route);
      (void)small.sight(from, to), (void)small.straight(from, {1, 1}), (void)small.clearance(from, 3);
      (void)small.reachable(from, to), (void)small.distance(from, to),
          (void)small.nearest_reachable(from, {1, 1, 0});
      (void)small.random_spot(random, from, 5), (void)small.tiles(from);
      Route* way = &route;
      small.routes_to(to, std::span(&from, 1), std::span(&way, 1));
    }
  EXPECT_TRUE(small.reachable(small.snap({0, 0, 0}, 1).spot, small.snap({2, 2, 0}, 1).spot));
}
#endif

}  // namespace
}  // namespace ambulon
