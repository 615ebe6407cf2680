// Finds where a floor ends.

#include <algorithm>
#include <tuple>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"
#include "region.hpp"
#include "rings.hpp"

namespace ambulon {
namespace {

using Facet = FloorSurface::Facet;

/// A set of intervals of a line, as fractions.
class Stretches {
 public:
  void add(double from, double to) {
    if (to > from) stretches_.emplace_back(from, to);
  }
  /// Calls `visit(from, to)` for the gaps in 0 to 1.
  template <class Visit>
  void each_gap(Visit&& visit) {
    std::ranges::sort(stretches_);
    double at = 0;
    for (const auto& [from, to] : stretches_) {
      if (from > at) visit(at, from);
      at = std::max(at, to);
    }
    if (at < 1) visit(at, 1.0);
  }

 private:
  std::vector<std::pair<double, double>> stretches_;
};

/// Returns the interval of the line from `a` to `b`, as fractions, that lies over a facet grown by `beyond`
/// millimetres, and between two heights below its plane. Empty if the first is greater.
std::pair<double, double> over(const SpacePoint& a, const SpacePoint& b, const Facet& facet, double beyond,
                               double low, double high) {
  double from = 0, to = 1;
  const auto limit = [&](double of_a, double of_b) {  // where a linear function is >= 0
    if (of_a < 0 && of_b < 0) to = -1;
    if (of_a < 0 && of_b >= 0) from = std::max(from, of_a / (of_a - of_b));
    if (of_a >= 0 && of_b < 0) to = std::min(to, of_a / (of_a - of_b));
  };
  for (std::size_t i = 0; i < 3; ++i) {
    const Line line = side_of(facet, i);
    limit(line.inside(a.at) + beyond, line.inside(b.at) + beyond);
  }
  const auto [min, max] = box_of(facet);  // the corners of a grown acute triangle lie far out
  for (const int axis : {0, 1}) {
    const double first = to_vec(min)[axis] - beyond, last = to_vec(max)[axis] + beyond;
    limit(a.at[axis] - first, b.at[axis] - first);
    limit(last - a.at[axis], last - b.at[axis]);
  }
  const double above_a = height_at(facet, a.at) - a.height, above_b = height_at(facet, b.at) - b.height;
  limit(above_a - low, above_b - low);
  limit(high - above_a, high - above_b);
  return {from, to};
}

/// A side of a piece's facet, from that corner on.
struct Side {
  PlanPoint from, to;
  std::uint32_t piece, corner;
  bool back() const { return to < from; }
};

/// Calls `visit(sides)` for each group of sides of a floor between the same points.
template <class Visit>
void each_between_same(const Region& region, std::span<const std::uint32_t> floor, Visit&& visit) {
  std::vector<Side> sides;
  for (const std::uint32_t i : floor)
    for (std::uint32_t corner = 0; corner < 3; ++corner) {
      const auto& corners = region.pieces[i].facet.corners;
      sides.push_back({corners[corner], corners[(corner + 1) % 3], i, corner});
    }
  std::ranges::sort(sides, {}, [](const Side& side) {
    return std::tuple(std::minmax(side.from, side.to), side.piece, side.corner);
  });
  for (std::size_t i = 0, end = 0; i < sides.size(); i = end) {
    const auto ends = std::minmax(sides[i].from, sides[i].to);
    while (end < sides.size() && std::minmax(sides[end].from, sides[end].to) == ends) ++end;
    visit(std::span<const Side>(sides).subspan(i, end - i));
  }
}

/// Returns the height of the floor at both ends of a side.
std::pair<int, int> heights(const Region& region, const Side& side) {
  const auto& heights = region.pieces[side.piece].facet.heights;
  return {heights[side.corner], heights[(side.corner + 1) % 3]};
}

/// The usual case: another facet with the same side can be stepped onto.
bool goes_on(const Region& region, const Side& side, std::span<const Side> same) {
  const auto [from, to] = heights(region, side);
  return std::ranges::any_of(same, [&](const Side& other) {
    const auto [other_to, other_from] = heights(region, other);
    return other.from == side.to && other.to == side.from && std::abs(other_from - from) <= region.step &&
           std::abs(other_to - to) <= region.step;
  });
}

/// Adds the area that is too close to the parts of a side where the floor ends. Returns true if the floor
/// continues beyond a slit.
///
/// The side and all other facets are grown by half of the maximum slit. The floor continues where the grown
/// side lies over a grown facet, so slits of all widths are handled alike. A facet that ends within 1 mm
/// beyond the side does not count, since both may end there.
bool add_ledge(const Region& region, const Side& side, Outlines& blocked) {
  const auto [from_height, to_height] = heights(region, side);
  const Line line = side_of(region.pieces[side.piece].facet, side.corner);
  ConvexPart way = {{to_vec(side.from), static_cast<double>(from_height)},
                    {to_vec(side.to), static_cast<double>(to_height)}};
  keep_in_box(way, region.low, region.high);
  if (way.empty()) return false;
  const dvec2 along(line.inward.y, -line.inward.x);
  const auto [first, last] = std::ranges::minmax_element(
      way, {}, [&](const SpacePoint& point) { return glm::dot(point.at, along); });
  const SpacePoint a = *first, b = *last;
  const double length = glm::distance(a.at, b.at), grown_by = 0.5 * region.slit;
  if (length < survey_mm) return false;
  Stretches covered, touched;
  const auto beside = [&](const SpacePoint& end, double aside) {
    return SpacePoint{end.at - aside * line.inward, end.height};
  };
  region.places->each_near(box_of({a, b}), region.slit, [&](std::uint32_t j) {
    if (j == side.piece || !region.same_floor(j, side.piece)) return;
    const Facet& other = region.pieces[j].facet;
    const auto add = [&](Stretches& stretches, double aside, double beyond, double low, double high) {
      const auto [from, to] = over(beside(a, aside), beside(b, aside), other, beyond, low, high);
      stretches.add(from, to);
    };
    add(covered, grown_by + 1, grown_by, -region.step, region.step);
    add(touched, tolerance::touching_mm, 0, -region.step, region.step);
    add(covered, 0, 0.5, 1, region.tall),
        add(touched, 0, tolerance::touching_mm, 1, region.tall);  // that one is walked on there
  });
  covered.each_gap([&](double from, double to) {
    if ((to - from) * length < 1e-3) return;
    from = std::max(0.0, from - grown_by / length), to = std::min(1.0, to + grown_by / length);
    touched.add(from, to);
    if ((to - from) * length < survey_mm) return;
    const SpacePoint ends[] = {{a.at + from * (b.at - a.at)}, {a.at + to * (b.at - a.at)}};
    blocked.push_back(grown(ends, region.radius));
  });
  bool slit = false;  // it neither ends nor touches its continuation
  touched.each_gap([&](double from, double to) { slit = slit || (to - from) * length > 0.5; });
  return slit;
}

}  // namespace

Outlines outline_of(const Region& region, std::span<const std::uint32_t> floor) {
  // Two opposite sides between the same points cancel out.
  std::vector<std::pair<PlanPoint, PlanPoint>> left;
  each_between_same(region, floor, [&](std::span<const Side> same) {
    const auto back = std::ranges::count_if(same, &Side::back),
               forth = static_cast<std::ptrdiff_t>(same.size()) - back;
    const auto [low, high] = std::minmax(same[0].from, same[0].to);
    for (auto n = back; n < forth; ++n) left.emplace_back(low, high);
    for (auto n = forth; n < back; ++n) left.emplace_back(high, low);
  });
  return rings_of(std::move(left));
}

bool add_ledges(const Region& region, std::span<const std::uint32_t> floor, Outlines& blocked) {
  bool slits = false;
  each_between_same(region, floor, [&](std::span<const Side> same) {
    for (const Side& side : same)
      if (!goes_on(region, side, same)) slits = add_ledge(region, side, blocked) || slits;
  });
  return slits;
}

}  // namespace ambulon
