// Ground of different costs on meshes.

#include <algorithm>
#include <cmath>
#include <numeric>
#include <queue>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "level_maker.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

constexpr float quay_width = 6, quay_depth = 4;

Plan random_quay() {
  Plan plan{.outlines = {{{0, 0}, {quay_width, 0}, {quay_width, quay_depth}, {0, quay_depth}}}};
  const auto whole = [](vec2 point) { return glm::round(1000.f * point) / 1000.f; };  // as meshes round it
  const auto box = [&](vec2 size) {
    const vec2 low = whole({between(0, quay_width), between(0, quay_depth)});
    size = whole(size);
    return Plan::Ring{low, low + vec2(size.x, 0), low + size, low + vec2(0, size.y)};
  };
  for (int i = *rc::gen::inRange(0, 3); i > 0; --i)
    plan.solids.push_back(box({between(0.2f, 1), between(0.2f, 2)}));
  for (int i = *rc::gen::inRange(1, 5); i > 0; --i)
    plan.regions.push_back(
        {box({between(0.3f, 3), between(0.3f, 3)}), *rc::gen::element(1.f, 1.5f, 3.f, 8.f)});
  return plan;
}

/// Returns the cost of the ground at a point, by the regions of the plan.
float cost_at(const Plan& plan, vec2 at) {
  float cost = 1;
  for (const Plan::Region& region : plan.regions)
    if (at.x > region.ring[0].x && at.x < region.ring[2].x && at.y > region.ring[0].y &&
        at.y < region.ring[2].y)
      cost = region.cost;
  return cost;
}

/// The minimum and maximum cost of a straight walk; borders are rounded to 1 mm.
vec2 cost_along(const Plan& plan, vec2 from, vec2 to) {
  std::vector<float> parts = {0, 1};  // where it meets the lines of the borders
  for (const Plan::Region& region : plan.regions)
    for (const vec2 corner : {region.ring[0], region.ring[2]}) {
      parts.push_back((corner.x - from.x) / (to.x - from.x));
      parts.push_back((corner.y - from.y) / (to.y - from.y));
    }
  std::erase_if(parts, [](float part) { return !(part >= 0 && part <= 1); });
  std::ranges::sort(parts);
  vec2 sum(0);
  for (std::size_t i = 1; i < parts.size(); ++i) {
    const vec2 at = glm::mix(from, to, 0.5f * (parts[i - 1] + parts[i]));
    float min = cost_at(plan, at), max = min;
    for (const float off : {0.0002f, 0.001f})
      for (const vec2 aside : {vec2(off, off), vec2(off, -off), vec2(-off, off), vec2(-off, -off)}) {
        min = std::min(min, cost_at(plan, at + aside));
        max = std::max(max, cost_at(plan, at + aside));
      }
    sum += (parts[i] - parts[i - 1]) * vec2(min, max);
  }
  return sum * glm::distance(from, to);
}

/// The cheapest path over points 0.2 m apart, in 32 directions.
float over_raster(const Plan& plan, const MeshGround& ground, const Spot& from, const Spot& to) {
  constexpr float size = 0.2f;
  constexpr int across = static_cast<int>(quay_width / size) + 1,
                up = static_cast<int>(quay_depth / size) + 1;
  std::vector<vec2> points = {flat(from.position), flat(to.position)};
  for (int y = 0; y < up; ++y)
    for (int x = 0; x < across; ++x) points.push_back(size * vec2(x, y));
  std::vector<float> cost(points.size(), std::numeric_limits<float>::infinity());
  std::priority_queue<std::pair<float, std::size_t>> open;
  cost[0] = 0;
  open.emplace(0.f, 0);
  while (!open.empty()) {
    const auto [less, at] = open.top();
    open.pop();
    if (-less > cost[at]) continue;
    if (at == 1) break;
    const auto reach = [&](std::size_t next) {
      const float there = cost[at] + cost_along(plan, points[at], points[next]).y;
      if (there >= cost[next] - 1e-5f) return;
      const Snap a = ground.snap(lift(points[at]), 0.001f, {.radius = 0}),
                 b = ground.snap(lift(points[next]), 0.001f, {.radius = 0});
      if (!a || !b || !ground.sight(a.spot, b.spot)) return;
      cost[next] = there;
      open.emplace(-there, next);
    };
    if (glm::distance(points[at], points[1]) < 3 * size) reach(1);
    const int column = static_cast<int>(std::lround(points[at].x / size)),
              row = static_cast<int>(std::lround(points[at].y / size));
    for (int y = std::max(0, row - 3); y <= std::min(up - 1, row + 3); ++y)
      for (int x = std::max(0, column - 3); x <= std::min(across - 1, column + 3); ++x)
        if (at == 0 || std::gcd(x - column, y - row) == 1)
          reach(2 + static_cast<std::size_t>(y * across + x));
  }
  return cost[1];
}

