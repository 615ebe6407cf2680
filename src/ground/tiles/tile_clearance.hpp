#pragma once

#include <cstdint>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Compares the distance from cell centres to blocked cells with the radius of a body. Distances are squared
/// integers in half cells, so comparisons are exact.
class TileClearance {
 public:
  /// `radius`: metres, 0 to 50. `cell_size`: metres.
  TileClearance(float radius, float cell_size);

  /// Returns the distance in cells beyond which a blocked cell does not matter.
  int reach() const { return reach_; }
  /// Bodies with the same value can stand on the same cells.
  std::int64_t needed() const { return needed_; }
  /// Returns for each cell of a box, row by row, whether the body can stand on its centre; the cell's own
  /// state does not count. The time is linear in the cells within reach of the box, for any radius. Two
  /// passes: P. Felzenszwalb, D. Huttenlocher, "Distance Transforms of Sampled Functions" (2012).
  std::vector<bool> room(const TileMap& map, CellBox box) const;

 private:
  int reach_ = 0;
  std::int64_t needed_ = 0;  // the least square, in half cells
};

}  // namespace ambulon
