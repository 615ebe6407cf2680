#include "ambulon/ground/mesh/convex_mesh.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

namespace ambulon {
namespace {

/// Sides of triangles in rings, which grow together to convex polygons.
class Rings {
 public:
  explicit Rings(const Triangulation& triangulation)
      : triangulation_(triangulation), sides_(triangulation.triangles().size() * 3) {
    const std::vector<bool> inside = triangulation.inside();
    const auto triangles = triangulation.triangles();
    for (std::uint32_t t = 0; t < triangles.size(); ++t)
      for (std::uint32_t i = 0; i < 3 && inside[t]; ++i) {
        const std::uint32_t beyond = triangles[t].beyond[i];
        sides_[3 * t + i] = {triangles[t].corners[i], 3 * t + (i + 1) % 3, 3 * t + (i + 2) % 3, none, true};
        if (beyond == Triangulation::none || !inside[beyond] || triangles[t].kept[i]) continue;
        const auto& back = triangles[beyond].beyond;
        sides_[3 * t + i].across = 3 * beyond + (back[0] == t ? 0U : back[1] == t ? 1U : 2U);
      }
    merge();
  }

  struct Side {
    std::uint32_t corner = 0, after = 0, before = 0, across = none;
    bool in_use = false;
  };
  static constexpr std::uint32_t none = ConvexMesh::none;
  const std::vector<Side>& sides() const { return sides_; }

 private:
  PlanPoint at(std::uint32_t side) const { return triangulation_.points()[sides_[side].corner]; }
  double length(std::uint32_t side) const {
    const PlanPoint a = at(side), b = at(sides_[side].after);
    return std::hypot(static_cast<double>(a.x) - b.x, static_cast<double>(a.y) - b.y);
  }
  /// True when the ring that would come of it goes straight on or turns left where the side `out` comes after
  /// `into`.
  bool straight_or_left(std::uint32_t into, std::uint32_t out) const {
    const PlanPoint a = at(into), b = at(out), c = at(sides_[out].after);
    const std::int64_t turned = turn(a, b, c);
    const bool back = (std::int64_t{b.x} - a.x) * (std::int64_t{c.x} - b.x) +
                          (std::int64_t{b.y} - a.y) * (std::int64_t{c.y} - b.y) <
                      0;
    return turned > 0 || (turned == 0 && !back);
  }

  /// The longest sides go first, so that polygons become round rather than long.
  void merge() {
    std::vector<std::pair<double, std::uint32_t>> order;
    for (std::uint32_t side = 0; side < sides_.size(); ++side)
      if (sides_[side].in_use && sides_[side].across != none && side < sides_[side].across)
        order.emplace_back(-length(side), side);
    std::ranges::sort(order);
    for (const auto& [length, side] : order) {
      Side &one = sides_[side], &two = sides_[one.across];
      if (!straight_or_left(one.before, two.after) || !straight_or_left(two.before, one.after)) continue;
      sides_[one.before].after = two.after, sides_[two.after].before = one.before;
      sides_[two.before].after = one.after, sides_[one.after].before = two.before;
      one.in_use = two.in_use = false;
    }
  }

  const Triangulation& triangulation_;
  std::vector<Side> sides_;
};

}  // namespace

ConvexMesh::ConvexMesh(const Triangulation& triangulation) {
  merge(triangulation);
  find_bends();
  find_components();
  make_index();
}

void ConvexMesh::merge(const Triangulation& triangulation) {
  const Rings rings(triangulation);
  const auto& from = rings.sides();
  std::vector<std::uint32_t> number(from.size(), none), corner(triangulation.points().size(), none), was;
  for (std::uint32_t side = 0; side < from.size(); ++side) {
    if (!from[side].in_use || number[side] != none) continue;
    Polygon polygon{static_cast<std::uint32_t>(sides_.size()), 0, none, 0};
    for (std::uint32_t at = side; number[at] == none; at = from[at].after) {
      number[at] = static_cast<std::uint32_t>(sides_.size());
      const PlanPoint point = triangulation.points()[from[at].corner];
      if (corner[from[at].corner] == none) {
        corner[from[at].corner] = static_cast<std::uint32_t>(corners_.size());
        corners_.push_back({dvec2(point.x, point.y)});
      }
      sides_.push_back({corner[from[at].corner], static_cast<std::uint32_t>(polygons_.size())});
      was.push_back(at);
      ++polygon.count;
    }
    polygons_.push_back(polygon);
    area_ += area(static_cast<std::uint32_t>(polygons_.size() - 1));
  }
  for (std::uint32_t side = 0; side < sides_.size(); ++side)
    if (const std::uint32_t across = from[was[side]].across; across != none) {
      sides_[side].across = number[across];
      ++polygons_[sides_[side].polygon].ways;
    }
}

/// Follows the edge of the ground from each of its sides to the next: where it turns right, or back, the
/// ground is dented.
void ConvexMesh::find_bends() {
  for (std::uint32_t side = 0; side < sides_.size(); ++side) {
    if (sides_[side].across != none) continue;
    std::uint32_t out = after(side);
    while (sides_[out].across != none) out = after(sides_[out].across);
    const dvec2 along = end_of(side) - start_of(side), on = end_of(out) - start_of(out);
    const double turned = cross(along, on);
    if (turned < 0 || (turned == 0 && glm::dot(along, on) < 0)) corners_[sides_[out].corner].bend = true;
  }
}

void ConvexMesh::find_components() {
  std::vector<std::uint32_t> open;
  std::uint32_t count = 0;
  for (std::uint32_t polygon = 0; polygon < polygons_.size(); ++polygon) {
    if (polygons_[polygon].component != none) continue;
    polygons_[polygon].component = count;
    open.push_back(polygon);
    while (!open.empty()) {
      const std::uint32_t at = open.back();
      open.pop_back();
      for (const Side& side : sides_of(at)) {
        if (side.across == none) continue;
        Polygon& beyond = polygons_[sides_[side.across].polygon];
        if (beyond.component == count) continue;
        beyond.component = count;
        open.push_back(sides_[side.across].polygon);
      }
    }
    ++count;
  }
}

// --- Where things are --------------------------------------------------------------------------

void ConvexMesh::make_index() {
  if (polygons_.empty()) return;
  low_ = high_ = corners_[0].at;
  for (const Corner& corner : corners_) low_ = glm::min(low_, corner.at), high_ = glm::max(high_, corner.at);
  const dvec2 size = high_ - low_;
  // About as many cells as polygons, and not too many for long and narrow grounds.
  cell_ = std::max({1.0, std::sqrt(size.x * size.y / static_cast<double>(polygons_.size())),
                    std::max(size.x, size.y) / 4096});
  across_ = static_cast<int>(size.x / cell_) + 1, up_ = static_cast<int>(size.y / cell_) + 1;
  first_in_.assign(static_cast<std::size_t>(across_) * static_cast<std::size_t>(up_) + 1, 0);
  const auto each = [&](auto&& visit) {
    for (std::uint32_t polygon = 0; polygon < polygons_.size(); ++polygon) {
      dvec2 least = high_, most = low_;
      for (const Side& side : sides_of(polygon))
        least = glm::min(least, corners_[side.corner].at), most = glm::max(most, corners_[side.corner].at);
      const auto [x0, y0] = cell_at(least);
      const auto [x1, y1] = cell_at(most);
      for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x)
          visit(static_cast<std::size_t>(y) * static_cast<std::size_t>(across_) + static_cast<std::size_t>(x),
                polygon);
    }
  };
  each([&](std::size_t cell, std::uint32_t) { ++first_in_[cell + 1]; });
  std::partial_sum(first_in_.begin(), first_in_.end(), first_in_.begin());
  listed_.resize(first_in_.back());
  std::vector<std::uint32_t> next(first_in_.begin(), first_in_.end() - 1);
  each([&](std::size_t cell, std::uint32_t polygon) { listed_[next[cell]++] = polygon; });
}

