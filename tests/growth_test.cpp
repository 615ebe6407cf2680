// How the work grows with the size of the input. Work is counted in comparisons that the library makes, which
// clang reports to the functions below; times would tell less, and vary between runs.

#include <cmath>
#include <cstdint>
#include <functional>

#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"
#include "level_maker.hpp"

namespace {
std::uint64_t compared = 0;
}

extern "C" {
void __sanitizer_cov_trace_cmp1(std::uint8_t, std::uint8_t) { ++compared; }
void __sanitizer_cov_trace_cmp2(std::uint16_t, std::uint16_t) { ++compared; }
void __sanitizer_cov_trace_cmp4(std::uint32_t, std::uint32_t) { ++compared; }
void __sanitizer_cov_trace_cmp8(std::uint64_t, std::uint64_t) { ++compared; }
void __sanitizer_cov_trace_const_cmp1(std::uint8_t, std::uint8_t) { ++compared; }
void __sanitizer_cov_trace_const_cmp2(std::uint16_t, std::uint16_t) { ++compared; }
void __sanitizer_cov_trace_const_cmp4(std::uint32_t, std::uint32_t) { ++compared; }
void __sanitizer_cov_trace_const_cmp8(std::uint64_t, std::uint64_t) { ++compared; }
}

namespace ambulon {
namespace {

/// The ratio of the work for 4 * `size` to that for `size`. `prepare` makes something of a size and returns
/// an
/// action on it, whose work is counted.
double times_for_four(int size, const std::function<std::function<void()>(int)>& prepare) {
  const auto work = [&](int of) {
    const std::function<void()> act = prepare(of);
    const std::uint64_t before = compared;
    act();
    return static_cast<double>(compared - before);
  };
  const double small = work(size), large = work(4 * size);
  EXPECT_GT(small, 0);
  std::printf("             %.0f, then %.0f: %.2f times\n", small, large, large / small);
  return large / small;
}

// n log n grows 4.7 times from a thousand to four thousand; n^1.5 8 times; n^2 16 times.
constexpr double flat = 1.5, logarithmic = 2, linear = 5;

TileMap square_map(int side) {
  return *TileMap::make(
      std::vector<std::uint8_t>(static_cast<std::size_t>(side) * static_cast<std::size_t>(side), 1),
      {.width = side, .height = side});
}

/// Crates of 40 cm, one in sixteen square metres, in a square.
void put_crates(BarrierGround& ground, int in_row) {
  for (int i = 0; i < in_row * in_row; ++i)
    ground.put(*Barrier::box(
        {2.f + 4.f * static_cast<float>(i % in_row), 2.f + 4.f * static_cast<float>(i / in_row)},
        {0.4f, 0.4f}));
}

Plan square_plan(float side) { return {.outlines = {{{0, 0}, {side, 0}, {side, side}, {0, side}}}}; }

// The number of rings of cells that are searched grows with the root of the distance; each holds few cells.
TEST(Growth, OfTheNearestCellWithTheDistanceToIt) {
  const TileGround ground(square_map(512));
  for (const vec2 from : {vec2(-1, -1), vec2(-1, 0), vec2(0.5f, 2)})
    EXPECT_LT(times_for_four(4'000,
                             [&](int metres) {
                               return [&, at = 256.f + (static_cast<float>(metres) + 256.f) * from] {
                                 EXPECT_TRUE(ground.snap({at, 0}, 1e9f).within);
                               };
                             }),
              2.5);
}

TEST(Growth, OfALayerWithTheRadiusOfTheBody) {
  EXPECT_LT(times_for_four(5,
                           [](int cells) {
                             TileMap map = square_map(256);
                             for (int i = 0; i < 256; i += 7)
                               (void)map.set({i, i * 11 % 256}, TileMap::blocked);
                             const auto ground = std::make_shared<TileGround>(std::move(map));
                             return [ground, radius = static_cast<float>(cells)] {
                               (void)ground->layer(radius);
                             };
                           }),
            flat);
}

TEST(Growth, OfALayerWithTheCells) {
  EXPECT_LT(times_for_four(1,
                           [](int size) {
                             const auto ground =
                                 std::make_shared<TileGround>(square_map(size == 1 ? 128 : 256));
                             return [ground] { (void)ground->layer(3.f); };
                           }),
            linear);
}

TEST(Growth, OfCoveredCellsWithTheBarriers) {
  EXPECT_LT(times_for_four(1,
                           [](int size) {
                             const int in_row = size == 1 ? 16 : 32;
                             const auto ground = std::make_shared<TileGround>(square_map(4 * in_row));
                             (void)ground->layer(0.7f);
                             return [ground, in_row] { put_crates(*ground, in_row); };
                           }),
            linear);
}

TEST(Growth, OfBarriersOnAPlan) {
  EXPECT_LT(times_for_four(1,
                           [](int size) {
                             const int in_row = size == 1 ? 8 : 16;
                             const std::shared_ptr<MeshGround> ground =
                                 *MeshGround::make(square_plan(static_cast<float>(4 * in_row)));
                             (void)ground->snap({}, 1.f);  // builds the mesh
                             return [ground, in_row] { put_crates(*ground, in_row); };
                           }),
            linear);
}

// A random patch of 16 m is drawn by area, then one of its polygons.
TEST(Growth, OfARandomSpotWithThePolygonsAndWithThePatches) {
  const auto spots = [](float side, int in_row) {
    const std::shared_ptr<MeshGround> ground = *MeshGround::make(square_plan(side));
    put_crates(*ground, in_row);
    return [ground, around = ground->snap({2, 2, 0}, 1.f).spot] {
      Random random;
      for (int i = 0; i < 1000; ++i)
        EXPECT_GE(ground->random_spot(random, around, std::numeric_limits<float>::infinity()).position.x,
                  0.f);
    };
  };
  EXPECT_LT(times_for_four(1, [&](int size) { return spots(128, size == 1 ? 16 : 32); }), logarithmic);
  EXPECT_LT(times_for_four(1, [&](int size) { return spots(size == 1 ? 128 : 256, 32); }), linear);
}

TEST(Growth, OfALevelWithItsTriangles) {
  EXPECT_LT(times_for_four(1,
                           [](int size) {
                             Level level;
                             const int in_row = size == 1 ? 6 : 12;
                             for (int i = 0; i < in_row * in_row; ++i) {
                               const vec3 at(4.f * static_cast<float>(i % in_row),
                                             4.f * static_cast<float>(i / in_row), 0);
                               add_sheet(level, at, at + vec3(4, 0, 0), at + vec3(4, 4, 0),
                                         at + vec3(0, 4, 0));
                               add_box(level, {at.x + 1.5f, at.y + 1.5f}, 0, {1, 1, 1});
                             }
                             return [level] { EXPECT_TRUE(MeshGround::make(level)); };
                           }),
            linear);
}

using Outlines = std::vector<std::vector<PlanPoint>>;
double of_triangles(int size, const std::function<Outlines(int)>& outlines) {
  return times_for_four(
      size, [&](int count) { return [made = outlines(count)] { EXPECT_TRUE(Triangulation::make(made)); }; });
}

PlanPoint on_circle(int i, int count) {
  const double angle = 6.283185307179586 * i / count;
  return {static_cast<int>(std::lround(5e6 * std::cos(angle))),
          static_cast<int>(std::lround(5e6 * std::sin(angle)))};
}

TEST(Growth, OfTrianglesBetweenTheSpokesOfAHub) {
  EXPECT_LT(of_triangles(2000,
                         [](int count) {
                           Outlines spokes;
                           for (int i = 0; i < count; i += 2)
                             spokes.push_back({{0, 0}, on_circle(i, count), on_circle(i + 1, count)});
                           return spokes;
                         }),
            linear);
}

TEST(Growth, OfTrianglesAlongAFence) {
  for (const bool upright : {false, true})
    EXPECT_LT(of_triangles(
                  2000,
                  [upright](int count) {
                    Outlines fence;
                    for (int i = 0; i < count; ++i) {
                      fence.push_back({{10 * i, 0}, {10 * i + 5, 0}, {10 * i + 5, 1'000}, {10 * i, 1'000}});
                      if (upright)
                        for (PlanPoint& point : fence.back()) std::swap(point.x, point.y);
                    }
                    fence.push_back(
                        {{-100, 500}, {10 * count + 100, 501}, {10 * count + 100, 2'000}, {-100, 2'000}});
                    if (upright)
                      for (PlanPoint& point : fence.back()) std::swap(point.x, point.y);
                    return fence;
                  }),
              linear);
}

TEST(Growth,
     OfTrianglesBesideACurve) {  // in this order, each new point would turn all sides of those before
  EXPECT_LT(of_triangles(2000,
                         [](int count) {
                           Outlines outline(1);
                           for (int i = 0; i < count; ++i)
                             outline[0].push_back(
                                 {100 * i, static_cast<int>(90'000'000LL * i / count * i / count)});
                           return outline;
                         }),
            linear);
}

TEST(Growth, OfTrianglesInAScatter) {
  EXPECT_LT(of_triangles(2000,
                         [](int count) {
                           Outlines scatter;
                           Random random(3);
                           const auto side = static_cast<std::uint32_t>(2000 * std::sqrt(count));
                           for (int i = 0; i < count; ++i) {
                             const PlanPoint at{static_cast<int>(random.below(side)),
                                                static_cast<int>(random.below(side))};
                             scatter.push_back({at, {at.x + 400, at.y + 30}, {at.x + 100, at.y + 500}});
                           }
                           return scatter;
                         }),
            linear);
}

TEST(Growth, OfATickWithTheNpcs) {
  EXPECT_LT(times_for_four(1,
                           [](int size) {
                             const int in_row = size == 1 ? 12 : 24;
                             const auto side = static_cast<float>(4 * in_row);
                             const std::shared_ptr<MeshGround> ground = *MeshGround::make(square_plan(side));
                             const auto world = std::make_shared<World>(WorldOptions{.ground = ground.get()});
                             for (int i = 0; i < in_row * in_row; ++i) {
                               const vec3 at(2.f + 2.f * static_cast<float>(i % in_row),
                                             2.f + 2.f * static_cast<float>(i / in_row), 0);
                               const Npc npc = *world->add({.at = at, .body = {.radius = 0.3f}});
                               npc.patrol(std::vector<vec3>{at, at + vec3(1, 1, 0)});
                             }
                             return [ground, world] {
                               for (int i = 0; i < 60; ++i) EXPECT_TRUE(world->tick(1.f / 30));
                             };
                           }),
            linear);
}

TEST(Growth, OfACurveWithItsWaypoints) {
  EXPECT_LT(times_for_four(1000,
                           [](int count) {
                             std::vector<vec3> points;
                             for (int i = 0; i < count; ++i)
                               points.push_back({static_cast<float>(i), static_cast<float>(i % 7), 0});
                             return [points] {
                               EXPECT_TRUE(make_beat(points, BeatOrder::once, BeatPath::curve));
                             };
                           }),
            linear);
}

// One fast body extends only its own search range.
TEST(Growth, OfTouchesWithTheNpcsThatAreToldOfThem) {
  EXPECT_LT(times_for_four(1,
                           [](int size) {
                             const auto world = std::make_shared<World>();
                             const int in_row = size == 1 ? 16 : 32;
                             for (int i = 0; i < in_row * in_row; ++i)
                               world
                                   ->add({.at = {0.8f * static_cast<float>(i % in_row),
                                                 0.8f * static_cast<float>(i / in_row), 0}})
                                   ->on_touch([](Npc, Npc, float) {});
                             const Npc duck = *world->add({.drive = Drive::reported});
                             return [world, duck] {
                               for (int i = 0; i < 60; ++i) {
                                 EXPECT_TRUE(duck.report({9.f * static_cast<float>(i % 2), 3, 0}));
                                 EXPECT_TRUE(world->tick(1.f / 30));
                               }
                             };
                           }),
            linear);
}

}  // namespace
}  // namespace ambulon
