#include "ambulon/ground/mesh/level.hpp"

#include <algorithm>
#include <map>
#include <queue>
#include <sstream>
#include <thread>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "base/tbb_jobs.hpp"
#include "first_along.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/level_index.hpp"
#include "quay.hpp"
#include "random_level.hpp"

namespace ambulon {
namespace {

std::unique_ptr<MeshGround> ground_of(const Level& level) { return MeshGround::make(level).value(); }

bool on_mesh(const MeshGround& ground, vec3 point, const Body& body) {
  const Snap snap = ground.snap(point, 0, body);
  return snap.found && flat_distance(snap.spot.position, point) < 1e-3f &&
         std::abs(snap.spot.position.z - point.z) < 0.1f;
}

/// Answers about a level from columns through all triangles.
class Columns {
 public:
  static constexpr float size = 0.05f;
  Columns(const Level& level, const Body& body, float slack) : level_(level), body_(body), slack_(slack) {}

  /// Returns true if a body can stand there: it reaches all columns within its radius by steps, and none is
  /// obstructed. `slack`: metres by which all measures are reduced; negative: increased.
  bool stands(vec3 at) const {
    const float radius = body_.radius - slack_;
    const int reach = static_cast<int>(radius / size);
    std::map<std::pair<int, int>, float> reached;
    std::queue<std::pair<int, int>> open;
    const auto come_to = [&](int x, int y, float height, float step) {
      for (const float floor : floors(flat(at) + size * vec2(x, y)))
        if (std::abs(floor - height) <= step && !taken(flat(at) + size * vec2(x, y), floor)) {
          if (reached.emplace(std::pair(x, y), floor).second) open.emplace(x, y);
          return;
        }
    };
    come_to(0, 0, at.z, 0.01f);
    for (; !open.empty(); open.pop()) {
      const auto [x, y] = open.front();
      for (const auto& [dx, dy] : {std::pair(1, 0), std::pair(-1, 0), std::pair(0, 1), std::pair(0, -1)})
        if (glm::length(size * vec2(x + dx, y + dy)) <= radius)
          come_to(x + dx, y + dy, reached.at({x, y}), body_.step_up + slack_);
    }
    for (int y = -reach; y <= reach; ++y)
      for (int x = -reach; x <= reach; ++x)
        if (glm::length(size * vec2(x, y)) <= radius && !reached.contains({x, y})) return false;
    return !reached.empty() && std::ranges::all_of(reached, [&](const auto& column) {  // no ledge either
      const auto [x, y] = column.first;
      return std::ranges::all_of(std::array{std::pair(x + 1, y), std::pair(x, y + 1)},
                                 [&](const auto& beside) {
                                   const auto there = reached.find(beside);
                                   return there == reached.end() ||
                                          std::abs(there->second - column.second) <= body_.step_up + slack_;
                                 });
    });
  }

  /// Returns true if there is another floor closely above.
  bool covered(vec3 at) const {
    return std::ranges::any_of(
        floors(flat(at)), [&](float floor) { return floor > at.z + 0.005f && floor < at.z + body_.height; });
  }

 private:
  std::array<vec3, 3> corners(const Level::Triangle& triangle) const {
    return {level_.corners[triangle.corners[0]], level_.corners[triangle.corners[1]],
            level_.corners[triangle.corners[2]]};
  }

  /// Returns the heights of the floors at a point, from above.
  std::vector<float> floors(vec2 at) const {
    std::vector<float> heights;
    for (const Level::Triangle& triangle : level_.triangles) {
      const auto [a, b, c] = corners(triangle);
      const vec3 normal = glm::cross(b - a, c - a);
      if (triangle.kind != Level::Kind::solid || std::abs(normal.z) < 0.70710f * glm::length(normal))
        continue;
      const float side = normal.z > 0 ? 1.f : -1.f;
      const auto inside = [&](vec3 from, vec3 to) {  // or closer beside it than cracks are wide
        return side * cross(direction(flat(to - from)), at - flat(from)) >= -0.016f;
      };
      if (inside(a, b) && inside(b, c) && inside(c, a))
        heights.push_back(a.z - glm::dot(flat(normal), at - flat(a)) / normal.z);
    }
    std::ranges::sort(heights, std::greater<>());
    return heights;
  }

