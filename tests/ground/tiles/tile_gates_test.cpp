#include "ground/tiles/tile_gates.hpp"

#include <utility>

#include "base/geometry.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

/// Returns the length of the path over gates, infinite if there is none. Each of its steps must be allowed.
double far_length(TileGates& gates, TileFarSearch& search, Cell from, Cell to, std::uint64_t exact) {
  if (!search.plan(gates, from, to, exact)) return std::numeric_limits<double>::infinity();
  std::pmr::vector<Cell> cells{from};
  while (search.next_leg(cells)) {
  }
  RC_ASSERT(cells.back() == to);
  std::erase_if(cells,
                [last = Cell{-1, -1}](Cell cell) mutable { return std::exchange(last, cell) == cell; });
  const double length = walked(gates.map(), cells);
  RC_ASSERT(length >= 0);
  RC_ASSERT(std::abs(length - search.length()) < 1e-6 * (1 + length));
  return length;
}

RC_GTEST_PROP(TileGates, WaysAreFoundWhereThereAreAnyAndAreLittleLongerThanTheShortest, ()) {
  const TileRules rules{*rc::gen::element(Neighbours::eight, Neighbours::four),
                        *rc::gen::element(Corners::both_free, Corners::one_free, Corners::cut)};
  TileMap map = random_map(rules, *rc::gen::arbitrary<bool>(), 140);
  TileGates gates(map);
  TileFarSearch search;
  const std::uint64_t exact = *rc::gen::arbitrary<bool>() ? 2'000 : 0;  // 0: by gates alone
  for (int round = 0; round < 3; ++round) {
    const Cell from = random_cell(map), to = random_cell(map);
    const double shortest = plain_distances(map, from)[map.index(to)],
                 found = far_length(gates, search, from, to, exact);
    RC_ASSERT(std::isfinite(found) == std::isfinite(shortest));
    if (std::isfinite(found)) {
      RC_ASSERT(found > shortest - 1e-6 * (1 + shortest));
      RC_ASSERT(found < (exact > 0 ? 1.02 : 1.1) * shortest + 1e-6);
    }
    const Cell changed = random_cell(map);  // and kept right when cells change
    RC_ASSERT(map.set(changed, map.free(changed) ? TileMap::blocked : std::uint8_t{1}).has_value());
    gates.changed({changed, changed});
  }
}

}  // namespace
}  // namespace ambulon
