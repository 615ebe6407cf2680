#include "ground/tiles/tile_layer.hpp"

#include <algorithm>

#include "ground/tiles/tile_clearance.hpp"

namespace ambulon {

TileLayer::TileLayer(TileMap map, std::pmr::memory_resource* memory)
    : map_(std::move(map)), components_(memory), clearance_(0.f, map_.cell_size()), memory_(memory) {
  components_.label(map_);
}

TileLayer::TileLayer(const TileMap& base, float radius, std::pmr::memory_resource* memory)
    : map_(base, memory), components_(memory), clearance_(radius, base.cell_size()), memory_(memory) {
  map_.set_corners(Corners::both_free);  // a wide body does not fit between two cells that touch at a corner
  const std::vector<bool> room = clearance_.room(base, {{0, 0}, {base.width() - 1, base.height() - 1}});
  for (int y = 0; y < map_.height(); ++y)
    for (int x = 0; x < map_.width(); ++x)
      if (base.free({x, y}) && !room[base.index({x, y})]) map_.cover({x, y}, true);
  components_.label(map_);
}

bool TileLayer::find_far(Cell from, Cell to, std::pmr::vector<Cell>& turns, std::uint64_t& expanded) const {
  const std::scoped_lock lock(far_mutex_);
  if (!far_) far_ = std::make_unique<Far>(map_, memory_);
  turns.assign(1, from);
  if (far_->search.plan(far_->gates, from, to))
    while (far_->search.next_leg(turns)) {
    }
  expanded += far_->search.expanded();
  return turns.back() == to;
}

bool TileLayer::serves(float radius) const {
  return TileClearance(radius, map_.cell_size()).needed() == clearance_.needed();
}

void TileLayer::take_in(const TileMap& base, CellBox box) {
  const int reach = clearance_.reach();
  const CellBox grown{
      {std::max(0, box.low.x - reach), std::max(0, box.low.y - reach)},
      {std::min(base.width() - 1, box.high.x + reach), std::min(base.height() - 1, box.high.y + reach)}};
  const std::vector<bool> room = clearance_.room(base, grown);
  std::size_t next = 0;
  edit(grown, [&](TileMap& map, Cell cell) {
    (void)map.set(cell, base.value(cell));  // it lies inside, and base accepted the value
    map.cover(cell, !base.free(cell) || !room[next]);
    ++next;
  });
}

}  // namespace ambulon