RC_GTEST_PROP(CostlyGround, WaysAreNoDearerThanThoseOverARasterAndCostWhatIsSaid, ()) {
  const Plan plan = random_quay();
  const auto made = MeshGround::make(plan);
  RC_ASSERT(made.has_value());
  const MeshGround& ground = **made;
  const Body point{.radius = 0};
  const Snap from = ground.snap({between(0, quay_width), between(0, quay_depth), 0}, 9, point),
             to = ground.snap({between(0, quay_width), between(0, quay_depth), 0}, 9, point);
  // On a short path a few centimetres are a large fraction.
  if (!from.found || !to.found || flat_distance(from.spot.position, to.spot.position) < 1) return;
  Route route;
  ground.route(from.spot, to.spot, route);
  RC_ASSERT(route.complete == ground.reachable(from.spot, to.spot));
  if (!route.complete) return;
  const float said = ground.distance(from.spot, to.spot);
  vec2 cost(0);
  for (std::size_t i = 1; i < route.bends.size(); ++i) {
    cost += cost_along(plan, flat(route.bends[i - 1]), flat(route.bends[i]));
    RC_ASSERT(ground.sight(ground.snap(route.bends[i - 1], 0.01f, point).spot,
                           ground.snap(route.bends[i], 0.01f, point).spot));
  }
  RC_ASSERT(said > 0.999f * cost.x - 0.02f && said < 1.001f * cost.y + 0.02f);
  RC_ASSERT(said <= 1.005f * over_raster(plan, ground, from.spot, to.spot) + 0.01f);
  RC_ASSERT(std::abs(said - ground.distance(to.spot, from.spot)) < 0.005f * said + 0.02f);
}

RC_GTEST_PROP(CostlyGround, DetoursDoNotCrossTheirLine, ()) {
  const auto made = MeshGround::make(random_quay());
  RC_ASSERT(made.has_value());
  const MeshGround& ground = **made;
  const Body point{.radius = 0};
  const auto anywhere = [&] {
    return ground.snap({between(0, quay_width), between(0, quay_depth), 0}, 9, point).spot;
  };
  const Spot from = anywhere(), to = anywhere(), middle = anywhere();
  const vec2 across = unit(between(0, 2 * pi));
  const Stretch left = ground.straight(middle, 20.f * across),
                right = ground.straight(middle, -20.f * across);
  const vec2 at = flat(middle.position);
  const Bottleneck jam{
      .middle = middle, .left = flat(left.end.position) - at, .right = flat(right.end.position) - at};
  const auto beside = [&](vec3 place) { return cross(across, flat(place) - at); };
  if (std::min(std::abs(beside(from.position)), std::abs(beside(to.position))) < 0.02f) return;
  Route round;
  ground.detour(from, to, jam, 1e6f, round);
  for (std::size_t i = 1; i < round.bends.size(); ++i) {
    const float a = beside(round.bends[i - 1]), b = beside(round.bends[i]);
    if (std::min(std::abs(a), std::abs(b)) < 0.02f || (a > 0) == (b > 0)) continue;
    const vec2 met = flat(glm::mix(round.bends[i - 1], round.bends[i], a / (a - b)));
    const float along = glm::dot(met - at, across);
    RC_ASSERT(along < glm::dot(jam.right, across) + 0.02f || along > glm::dot(jam.left, across) - 0.02f);
  }
}

TEST(CostlyGround, RegionsMayReachFarBeyondTheGround) {
  const auto ground = MeshGround::make(Plan{.outlines = {{{0, 0}, {10, 0}, {10, 10}, {0, 10}}},
                                            .regions = {{{{-90, -90}, {5, -90}, {5, 90}, {-90, 90}}, 3.f}}})
                          .value();
  const Spot from = ground->snap({1, 5, 0}, 1).spot, to = ground->snap({9, 5, 0}, 1).spot;
  EXPECT_NEAR(ground->distance(from, to), 4 * 3 + 4, 1e-3f);
}

