#include "ground/tiles/tile_clearance.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ambulon {
namespace {

/// Returns the squared distance in half cells from the centre of a cell to the near side of the cell `cells`
/// further on.
std::int64_t square(std::int64_t cells) {
  const std::int64_t gap = cells == 0 ? 0 : 2 * std::abs(cells) - 1;
  return gap * gap;
}

constexpr std::int64_t far = std::int64_t{1} << 40;

/// The nearest blocked cell of a column, as a parabola over the cells of a row.
struct Curve {
  int column;
  std::int64_t height;  // squared distance along the column
  int from;             // first cell at which it is the lower envelope

  std::int64_t at(int x) const { return height + square(x - column); }
};

/// Returns the first cell in `low` to `high` at which `right` is lower than `left`; `high` if none. Two
/// parabolas of one shape cross at most once, so binary search applies.
int crossing(const Curve& left, const Curve& right, int low, int high) {
  while (low < high) {
    const int middle = low + (high - low) / 2;
    if (right.at(middle) < left.at(middle))
      high = middle;
    else
      low = middle + 1;
  }
  return low;
}

}  // namespace

TileClearance::TileClearance(float radius, float cell_size) {
  const double cells = static_cast<double>(radius / cell_size - 1e-4f);
  reach_ = std::max(0, static_cast<int>(std::ceil(cells - 0.5)));
  // The smallest sufficient squared distance. Per axis distances are 0 or odd.
  const double enough = cells <= 0 ? 0 : 4 * cells * cells;
  needed_ = far;
  for (std::int64_t x = 0; x <= reach_ + 1; ++x)
    for (std::int64_t y = x == 0 ? 1 : 0; y <= reach_ + 1; ++y)
      if (const std::int64_t there = square(x) + square(y); static_cast<double>(there) >= enough) {
        needed_ = std::min(needed_, there);
        break;
      }
}

std::vector<bool> TileClearance::room(const TileMap& map, CellBox box) const {
  const int width = box.high.x - box.low.x + 1, height = box.high.y - box.low.y + 1,
            wide = width + 2 * reach_;
  std::vector<bool> room(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
  const auto free = [&](int x, int y) { return map.inside({x, y}) && map.free({x, y}); };
  // By column: the row of the last blocked cell, and of the next one as far as it is known.
  const int none = box.low.y - 2 * reach_ - 2;
  std::vector<int> latest(static_cast<std::size_t>(wide), none), next(static_cast<std::size_t>(wide), none);
  for (int i = 0; i < wide; ++i)
    for (int y = box.low.y - reach_; y < box.low.y; ++y)
      if (!free(box.low.x - reach_ + i, y)) latest[static_cast<std::size_t>(i)] = y;
  for (int i = 0; i < wide; ++i)
    for (int y = box.low.y + reach_ - 1; y >= box.low.y; --y)
      if (!free(box.low.x - reach_ + i, y)) next[static_cast<std::size_t>(i)] = y;
  std::vector<Curve> lowest;
  for (int row = 0; row < height; ++row) {
    const int y = box.low.y + row;
    lowest.clear();
    for (int i = 0; i < wide; ++i) {
      const int x = box.low.x - reach_ + i;
      int &down = latest[static_cast<std::size_t>(i)], &up = next[static_cast<std::size_t>(i)];
      if (!free(x, y)) down = y;
      if (up < y) {  // the next one is unknown or was passed
        const int first = up == none ? y + reach_ : y;
        up = none;
        for (int ahead = y + reach_; ahead >= first; --ahead)
          if (!free(x, ahead)) up = ahead;
      }
      const int off = std::min(y - down, up == none ? reach_ + 1 : up - y);
      if (off > reach_) continue;
      Curve curve{x, square(off), box.low.x};
      while (!lowest.empty()) {
        curve.from = crossing(lowest.back(), curve, lowest.back().from, box.high.x + 1);
        if (curve.from > lowest.back().from) break;
        lowest.pop_back();
      }
      if (lowest.empty()) curve.from = box.low.x;
      if (curve.from <= box.high.x) lowest.push_back(curve);
    }
    std::size_t curve = 0;
    for (int x = box.low.x; x <= box.high.x; ++x) {
      while (curve + 1 < lowest.size() && lowest[curve + 1].from <= x) ++curve;
      const std::int64_t nearest = lowest.empty() ? far : lowest[curve].at(x);
      room[static_cast<std::size_t>(row) * static_cast<std::size_t>(width) +
           static_cast<std::size_t>(x - box.low.x)] = nearest >= needed_;
    }
  }
  return room;
}

}  // namespace ambulon