  /// Returns true if something stands or hangs in the column.
  bool taken(vec2 at, float floor) const {
    const float low = floor + body_.step_up + slack_, high = floor + body_.height - slack_;
    for (const Level::Triangle& triangle : level_.triangles) {
      if (triangle.kind == Level::Kind::decor) continue;
      const auto all = corners(triangle);
      std::vector<vec3> part(all.begin(), all.end());
      for (const auto& [axis, sign, limit] :
           {std::tuple(0, 1.f, at.x - size / 2), std::tuple(0, -1.f, at.x + size / 2),
            std::tuple(1, 1.f, at.y - size / 2), std::tuple(1, -1.f, at.y + size / 2),
            std::tuple(2, 1.f, low), std::tuple(2, -1.f, high)}) {
        std::vector<vec3> kept;
        for (std::size_t i = 0; i < part.size(); ++i) {
          const vec3 a = part[i], b = part[(i + 1) % part.size()];
          const float of_a = sign * (a[axis] - limit), of_b = sign * (b[axis] - limit);
          if (of_a >= 0) kept.push_back(a);
          if ((of_a >= 0) != (of_b >= 0)) kept.push_back(a + of_a / (of_a - of_b) * (b - a));
        }
        part = std::move(kept);
      }
      if (!part.empty()) return true;
    }
    return false;
  }