TEST(CostlyGround, BarriersThatCostAreGoneRoundUntilTheyAreTakenAway) {
  const auto ground = MeshGround::make(Plan{.outlines = {{{0, 0}, {12, 0}, {12, 8}, {0, 8}}}}).value();
  const Spot from = ground->snap({1, 4, 0}, 1).spot, to = ground->snap({11, 4, 0}, 1).spot;
  EXPECT_NEAR(ground->distance(from, to), 10, 1e-3f);
  const Barrier puddle = Barrier::box({6, 4}, {4, 3}).value();
  const std::uint64_t before = ground->revision();
  Route route;
  ground->route(from, to, route);
  const BarrierId wet = ground->put(puddle.costing(1.1f));
  EXPECT_TRUE(ground->changed_along(route.bends, {}, before));
  EXPECT_NEAR(ground->distance(from, to), 10.4f, 0.01f);  // through it
  ASSERT_TRUE(ground->move(wet, puddle.costing(6)));
  const float round = 2 * std::hypot(3.f, 1.5f) + 4;  // beside it
  EXPECT_NEAR(ground->distance(from, to), round, 0.02f);
  EXPECT_TRUE(ground->sight(from, to));  // costs do not block sight
  ASSERT_TRUE(ground->remove(wet));
  EXPECT_NEAR(ground->distance(from, to), 10, 1e-3f);
}

TEST(CostlyGround, LevelsHaveCostlyGroundAndCrossingsOverIt) {
  Level level;
  for (const auto& [low, high, cost] : {std::tuple(0.f, 5.f, 1.f), {5.f, 7.f, 20.f}, {7.f, 12.f, 1.f}}) {
    add_sheet(level, {low, 0, 1}, {high, 0, 1}, {high, 6, 1}, {low, 6, 1});
    level.triangles[level.triangles.size() - 2].cost = level.triangles.back().cost = cost;
  }
  const auto ground = MeshGround::make(level).value();
  const Spot from = ground->snap({2, 3, 1}, 1).spot, to = ground->snap({10, 3, 1}, 1).spot;
  EXPECT_NEAR(ground->distance(from, to), 6 + 2 * 20, 0.05f);
  ground->place({.kind = Passage::leap, .from = {4.5f, 5, 1}, .to = {7.5f, 5, 1}, .cost = 3}).value();
  EXPECT_NEAR(ground->distance(from, to), 2 * std::hypot(2.5f, 2.f) + 6, 0.05f);
  Route route;
  ground->route(from, to, route);
  ASSERT_EQ(route.crossings.size(), 1U);
  EXPECT_NEAR(route.bends[route.crossings[0].bend].x, 4.5f, 1e-3f);
  EXPECT_NEAR(route.bends[route.crossings[0].bend + 1].x, 7.5f, 1e-3f);
  const auto again = MeshGround::restore(ground->save().value()).value();
  EXPECT_EQ(again->distance(from, to), ground->distance(from, to));
  // A leap out of costly ground, and one into it: what lies before a crossing does not cost what lies after
  // it.
  const Spot inside = ground->snap({6, 3, 1}, 1).spot, beyond = ground->snap({9.5f, 3.5f, 1}, 1).spot;
  ground->place({.kind = Passage::leap, .from = {6, 3.5f, 1}, .to = {9, 3.5f, 1}, .cost = 3}).value();
  EXPECT_NEAR(ground->distance(inside, beyond), 0.5f * 20 + 6 + 0.5f, 0.05f);
  ground->place({.kind = Passage::leap, .from = {9, 2.5f, 1}, .to = {6, 2.5f, 1}, .cost = 3}).value();
  EXPECT_NEAR(ground->distance(ground->snap({9.5f, 2.5f, 1}, 1).spot, inside), 0.5f + 6 + 0.5f * 20, 0.05f);
  level.triangles[0].cost = 0.5f;
  EXPECT_TRUE(contains(MeshGround::make(level).error().text, "triangle 1 of the level has a cost of 0.5"));
  Plan plan{.outlines = {{{0, 0}, {9, 0}, {9, 9}}}, .regions = {{{{1, 1}, {2, 1}, {2, 2}}, 300}}};
  EXPECT_TRUE(contains(MeshGround::make(plan).error().text, "region 1 of the plan has a cost of 300"));
}

}  // namespace
}  // namespace ambulon
