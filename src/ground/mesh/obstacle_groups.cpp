#include "ground/mesh/obstacle_groups.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <ranges>

namespace ambulon {
namespace {

constexpr ClipperLib::cInt squares_each =
    32;  // squares of the grid that a box covers, in the mean: more is in vain
constexpr ClipperLib::cInt rows_each = 4;  // rows that an edge covers, in the mean

}  // namespace

ObstacleGroups::ObstacleGroups(const Paths& ground, const Paths& taken, ClipperLib::cInt reach) {
  std::vector<Box> boxes;  // first those of the edges of the ground
  for (const ClipperLib::Path& path : ground)
    for (std::size_t i = 0; i < path.size(); ++i) {
      edges_.push_back({path[i], path[i + 1 < path.size() ? i + 1 : 0]});
      boxes.push_back(box_of(std::span(&edges_.back()[0], 2), reach));
    }
  for (const ClipperLib::Path& path : taken) boxes.push_back(box_of(path, reach));
  unite_touching(boxes);
  sort_edges();
  std::map<std::uint32_t, Paths> groups;
  for (std::size_t i = 0; i < taken.size(); ++i) {
    const std::uint32_t group = root(static_cast<std::uint32_t>(edges_.size() + i));
    if (group == root(0))
      at_edge_.push_back(taken[i]);
    else
      groups[group].push_back(taken[i]);
  }
  for (auto& [group, paths] : groups)
    if (on_ground(paths[0][0])) inside_.push_back(std::move(paths));
}

ObstacleGroups::Box ObstacleGroups::box_of(std::span<const Point> points, ClipperLib::cInt reach) {
  Box box{points[0], points[0]};
  for (const Point& p : points) {
    box.low = {std::min(box.low.X, p.X), std::min(box.low.Y, p.Y)};
    box.high = {std::max(box.high.X, p.X), std::max(box.high.Y, p.Y)};
  }
  return {{box.low.X - reach, box.low.Y - reach}, {box.high.X + reach, box.high.Y + reach}};
}

bool ObstacleGroups::touch(const Box& a, const Box& b) {
  return a.low.X <= b.high.X && a.low.Y <= b.high.Y && b.low.X <= a.high.X && b.low.Y <= a.high.Y;
}

/// Over a grid with about as many squares as there are boxes. If most boxes are large, all are one group.
void ObstacleGroups::unite_touching(const std::vector<Box>& boxes) {
  parent_.resize(boxes.size());
  std::iota(parent_.begin(), parent_.end(), 0U);
  for (std::size_t i = 1; i < edges_.size(); ++i) unite(0, static_cast<std::uint32_t>(i));
  Box all = boxes[0];
  for (const Box& box : boxes) {
    all.low = {std::min(all.low.X, box.low.X), std::min(all.low.Y, box.low.Y)};
    all.high = {std::max(all.high.X, box.high.X), std::max(all.high.Y, box.high.Y)};
  }
  const auto across = 1 + static_cast<ClipperLib::cInt>(std::sqrt(static_cast<double>(boxes.size())));
  const Point size((all.high.X - all.low.X) / across + 1, (all.high.Y - all.low.Y) / across + 1);
  const auto square_of = [&](const Point& p) {
    return Point((p.X - all.low.X) / size.X, (p.Y - all.low.Y) / size.Y);
  };
  ClipperLib::cInt covered = 0;
  for (const Box& box : boxes) {
    const Point low = square_of(box.low), high = square_of(box.high);
    covered += (high.X - low.X + 1) * (high.Y - low.Y + 1);
  }
  if (covered > squares_each * static_cast<ClipperLib::cInt>(boxes.size())) {
    std::ranges::fill(parent_, 0U);
    return;
  }
  std::vector<std::pair<std::uint32_t, std::uint32_t>> placed;
  for (std::uint32_t i = 0; i < boxes.size(); ++i) {
    const Point low = square_of(boxes[i].low), high = square_of(boxes[i].high);
    for (ClipperLib::cInt y = low.Y; y <= high.Y; ++y)
      for (ClipperLib::cInt x = low.X; x <= high.X; ++x)
        placed.emplace_back(static_cast<std::uint32_t>(y * across + x), i);
  }
  const auto count = static_cast<std::uint32_t>(across * across);
  const Bins bins(count, std::move(placed));
  for (std::uint32_t bin = 0; bin < count; ++bin) {
    const auto in = bins.in(bin);
    for (std::size_t i = 0; i < in.size(); ++i)
      for (std::size_t k = i + 1; k < in.size(); ++k)
        if (root(in[i]) != root(in[k]) && touch(boxes[in[i]], boxes[in[k]])) unite(in[i], in[k]);
  }
}

std::uint32_t ObstacleGroups::root(std::uint32_t i) {
  while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
  return i;
}

void ObstacleGroups::unite(std::uint32_t a, std::uint32_t b) {
  a = root(a), b = root(b);
  parent_[std::max(a, b)] = std::min(a, b);
}

/// Lists the edges of the ground by rows.
void ObstacleGroups::sort_edges() {
  const auto [low, high] = std::ranges::minmax(edges_ | std::views::join, {}, &Point::Y);
  const auto count = static_cast<ClipperLib::cInt>(edges_.size());
  ClipperLib::cInt heights = 0;
  for (const auto& [a, b] : edges_) heights += std::abs(a.Y - b.Y);
  low_ = low.Y, row_ = std::max(high.Y - low.Y, heights / rows_each) / count + 1;
  rows_ = (high.Y - low.Y) / row_ + 1;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> placed;
  for (std::uint32_t i = 0; i < edges_.size(); ++i) {
    const auto [from, to] = std::minmax(edges_[i][0].Y, edges_[i][1].Y);
    for (ClipperLib::cInt row = (from - low_) / row_; row <= (to - low_) / row_; ++row)
      placed.emplace_back(static_cast<std::uint32_t>(row), i);
  }
  edges_in_ = Bins(static_cast<std::size_t>(rows_), std::move(placed));
}

/// Returns true if the rings of the ground wind around a point.
bool ObstacleGroups::on_ground(const Point& p) const {
  const ClipperLib::cInt row = (p.Y - low_) / row_;
  if (p.Y < low_ || row >= rows_) return false;
  int winding = 0;
  for (const std::uint32_t i : edges_in_.in(static_cast<std::uint32_t>(row))) {
    const auto& [a, b] = edges_[i];
    if ((a.Y <= p.Y) == (b.Y <= p.Y)) continue;
    const double turned = static_cast<double>(b.X - a.X) * static_cast<double>(p.Y - a.Y) -
                          static_cast<double>(p.X - a.X) * static_cast<double>(b.Y - a.Y);
    if ((turned > 0) == (b.Y > a.Y)) winding += b.Y > a.Y ? 1 : -1;
  }
  return winding != 0;
}

}  // namespace ambulon
