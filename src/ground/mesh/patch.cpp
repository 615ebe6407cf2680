#include "ground/mesh/patch.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

#include "base/geometry.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

using Ring = std::vector<PlanPoint>;

/// Rings of sides that are merged into convex polygons.
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
        if (beyond == Triangulation::none || !inside[beyond] || Triangulation::is_edge(triangles[t].kept[i]))
          continue;
        const auto& back = triangles[beyond].beyond;
        sides_[3 * t + i].across = 3 * beyond + (back[0] == t ? 0U : back[1] == t ? 1U : 2U);
      }
    merge();
  }

  struct Side {
    std::uint32_t corner = 0, after = 0, before = 0, across = none;
    bool in_use = false;
  };
  static constexpr std::uint32_t none = PatchPolygons::none;
  const std::vector<Side>& sides() const { return sides_; }

 private:
  PlanPoint at(std::uint32_t side) const { return triangulation_.points()[sides_[side].corner]; }
  std::int64_t squared_length(std::uint32_t side) const {
    const PlanPoint a = at(side), b = at(sides_[side].after);
    const std::int64_t x = std::int64_t{a.x} - b.x, y = std::int64_t{a.y} - b.y;
    return x * x + y * y;
  }
  /// Returns true if the merged ring would go straight on or turn left from `into` to `out`.
  bool straight_or_left(std::uint32_t into, std::uint32_t out) const {
    const PlanPoint a = at(into), b = at(out), c = at(sides_[out].after);
    const std::int64_t turned = turn(a, b, c);
    const bool back = (std::int64_t{b.x} - a.x) * (std::int64_t{c.x} - b.x) +
                          (std::int64_t{b.y} - a.y) * (std::int64_t{c.y} - b.y) <
                      0;
    return turned > 0 || (turned == 0 && !back);
  }

  /// Longest sides first, which makes polygons round.
  void merge() {
    std::vector<std::pair<std::int64_t, std::uint32_t>> order;
    for (std::uint32_t side = 0; side < sides_.size(); ++side)
      if (sides_[side].in_use && sides_[side].across != none && side < sides_[side].across &&
          triangulation_.triangles()[side / 3].kept[side % 3] == 0)
        order.emplace_back(-squared_length(side), side);
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

/// Returns a / b rounded to the nearest integer, b > 0; halves are rounded up.
std::int64_t rounded(std::int64_t a, std::int64_t b) {
  const std::int64_t twice = 2 * a + b, down = twice / (2 * b);
  return down - (twice % (2 * b) < 0 ? 1 : 0);
}

/// Returns the intersection of a segment with an axis-parallel line; independent of the order of its ends.
PlanPoint crossing(PlanPoint a, PlanPoint b, int PlanPoint::* axis, int PlanPoint::* other, int limit) {
  if (b < a) std::swap(a, b);
  std::int64_t part = std::int64_t{limit} - a.*axis, whole = std::int64_t{b.*axis} - a.*axis;
  if (whole < 0) part = -part, whole = -whole;
  PlanPoint at;
  at.*axis = limit;
  at.*other = static_cast<int>(a.*other + rounded(part * (std::int64_t{b.*other} - a.*other), whole));
  return at;
}

/// Clips a ring at a line into two: I. Sutherland, G. Hodgman, "Reentrant Polygon Clipping" (1974). Sides
/// that run back and forth along the line cancel under the even-odd rule.
void cut(const Ring& ring, int PlanPoint::* axis, int PlanPoint::* other, int limit, Outlines& below,
         Outlines& above) {
  Ring low, high;
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const PlanPoint a = ring[i], b = ring[i + 1 == ring.size() ? 0 : i + 1];
    if (a.*axis <= limit) low.push_back(a);
    if (a.*axis >= limit) high.push_back(a);
    if ((a.*axis < limit && b.*axis > limit) || (a.*axis > limit && b.*axis < limit)) {
      low.push_back(crossing(a, b, axis, other, limit));
      high.push_back(low.back());
    }
  }
  const auto has_area = [&](const Ring& part) {
    return std::ranges::any_of(part, [&](PlanPoint p) { return p.*axis != limit; });
  };
  if (has_area(low)) below.push_back(std::move(low));
  if (has_area(high)) above.push_back(std::move(high));
}

/// Cuts the rows or columns `first` to `last` (excluded) of patches into `part(line)`.
template <class Part>
void cut_lines(Outlines outlines, int PlanPoint::* axis, int PlanPoint::* other, int low, int size, int first,
               int last, Part&& part) {
  if (last - first == 1) {
    part(first, std::move(outlines));
    return;
  }
  const int middle = (first + last) / 2;
  Outlines below, above;
  for (const Ring& ring : outlines) cut(ring, axis, other, low + middle * size, below, above);
  outlines = {};
  cut_lines(std::move(below), axis, other, low, size, first, middle, part);
  cut_lines(std::move(above), axis, other, low, size, middle, last, part);
}

}  // namespace

