#include "crowd/neighbour_index.hpp"

#include <cmath>
#include <limits>
#include <set>

#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {
namespace {

RC_GTEST_PROP(NeighbourIndex, FindsWhomAskingEverybodyFindsEachOnce, ()) {
  const float size = between(1, 400), cell = between(0.5f, 20), radius = between(0, 60);
  const int count = *rc::gen::inRange(0, 200);
  std::vector<NeighbourIndex::Entry> points;
  for (int i = 0; i < count; ++i)
    points.push_back({{between(-size, size), between(-size, size)}, static_cast<std::uint32_t>(i)});
  for (const float odd : {1e20f, -3e38f, std::numeric_limits<float>::infinity(), std::nanf("")})
    points.push_back({{odd, between(-size, size)}, static_cast<std::uint32_t>(points.size())});
  const vec2 centre(between(-size, size), between(-size, size));
  std::multiset<std::uint32_t> found, expected;
  NeighbourIndex index;
  index.build(points, cell);
  index.build(points, cell);  // what it held before is forgotten
  index.near(centre, radius, [&](std::uint32_t number, vec2) { found.insert(index.name(number)); });
  for (const auto& entry : points)
    if (glm::dot(entry.at - centre, entry.at - centre) <= radius * radius) expected.insert(entry.name);
  RC_ASSERT(found == expected);
  std::size_t there = 0;  // as far out
  index.near({1e20f, 0}, 2 * size, [&](std::uint32_t number, vec2) {
    there += index.name(number) == static_cast<std::uint32_t>(count);
  });
  RC_ASSERT(there == 1U);
}

}  // namespace
}  // namespace ambulon
