#include "ambulon/ground/open.hpp"

#include <array>
#include <cmath>
#include <limits>

#include <gtest/gtest.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"

namespace ambulon {
namespace {

TEST(OpenGround, SnapSaysHowFarOffTheNearestSpotIs) {
  const OpenGround ground;
  EXPECT_TRUE(ground.snap({3, 4, 2}, 0.f));
  const Snap off = ground.snap({OpenGround::extent + 30, 40, 0}, 5.f);
  EXPECT_FALSE(off);
  EXPECT_TRUE(off.found);
  EXPECT_FLOAT_EQ(off.off, 30.f);
  EXPECT_EQ(off.spot.position, vec3(OpenGround::extent, 40, 0));
  EXPECT_FALSE(ground.snap({std::numeric_limits<float>::quiet_NaN(), 0, 0}, 5.f).found);
  EXPECT_FALSE(ground.snap({0, std::numeric_limits<float>::infinity(), 0}, 5.f).found);
}

TEST(OpenGround, RandomSpotsAreUniformByArea) {
  const OpenGround ground;
  Random random(7, 1);
  const Spot home{.position = vec3(10, -20, 0)};
  std::array<int, 4> rings{}, quarters{};
  for (int i = 0; i < 40'000; ++i) {
    const vec2 off = flat(ground.random_spot(random, home, 8.f).position - home.position);
    const float part = glm::dot(off, off) / 64.f;  // of the area inside
    ASSERT_LE(part, 1.001f);
    ++rings[std::min<std::size_t>(3, static_cast<std::size_t>(part * 4.f))];
    ++quarters[(off.x > 0 ? 1U : 0U) + (off.y > 0 ? 2U : 0U)];
  }
  for (const int count : rings) EXPECT_NEAR(count, 10'000, 400);
  for (const int count : quarters) EXPECT_NEAR(count, 10'000, 400);
}

TEST(Ground, QueriesTakeAnyNumbers) {
  const std::vector<std::uint8_t> cells(100, 1);
  const TileGround tiles(*TileMap::make(cells, {.width = 10, .height = 10}));
  const auto plan = *MeshGround::make(Plan{.outlines = {{{0, 0}, {10, 0}, {10, 10}, {0, 10}}}});
  const OpenGround open({0, 0}, {10, 10});
  const std::array wrong = {NAN, INFINITY, -INFINITY, 1e30f, -1.f, 0.f};
  Random random(1, 1);
  Route route;
  for (const Ground* ground : {static_cast<const Ground*>(&tiles), static_cast<const Ground*>(plan.get()),
                               static_cast<const Ground*>(&open)})
    for (const float radius : {0.3f, 1e9f, NAN, INFINITY, -1.f})
      for (const float number : wrong) {
        const Body body{.radius = radius};
        (void)ground->snap({number, 5, 0}, 1, body);
        const Spot spot = ground->snap({5, 5, 0}, number, body).spot;
        for (const vec2 way : {vec2(number, 0), vec2(number, number)}) {
          const Stretch stretch = ground->straight(spot, way);
          EXPECT_TRUE(finite(stretch.end.position)) << number;
        }
        EXPECT_TRUE(finite(ground->random_spot(random, spot, number).position)) << number;
        EXPECT_GE(ground->clearance(spot, number).metres, 0.f);
        (void)ground->nearest_reachable(spot, {5, number, number});
        ground->route(spot, spot, route);
      }
}

}  // namespace
}  // namespace ambulon