  const Level& level_;
  Body body_;
  float slack_;
};

/// Returns true if a point lies inside one of the boxes.
bool inside(const Level& level, const std::vector<std::size_t>& boxes, vec3 at) {
  return std::ranges::any_of(boxes, [&](std::size_t first) {
    int facing_up = 0;  // of the triangles above the point
    for (std::size_t i = first; i < first + 12; ++i) {
      const auto corner = [&](std::size_t k) { return level.corners[level.triangles[i].corners[k % 3]]; };
      const vec3 normal = glm::cross(corner(1) - corner(0), corner(2) - corner(0));
      bool over = normal.z != 0;
      for (std::size_t k = 0; k < 3; ++k)
        over = over && normal.z * cross(flat(corner(k + 1) - corner(k)), flat(at - corner(k))) >= 0;
      const float height = corner(0).z - glm::dot(flat(normal), flat(at - corner(0))) / normal.z;
      if (over && height > at.z + 0.004f) facing_up += normal.z > 0 ? 1 : -1;
    }
    return facing_up > 0;
  });
}

std::string described(const Level& level, const Body& body, vec3 at) {
  std::ostringstream text;
  const auto tell = [&](vec3 point) { text << "(" << point.x << " " << point.y << " " << point.z << ") "; };
  text << "radius " << body.radius << " at ";
  tell(at);
  for (const Level::Triangle& triangle : level.triangles) {
    text << "\n";
    for (const std::uint32_t corner : triangle.corners) tell(level.corners[corner]);
  }
  return text.str();
}

RC_GTEST_PROP(Level, OneStandsWhereAllColumnsAroundAreFree, ()) {
  std::vector<std::size_t> boxes;
  const Level level = random_level(&boxes);
  const Body body{.radius = *rc::gen::element(0.15f, 0.3f, 0.5f)};
  const auto ground = ground_of(level);
  const Columns strict(level, body, -0.09f), lenient(level, body, 0.09f);
  for (int i = 0; i < 10; ++i) {
    const vec3 at = point_of(level);
    if (strict.covered(at) || inside(level, boxes, at)) continue;  // what lies above is walked on
    const bool stands = on_mesh(*ground, at, body);
    const bool good = stands ? lenient.stands(at) : !strict.stands(at);
    if (!good) RC_LOG(described(level, body, at));
    RC_ASSERT(good);
  }
}

RC_GTEST_PROP(Level, WalksStayOnItAndRoutesAreAsLongBackwards, ()) {
  const Level level = random_level();
  const Body body{.radius = *rc::gen::element(0.1f, 0.31f)};
  const auto ground = ground_of(level);
  const Columns lenient(level, body, 0.09f);
  const auto near_enough = [&](vec3 at) {  // at a step it stands on the one or the other
    return std::ranges::any_of(
        std::array{vec3(0), vec3(0.003f, 0, 0), vec3(-0.003f, 0, 0), vec3(0, 0.003f, 0), vec3(0, -0.003f, 0)},
        [&](vec3 off) { return lenient.stands(at + off); });
  };
  Route there, back;
  for (int i = 0; i < 4; ++i) {
    const Spot from = ground->snap(point_of(level), 10, body).spot,
               to = ground->snap(point_of(level), 10, body).spot;
    ground->route(from, to, there);
    ground->route(to, from, back);
    RC_ASSERT(there.complete == ground->reachable(from, to));
    RC_ASSERT(there.complete == back.complete);
    if (!there.complete) continue;
    RC_ASSERT(std::abs(there.length_xy - back.length_xy) < 1e-3f);
    Spot at = from;
    for (std::size_t k = 1; k < there.bends.size(); ++k) {
      const Stretch leg = ground->straight(at, flat(there.bends[k] - at.position));
      if (!leg.free) RC_LOG(described(level, body, at.position) + described(level, body, there.bends[k]));
      RC_ASSERT(leg.free);
      const Stretch half = ground->straight(at, 0.5f * flat(there.bends[k] - at.position));
      RC_ASSERT(half.free && near_enough(half.end.position));
      at = leg.end;
    }
    RC_ASSERT(glm::distance(at.position, to.position) < 0.02f);
  }
}

RC_GTEST_PROP(Level, RaysMeetTheFirstTriangleOnTheirWay, ()) {
  const Level level = random_level();
  const auto ground = ground_of(level);
  for (int i = 0; i < 10; ++i) {
    const vec3 from(between(-4, 10), between(-4, 10), between(-1, 6));
    const vec3 way = glm::normalize(point_of(level) - from + vec3(0.011f, 0.007f, 0.003f));
    const auto hit = ground->first_met({from, 2.f * way});
    const float met = hit ? glm::distance(from, *hit) : std::numeric_limits<float>::infinity();
    const auto [min, max] = first_along_about(level, from, way);
    const bool as_near = hit ? met > min - 0.03f && met < max + 0.03f : max > 90.f;
    if (!as_near)
      RC_LOG(described(level, {}, from) + described({}, {}, way) + std::to_string(met) + " instead of " +
             std::to_string(min));
    RC_ASSERT(as_near);
    if (hit) RC_ASSERT(!ground->first_met({from, way}, met - 0.01f));
  }
}

RC_GTEST_PROP(Level, PiecesAroundAreWhatOneCanWalkToInTheCircle, ()) {
  const Level level = random_level();
  const auto ground = ground_of(level);
  const Snap middle = ground->snap(point_of(level), 9, {});
  RC_PRE(middle.found);
  const float radius = between(0, 3);
  std::vector<std::vector<vec3>> pieces;
  ground->each_piece_around(middle.spot, radius, [&](std::span<const vec3> corners) {
    pieces.emplace_back(corners.begin(), corners.end());
  });
  RC_ASSERT(!pieces.empty());
  const auto off = [&](const std::vector<vec3>& piece, vec2 at) {  // metres from a piece, seen from above
    float min = 1e9f;
    bool inside = true;
    for (std::size_t i = 0; i < piece.size(); ++i) {
      const vec2 a = flat(piece[i]), b = flat(piece[(i + 1) % piece.size()]);
      min = std::min(min, glm::distance(nearest_on(a, b, at), at));
      inside = inside && cross(b - a, at - a) >= 0;
    }
    return inside ? 0.f : min;
  };
  for (const auto& piece : pieces) RC_ASSERT(off(piece, flat(middle.spot.position)) <= radius + 1e-3f);
  for (int i = 0; i < 10; ++i) {
    const Stretch walk = ground->straight(middle.spot, between(0, 1) * radius * unit(between(0, 6.28f)));
    RC_ASSERT(std::ranges::any_of(
        pieces, [&](const auto& piece) { return off(piece, flat(walk.end.position)) < 2e-3f; }));
  }
  const Clearance clearance = ground->clearance(middle.spot, radius + 0.1f);
  for (int i = 0; i < 10; ++i) {
    const vec2 way = between(0, 0.999f) * clearance.metres * unit(between(0, 6.28f));
    const Stretch walk = ground->straight(middle.spot, way);
    RC_ASSERT(walk.free);
    if (clearance.level) RC_ASSERT(walk.end.position.z == middle.spot.position.z);
  }
}

TEST(Level, UnderAndOverABridgeAndUpItsStairsAreWaysOfTheirOwn) {
  Level level = quay_stones(20);
  add_steps(level, {2, 10, 0}, {0.3f, 2, 0.2f}, 14);  // up to 2.8 m
  add_box(level, {12.2f, 10}, 2.7f, {12, 2, 0.1f});
  const auto ground = ground_of(level);
  const Body body;
  const auto spot = [&](vec3 at) { return ground->snap(at, 0.2f, body).spot; };
  const vec3 above{12, 10, 2.8f}, below{12, 10, 0};
  EXPECT_NEAR(spot(above).position.z, 2.8f, 1e-3f);
  EXPECT_NEAR(spot(below).position.z, 0, 1e-3f);
  // Round the stairs to their foot, and up.
  EXPECT_GT(ground->distance(spot(below), spot(above)), 19);
  EXPECT_TRUE(ground->sight(spot({12, 6, 0}), spot({12, 14, 0})));
  EXPECT_FALSE(ground->sight(spot(above), spot({12, 14, 0})));
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.name = "porter", .at = below});
  float highest_step = 0, before = 0;
  const Order order = porter.go_to(above, {.within = 0.1f});
  for (int tick = 0; tick < 60 * 40 && !order.outcome(); ++tick) {
    ASSERT_TRUE(world.tick(1.f / 60.f));
    highest_step = std::max(highest_step, std::abs(porter.position().z - before));
    before = porter.position().z;
  }
  EXPECT_TRUE(order.outcome() && *order.outcome());
  EXPECT_NEAR(porter.position().z, 2.8f, 0.01f);
  EXPECT_LT(highest_step, 0.04f) << "its height follows a smooth line over steps of 0.2 m";
}

