#pragma once

#include <cstdint>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How far the middles of cells are from blocked cells, compared with what a body needs. Distances are
/// squares of whole half cells, so that comparing them is exact.
class TileClearance {
 public:
  /// For a body of `radius` metres (0 to 50) on a map whose cells have that size.
  TileClearance(float radius, float cell_size);

  /// Cells beyond which a blocked cell is in no way of the body.
  int reach() const { return reach_; }
  /// Two bodies with the same value stand on the middles of the same cells.
  std::int64_t needed() const { return needed_; }
  /// For each cell of a box of the map, row by row, whether the body has room on its middle; that cell itself
  /// does not count. Takes a time that grows with the number of cells within reach of the box, whatever the
  /// radius: two passes, along columns and along rows, as in P. Felzenszwalb and D. Huttenlocher, "Distance
  /// Transforms of Sampled Functions" (2012).
  std::vector<bool> room(const TileMap& map, CellBox box) const;

 private:
  int reach_ = 0;
  std::int64_t needed_ = 0;  // the least square, in half cells
};

}  // namespace ambulon