/// The cell of the index that a point lies in; the nearest one outside of it.
ConvexMesh::CellPlace ConvexMesh::cell_at(dvec2 point) const {
  const dvec2 place = glm::clamp((point - low_) / cell_, dvec2(0.0), dvec2(across_ - 1, up_ - 1));
  return {static_cast<int>(place.x), static_cast<int>(place.y)};
}

double ConvexMesh::area(std::uint32_t polygon) const {
  const auto sides = sides_of(polygon);
  const dvec2 first = corners_[sides[0].corner].at;
  double twice = 0;
  for (std::size_t i = 2; i < sides.size(); ++i)
    twice += cross(corners_[sides[i - 1].corner].at - first, corners_[sides[i].corner].at - first);
  return twice / 2;
}

bool ConvexMesh::holds(std::uint32_t polygon, dvec2 point) const {
  const auto sides = sides_of(polygon);
  for (std::size_t i = 0; i < sides.size(); ++i) {
    const dvec2 a = corners_[sides[i].corner].at, b = corners_[sides[(i + 1) % sides.size()].corner].at;
    if (cross(b - a, point - a) < 0) return false;
  }
  return true;
}

std::optional<std::uint32_t> ConvexMesh::at(dvec2 point) const {
  if (polygons_.empty() || point != glm::clamp(point, low_, high_)) return {};
  const auto [x, y] = cell_at(point);
  for (const std::uint32_t polygon : in_cell(x, y))
    if (holds(polygon, point)) return polygon;
  return {};
}

dvec2 ConvexMesh::nearest_in(std::uint32_t polygon, dvec2 point) const {
  if (holds(polygon, point)) return point;
  const auto sides = sides_of(polygon);
  dvec2 nearest = corners_[sides[0].corner].at;
  for (std::size_t i = 0; i < sides.size(); ++i) {
    const dvec2 on =
        nearest_on(corners_[sides[i].corner].at, corners_[sides[(i + 1) % sides.size()].corner].at, point);
    if (glm::distance(on, point) < glm::distance(nearest, point)) nearest = on;
  }
  return nearest;
}

ConvexMesh::Nearest ConvexMesh::nearest(dvec2 point, std::uint32_t component) const {
  Nearest best;
  if (polygons_.empty()) return best;
  double off = std::numeric_limits<double>::infinity();
  const auto look_at = [&](std::uint32_t polygon) {
    if (component != none && polygons_[polygon].component != component) return;
    const dvec2 here = nearest_in(polygon, point);
    const double distance = glm::distance(here, point);
    if (distance < off || (distance == off && polygon < best.polygon)) best = {polygon, here}, off = distance;
  };
  const auto [x, y] = cell_at(point);
  // In rings of cells around the point, until no cell further out can hold anything nearer.
  const double outside = glm::distance(point, glm::clamp(point, low_, high_));
  for (int ring = 0; ring <= std::max(across_, up_); ++ring) {
    if (off <= std::max(outside, (ring - 1) * cell_)) break;
    for (int j = std::max(0, y - ring); j <= std::min(up_ - 1, y + ring); ++j)
      for (int i = std::max(0, x - ring); i <= std::min(across_ - 1, x + ring); ++i) {
        if (std::max(std::abs(i - x), std::abs(j - y)) != ring) continue;
        for (const std::uint32_t polygon : in_cell(i, j)) look_at(polygon);
      }
  }
  return best;
}

}  // namespace ambulon