TEST(Level, WhatIsAStepForOneIsAWallForAnother) {
  Level level = quay_stones(10);
  add_box(level, {5, 5}, 0, {2, 2, 0.25f});
  const auto ground = ground_of(level);
  const vec3 on_top{5, 5, 0.25f}, beside{2, 5, 0};
  for (const float step : {0.24f, 0.25f, 0.3f}) {
    const Body body{.step_up = step};
    EXPECT_EQ(ground->reachable(ground->snap(beside, 0, body).spot, ground->snap(on_top, 0, body).spot),
              step >= 0.25f)
        << step;
  }
  Level low = quay_stones(10);
  add_box(low, {5, 5}, 1.2f, {2, 2, 0.3f});  // a table
  const auto tables = ground_of(low);
  EXPECT_FALSE(on_mesh(*tables, {5, 5, 0}, {.height = 1.7f}));
  EXPECT_TRUE(on_mesh(*tables, {5, 5, 0}, {.radius = 0.1f, .height = 0.3f}));
}

TEST(Level, NobodyIsInsideOfWhatIsClosed) {
  Level level;
  add_box(level, {10, 10}, -3, {20, 20, 3});                 // the quay itself
  add_box(level, {5, 5}, 0, {4, 4, 3});                      // a shed
  add_box(level, {12, 12}, 2.5f, {4.4f, 3.7f, 0.2f}, 0.3f);  // a roof
  const vec3 inside{5, 5, 0}, below{10, 10, -3}, on_top{5, 5, 3}, sheltered{12, 12, 0};
  const auto ground = ground_of(level);
  for (const vec3 at : {inside, below}) EXPECT_FALSE(on_mesh(*ground, at, {}));
  for (const vec3 at : {on_top, sheltered}) EXPECT_TRUE(on_mesh(*ground, at, {}));
  // No gap remains where the triangles of a roof meet.
  for (int i = 0; i < 20; ++i) {
    Level roofed;
    add_box(roofed, {10, 10}, -3, {20, 20, 3});
    add_box(roofed, {12, 12}, 2.5f, {5.4f, 4.7f, 0.2f}, 0.31f * static_cast<float>(i));
    const auto quay = ground_of(roofed);
    for (int k = 0; k < 8; ++k) {
      const vec2 off = 2.f * unit(0.4f * static_cast<float>(k));
      EXPECT_TRUE(quay->sight(quay->snap(lift(vec2(12) + off), 0, {}).spot,
                              quay->snap(lift(vec2(12) - off), 0, {}).spot))
          << i << " " << k;
    }
  }
}

