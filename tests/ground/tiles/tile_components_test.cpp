#include "ground/tiles/tile_components.hpp"

#include <map>

#include "base/geometry.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

/// Both labellings define the same components with the same sizes.
void expect_same(const TileMap& map, const TileComponents& kept, const TileComponents& fresh) {
  std::map<std::uint32_t, std::uint32_t> there, back, sizes;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const std::uint32_t a = kept.component(map, {x, y}), b = fresh.component(map, {x, y});
      RC_ASSERT((a == 0) == (b == 0));
      RC_ASSERT((a == 0) == !map.free({x, y}));
      RC_ASSERT(there.emplace(a, b).first->second == b);
      RC_ASSERT(back.emplace(b, a).first->second == a);
      ++sizes[a];
    }
  for (const auto& [component, size] : sizes)
    if (component != 0) RC_ASSERT(kept.size(component) == size);
}

RC_GTEST_PROP(TileComponents, AreRightAfterAnyEditsAsIfLabelledAnew, ()) {
  const TileRules rules{static_cast<Neighbours>(*rc::gen::inRange(0, 2)),
                        static_cast<Corners>(*rc::gen::inRange(0, 3))};
  TileMap map = random_map(rules, false);
  TileComponents kept;
  kept.label(map);
  Random random(static_cast<std::uint64_t>(*rc::gen::inRange(0, 100'000)));
  const auto below = [&](int count) {
    return static_cast<int>(random.below(static_cast<std::uint32_t>(count)));
  };
  for (int round = 0; round < 6; ++round) {
    for (int edit = 0; edit < 25; ++edit) {
      const Cell cell{below(map.width()), below(map.height())};
      RC_ASSERT(map.set(cell, map.free(cell) ? TileMap::blocked : std::uint8_t{1}).has_value());
      kept.changed(map, cell);
    }
    TileComponents fresh;
    fresh.label(map);
    expect_same(map, kept, fresh);
  }
}

RC_GTEST_PROP(TileComponents, AgreeWithTheSearch, ()) {
  const TileRules rules{static_cast<Neighbours>(*rc::gen::inRange(0, 2)),
                        static_cast<Corners>(*rc::gen::inRange(0, 3))};
  const TileMap map = random_map(rules, false);
  TileComponents components;
  components.label(map);
  const Cell from = random_cell(map);
  const auto lengths = plain_distances(map, from);
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      RC_ASSERT(components.joined(map, from, {x, y}) == std::isfinite(lengths[map.index({x, y})]));
}

}  // namespace
}  // namespace ambulon
