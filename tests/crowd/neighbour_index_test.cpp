#include "ambulon/crowd/neighbour_index.hpp"

#include <set>

#include "generate.hpp"

namespace ambulon {
namespace {

RC_GTEST_PROP(NeighbourIndex, FindsWhomAskingEverybodyFindsEachOnce, ()) {
  const float size = between(1, 400), cell = between(0.5f, 20), radius = between(0, 60);
  const int count = *rc::gen::inRange(0, 200);
  std::vector<NeighbourIndex::Entry> points;
  for (int i = 0; i < count; ++i)
    points.push_back({{between(-size, size), between(-size, size)}, static_cast<std::uint32_t>(i)});
  const vec2 centre(between(-size, size), between(-size, size));
  std::multiset<std::uint32_t> found, expected;
  NeighbourIndex index;
  index.build(points, cell);
  index.build(points, cell);  // what it held before is forgotten
  index.near(centre, radius, [&](std::uint32_t number, vec2) { found.insert(index.name(number)); });
  for (const auto& entry : points)
    if (glm::dot(entry.at - centre, entry.at - centre) <= radius * radius) expected.insert(entry.name);
  RC_ASSERT(found == expected);
}

}  // namespace
}  // namespace ambulon