TEST(Level, ThreadsMakeTheSameOfIt) {
  Level level = quay_stones(100);
  for (int i = 0; i < 60; ++i)
    add_box(level, {5.f + static_cast<float>(i * 37 % 90), 5.f + static_cast<float>(i * 53 % 90)}, 0,
            {1.f + static_cast<float>(i % 3), 2, 0.1f * static_cast<float>(i % 12)}, static_cast<float>(i));
  const auto one = ground_of(level);
  const auto four_threads = [](std::size_t count, const std::function<void(std::size_t)>& job) {
    std::vector<std::jthread> threads;
    for (std::size_t t = 0; t < 4; ++t)
      threads.emplace_back([=, &job] {
        for (std::size_t i = t; i < count; i += 4) job(i);
      });
  };
  for (const Jobs& jobs : {Jobs(four_threads), tbb_jobs()}) {
    const auto many = MeshGround::make(level, {}, jobs).value();
    const ConvexMesh &a = one->mesh({}), &b = many->mesh({});
    ASSERT_EQ(a.sides().size(), b.sides().size());
    for (std::size_t i = 0; i < a.sides().size(); ++i) {
      ASSERT_EQ(a.sides()[i].start, b.sides()[i].start);
      ASSERT_EQ(a.sides()[i].across, b.sides()[i].across);
    }
  }
  // Building can be cancelled, and repeated.
  float last = 0;
  EXPECT_FALSE(
      one->prepare({.radius = 0.4f}, [&](MeshPhase, float part) { return last = part, part < 0.5f; }));
  EXPECT_LT(last, 0.6f);
  // In each of its phases.
  const Body hopper{.radius = 0.4f, .jump_up = 1};
  std::vector<MeshPhase> phases;
  for (const MeshPhase end : {MeshPhase::dividing, MeshPhase::joining, MeshPhase::crossing})
    EXPECT_FALSE(one->prepare(hopper, [&](MeshPhase phase, float) { return phase != end; }));
  EXPECT_TRUE(one->prepare(hopper, [&](MeshPhase phase, float) {
    if (phases.empty() || phases.back() != phase) phases.push_back(phase);
    return true;
  }));
  EXPECT_EQ(phases, (std::vector{MeshPhase::surveying, MeshPhase::dividing, MeshPhase::joining,
                                 MeshPhase::crossing}));
}

TEST(Level, SnapsNoHigherNoLowerAndNoFurtherAsideThanAllowed) {
  Level level = quay_stones(12);
  add_box(level, {6, 6}, 2.9f, {4, 4, 0.1f});
  const auto ground = ground_of(level);
  const auto height = [&](vec3 point, const MeshGround::Reach& reach) {
    const Snap snap = ground->snap(point, reach, {});
    return snap ? snap.spot.position.z : -1.f;
  };
  const vec3 between_floors{6, 6, 2};
  EXPECT_NEAR(height(between_floors, {}), 3, 1e-3f);  // the nearer one
  EXPECT_NEAR(height(between_floors, {.up = 0.5f}), 0, 1e-3f);
  EXPECT_EQ(height(between_floors, {.up = 0.5f, .down = 0.5f}), -1);
  EXPECT_NEAR(height({8, 6, 3}, {.aside = 0.5f, .down = 0.5f}), 3, 1e-3f);  // a body's radius beside it
  EXPECT_EQ(height({8.4f, 6, 3}, {.aside = 0.5f, .down = 0.5f}), -1);
}

