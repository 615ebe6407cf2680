#include "ambulon/crowd/formation.hpp"

#include <algorithm>
#include <numeric>

#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {
namespace {

constexpr Formation shapes[] = {Formation::line, Formation::column, Formation::wedge, Formation::ring,
                                Formation::block};

RC_GTEST_PROP(Formation, NobodyStandsNearerToAnotherThanAskedAndAllAroundTheirMiddle, ()) {
  const Formation shape = shapes[*rc::gen::inRange(0, 5)];
  const auto count = static_cast<std::size_t>(*rc::gen::inRange(1, 60));
  const float spacing = between(0.2f, 5);
  const auto places = places_in(shape, count, spacing);
  RC_ASSERT(places.size() == count);
  vec2 sum(0.f);
  float nearest = 1e9f;
  for (std::size_t i = 0; i < count; ++i) {
    sum += places[i];
    for (std::size_t k = 0; k < i; ++k) nearest = std::min(nearest, glm::distance(places[i], places[k]));
  }
  RC_ASSERT(glm::length(sum) < 1e-2f * static_cast<float>(count) * spacing);
  RC_ASSERT(count == 1 || std::abs(nearest - spacing) < 1e-3f * spacing * static_cast<float>(count));
}

TEST(Formation, FacesAlongX) {
  EXPECT_TRUE(places_in(Formation::as_they_are, 5, 1).empty());
  const auto column = places_in(Formation::column, 3, 2), line = places_in(Formation::line, 3, 2),
             wedge = places_in(Formation::wedge, 5, 2);
  EXPECT_EQ(column, (std::vector<vec2>{{2, 0}, {0, 0}, {-2, 0}}));
  EXPECT_EQ(line, (std::vector<vec2>{{0, 2}, {0, 0}, {0, -2}}));
  for (std::size_t i = 1; i < 5; ++i) EXPECT_LT(wedge[i].x, wedge[0].x);
  EXPECT_NEAR(wedge[3].y, -wedge[4].y, 1e-5f);
}

/// The length of all ways together.
float all_ways(std::span<const vec2> members, std::span<const vec2> places,
               std::span<const std::size_t> taken) {
  float sum = 0.f;
  for (std::size_t i = 0; i < members.size(); ++i) sum += glm::distance(members[i], places[taken[i]]);
  return sum;
}

std::vector<vec2> points(std::size_t count) {
  std::vector<vec2> all;
  for (std::size_t i = 0; i < count; ++i) all.emplace_back(between(-20, 20), between(-20, 20));
  return all;
}

RC_GTEST_PROP(Formation, EachTakesThePlaceThatMakesAllWaysShortest, ()) {
  const auto count = static_cast<std::size_t>(*rc::gen::inRange(0, 7));
  const auto members = points(count), places = points(count);
  const auto taken = assign(members, places);
  std::vector<std::size_t> order(count);
  std::iota(order.begin(), order.end(), std::size_t{0});
  RC_ASSERT(std::ranges::is_permutation(taken, order));
  float min = std::numeric_limits<float>::infinity();
  do min = std::min(min, all_ways(members, places, order));
  while (std::ranges::next_permutation(order).found);
  RC_ASSERT(all_ways(members, places, taken) <= min + 1e-3f);
}

RC_GTEST_PROP(Formation, NoTwoWaysCross, ()) {
  const auto members = points(40), places = points(40);
  const auto taken = assign(members, places);
  const auto side = [](vec2 a, vec2 b, vec2 p) { return cross(b - a, p - a); };
  for (std::size_t i = 0; i < 40; ++i)
    for (std::size_t k = 0; k < i; ++k) {
      const vec2 a = members[i], b = places[taken[i]], c = members[k], d = places[taken[k]];
      const bool crosses = side(a, b, c) * side(a, b, d) < -1e-2f && side(c, d, a) * side(c, d, b) < -1e-2f;
      RC_ASSERT(!crosses);
    }
}

}  // namespace
}  // namespace ambulon
