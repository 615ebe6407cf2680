#include "ambulon/ground/tiles/tile_layer.hpp"

#include <algorithm>
#include <cmath>

namespace ambulon {
namespace {

/// Calls `visit(Cell)` for the cells that a disc of `radius` metres around the middle of cell (0, 0) reaches
/// into.
template <class Visit>
void each_under(const TileMap& map, float radius, Visit&& visit) {
  const float cells = radius / map.cell_size() - 1e-4f;
  const int reach = std::max(0, static_cast<int>(std::ceil(cells - 0.5f)));
  const auto gap = [](int cells_off) {
    return std::max(0.f, std::abs(static_cast<float>(cells_off)) - 0.5f);
  };
  for (int y = -reach; y <= reach; ++y)
    for (int x = -reach; x <= reach; ++x)
      if ((x == 0 && y == 0) || std::hypot(gap(x), gap(y)) < cells) visit(Cell{x, y});
}

}  // namespace

TileLayer::TileLayer(TileMap map, std::pmr::memory_resource* memory)
    : map_(std::move(map)), components_(memory), kernel_{{}}, memory_(memory) {
  components_.label(map_);
}

TileLayer::TileLayer(const TileMap& base, float radius, std::pmr::memory_resource* memory)
    : map_(base), components_(memory), memory_(memory) {
  each_under(base, radius, [&](Cell cell) {
    kernel_.push_back(cell);
    reach_ = std::max({reach_, cell.x, cell.y});
  });
  map_.set_corners(Corners::both_free);  // a wide body cannot slip through where two cells touch
  for (int y = 0; y < map_.height(); ++y)
    for (int x = 0; x < map_.width(); ++x)
      if (base.free({x, y}) && !clear(base, {x, y})) map_.cover({x, y}, true);
  components_.label(map_);
}

std::uint64_t TileLayer::find_far(Cell from, Cell to, std::pmr::vector<Cell>& turns) const {
  const std::scoped_lock lock(far_mutex_);
  if (!far_) far_ = std::make_unique<Far>(map_, memory_);
  turns.assign(1, from);
  if (far_->search.plan(far_->gates, from, to))
    while (far_->search.next_leg(turns)) {
    }
  return far_->search.expanded();
}

bool TileLayer::serves(float radius) const {
  std::size_t count = 0;
  each_under(map_, radius, [&](Cell) { ++count; });
  return count == kernel_.size();
}

bool TileLayer::clear(const TileMap& base, Cell cell) const {
  return std::ranges::all_of(kernel_, [&](Cell off) {
    const Cell at{cell.x + off.x, cell.y + off.y};
    return base.inside(at) && base.free(at);
  });
}

void TileLayer::take_in(const TileMap& base, CellBox box) {
  const CellBox grown{
      {std::max(0, box.low.x - reach_), std::max(0, box.low.y - reach_)},
      {std::min(base.width() - 1, box.high.x + reach_), std::min(base.height() - 1, box.high.y + reach_)}};
  edit(grown, [&](TileMap& map, Cell cell) {
    (void)map.set(cell, base.value(cell));  // it lies inside, and base took the same value
    map.cover(cell, !clear(base, cell));
  });
}

}  // namespace ambulon