PatchGrid patches_for(PlanPoint low, PlanPoint high, int size) {
  constexpr int max = 256;  // per row
  const std::int64_t wide = std::int64_t{high.x} - low.x, tall = std::int64_t{high.y} - low.y,
                     min = std::max(wide, tall) / max + 1;
  constexpr std::int64_t parts = 64;  // parts of a patch, per row
  const std::int64_t used = std::max<std::int64_t>(size, (min + parts - 1) / parts * parts);
  return {low, static_cast<int>(used), static_cast<int>(wide / used + 1), static_cast<int>(tall / used + 1)};
}

std::vector<Outlines> cut_into_patches(const Outlines& outlines, const PatchGrid& grid) {
  std::vector<Outlines> patches(grid.count());
  cut_lines(outlines, &PlanPoint::x, &PlanPoint::y, grid.low.x, grid.size, 0, grid.across,
            [&](int column, Outlines in_column) {
              cut_lines(std::move(in_column), &PlanPoint::y, &PlanPoint::x, grid.low.y, grid.size, 0, grid.up,
                        [&](int row, Outlines in_patch) {
                          patches[grid.number(column, row)] = std::move(in_patch);
                        });
            });
  return patches;
}

Outlines cut_to_square(const Outlines& outlines, const Square& square) {
  const PlanPoint low = square.low;
  Outlines kept, rest;
  const auto keep = [&](const Outlines& all, int PlanPoint::* axis, int PlanPoint::* other, int limit,
                        bool above) {
    kept.clear(), rest.clear();
    for (const Ring& ring : all) cut(ring, axis, other, limit, above ? rest : kept, above ? kept : rest);
    return std::move(kept);
  };
  Outlines all = keep(outlines, &PlanPoint::x, &PlanPoint::y, low.x, true);
  all = keep(all, &PlanPoint::x, &PlanPoint::y, low.x + square.size, false);
  all = keep(all, &PlanPoint::y, &PlanPoint::x, low.y, true);
  return keep(all, &PlanPoint::y, &PlanPoint::x, low.y + square.size, false);
}

void PatchPolygons::add(const PatchPolygons& polygons, std::shared_ptr<const FloorSurface> floor_of_them) {
  const auto first_corner = static_cast<std::uint32_t>(corners.size()),
             first_side = static_cast<std::uint32_t>(sides.size());
  corners.insert(corners.end(), polygons.corners.begin(), polygons.corners.end());
  for (const Side& side : polygons.sides)
    sides.push_back({side.corner + first_corner, side.across == none ? none : side.across + first_side});
  if (first.empty()) first.push_back(0);
  for (std::size_t i = 1; i < polygons.first.size(); ++i) {
    first.push_back(polygons.first[i] + first_side);
    floor.push_back(static_cast<std::uint32_t>(floors.size()));
  }
  floors.push_back(std::move(floor_of_them));
  if (cost.empty() && polygons.cost.empty()) return;
  cost.resize(count() - polygons.count(), 1.f);
  cost.insert(cost.end(), polygons.cost.begin(), polygons.cost.end());
  cost.resize(count(), 1.f);
}

PatchPolygons polygons_of(const Triangulation& triangulation, std::span<const float> costs) {
  const Rings rings(triangulation);
  const auto& from = rings.sides();
  PatchPolygons made;
  const std::vector<std::uint8_t> regions =
      costs.empty() ? std::vector<std::uint8_t>() : triangulation.regions();
  std::vector<std::uint32_t> number(from.size(), PatchPolygons::none),
      corner(triangulation.points().size(), PatchPolygons::none), was;
  for (std::uint32_t side = 0; side < from.size(); ++side) {
    if (!from[side].in_use || number[side] != PatchPolygons::none) continue;
    made.first.push_back(static_cast<std::uint32_t>(made.sides.size()));
    if (!costs.empty()) {
      const auto in = static_cast<std::size_t>(std::bit_width(unsigned{regions[side / 3]}));
      made.cost.push_back(in == 0 ? 1.f : costs[in - 1]);
    }
    for (std::uint32_t at = side; number[at] == PatchPolygons::none; at = from[at].after) {
      number[at] = static_cast<std::uint32_t>(made.sides.size());
      std::uint32_t& known = corner[from[at].corner];
      if (known == PatchPolygons::none) {
        known = static_cast<std::uint32_t>(made.corners.size());
        made.corners.push_back(triangulation.points()[from[at].corner]);
      }
      made.sides.push_back({known, PatchPolygons::none});
      was.push_back(at);
    }
  }
  made.first.push_back(static_cast<std::uint32_t>(made.sides.size()));
  for (std::size_t side = 0; side < made.sides.size(); ++side)
    if (const std::uint32_t across = from[was[side]].across; across != PatchPolygons::none)
      made.sides[side].across = number[across];
  return made;
}

}  // namespace ambulon