TEST(Level, BarriersStandOnTheFloorThatTheyAreOn) {
  Level level = quay_stones(12);
  add_box(level, {6, 6}, 2.9f, {12, 12, 0.1f});
  const auto ground = ground_of(level);
  const vec3 above{6, 6, 3}, below{6, 6, 0};
  EXPECT_TRUE(on_mesh(*ground, above, {}) && on_mesh(*ground, below, {}));
  const BarrierId crate = ground->put(Barrier::box({6, 6}, {1, 1})->between(3, 4));
  EXPECT_FALSE(on_mesh(*ground, above, {}));
  EXPECT_TRUE(on_mesh(*ground, below, {}));
  ASSERT_TRUE(ground->move(crate, Barrier::box({6, 6}, {1, 1})->between(0, 1)));
  EXPECT_TRUE(on_mesh(*ground, above, {}));
  EXPECT_FALSE(on_mesh(*ground, below, {}));
  ASSERT_TRUE(ground->remove(crate));
  EXPECT_TRUE(on_mesh(*ground, above, {}) && on_mesh(*ground, below, {}));
}

TEST(Level, EnormousTrianglesMakeFewPatchesEachOfWhichLooksAtThoseThatTouchIt) {
  Level level;
  for (int i = 0; i < 500; ++i) {  // strips of 4 km by 8 m, side by side, and one triangle of 400 km
    const float y = 8.f * static_cast<float>(i);
    add_sheet(level, {0, y, 0}, {4000, y, 0}, {4000, y + 8, 0}, {0, y + 8, 0});
  }
  const auto patches = [](const LevelIndex& index) { return index.grid().count(); };
  const auto strips = LevelIndex::make(level, {}).value();
  EXPECT_LE(patches(strips), 64U + 16 * level.triangles.size());
  std::size_t looked_at = 0;
  for (std::uint32_t cell = 0; cell < patches(strips); ++cell) {
    const Square square = strips.grid().square(cell);
    looked_at += strips.near(square.low, {square.low.x + square.size, square.low.y + square.size}).size();
  }
  // A patch of 16 m or more touches a few strips, of two triangles each, and not all 500.
  EXPECT_LE(looked_at, patches(strips) * (4 + 2 * static_cast<std::size_t>(strips.grid().size) / 8'000));
  Level one;
  one.corners = {{-200'000, -200'000, 0}, {200'000, -200'000, 0}, {0, 200'000, 0}};
  one.triangles = {{{0, 1, 2}}};
  EXPECT_LE(patches(LevelIndex::make(one, {}).value()), 80U);
}

TEST(Level, WhatMakesNoSenseIsNamed) {
  EXPECT_TRUE(contains(MeshGround::make(Level{}).error().text, "no triangles"));
  Level level = quay_stones(2);
  level.triangles[1].corners[2] = 9;
  EXPECT_TRUE(contains(MeshGround::make(level).error().text,
                       "triangle 2 of the level has corner 10; the last one is 4"));
  level.triangles[1].corners[2] = 3;
  level.corners[3].x = std::nanf("");
  EXPECT_TRUE(contains(MeshGround::make(level).error().text, "corner 4 of the level lies at (nan"));
  level.corners[3] = {0, 2, 0};
  EXPECT_TRUE(contains(MeshGround::make(level, {.max_slope = 2}).error().text, "between 0 and 1.4"));
  level.triangles.assign(3, {{0, 0, 0}, Level::Kind::decor});
  EXPECT_FALSE(ground_of(level)->snap({1, 1, 0}, 1, {}).found);
}

}  // namespace
}  // namespace ambulon
