#include "ambulon/ground/mesh/floor_surface.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ambulon {
namespace {

constexpr double rounding = 1.5;  // millimetres beyond its sides that a facet is taken for
constexpr int most_bins = 32;     // to a side
constexpr double each_bin = 2;    // facets, about

/// Millimetres from a point to the facet, seen from above; 0 inside.
double off(const FloorSurface::Facet& facet, dvec2 at) {
  const auto corner = [&](std::size_t i) { return dvec2(facet.corners[i % 3].x, facet.corners[i % 3].y); };
  double off = 0;
  for (std::size_t i = 0; i < 3; ++i)
    if (cross(corner(i + 1) - corner(i), at - corner(i)) < 0) {
      off = std::numeric_limits<double>::infinity();
      break;
    }
  for (std::size_t i = 0; off > 0 && i < 3; ++i)
    off = std::min(off, glm::distance(nearest_on(corner(i), corner(i + 1), at), at));
  return off;
}

std::pair<PlanPoint, PlanPoint> box(const FloorSurface::Facet& facet) {
  const auto [x0, x1] = std::minmax({facet.corners[0].x, facet.corners[1].x, facet.corners[2].x});
  const auto [y0, y1] = std::minmax({facet.corners[0].y, facet.corners[1].y, facet.corners[2].y});
  return {{x0, y0}, {x1, y1}};
}

}  // namespace

double height_at(const FloorSurface::Facet& facet, dvec2 at) {
  const dvec2 a(facet.corners[0].x, facet.corners[0].y), b(facet.corners[1].x, facet.corners[1].y),
      c(facet.corners[2].x, facet.corners[2].y);
  const double whole = cross(b - a, c - a);
  const double of_b = cross(at - a, c - a) / whole, of_c = cross(b - a, at - a) / whole;
  return facet.heights[0] + of_b * (facet.heights[1] - facet.heights[0]) +
         of_c * (facet.heights[2] - facet.heights[0]);
}

FloorSurface::FloorSurface(const Square& square, std::vector<Facet> facets)
    : square_(square), facets_(std::move(facets)) {
  bins_ =
      std::clamp(static_cast<int>(std::sqrt(static_cast<double>(facets_.size()) / each_bin)), 1, most_bins);
  std::vector<std::pair<std::uint32_t, std::uint32_t>> placed;  // bin and facet
  for (std::uint32_t facet = 0; facet < facets_.size(); ++facet) {
    const auto [low, high] = box(facets_[facet]);
    for (int y = bin(low.y - rounding - square_.low.y); y <= bin(high.y + rounding - square_.low.y); ++y)
      for (int x = bin(low.x - rounding - square_.low.x); x <= bin(high.x + rounding - square_.low.x); ++x)
        placed.emplace_back(static_cast<std::uint32_t>(y * bins_ + x), facet);
  }
  std::ranges::sort(placed);
  first_.assign(static_cast<std::size_t>(bins_) * static_cast<std::size_t>(bins_) + 1, 0);
  for (const auto& [in, facet] : placed) {
    ++first_[in + 1];
    in_bins_.push_back(facet);
  }
  for (std::size_t i = 1; i < first_.size(); ++i) first_[i] += first_[i - 1];
}

/// The row or column that a coordinate from the south-western corner lies in, or is nearest to.
int FloorSurface::bin(double off) const {
  return static_cast<int>(std::clamp(off / square_.size * bins_, 0.0, bins_ - 1.0));
}

double FloorSurface::height(dvec2 at) const {
  const int in = bin(at.y - square_.low.y) * bins_ + bin(at.x - square_.low.x);
  double highest = -std::numeric_limits<double>::infinity(),
         nearest = std::numeric_limits<double>::infinity(), beside = 0;
  const auto look_at = [&](const Facet& facet) {
    const double here = off(facet, at);
    if (here <= rounding)
      highest = std::max(highest, height_at(facet, at));
    else if (here < nearest)
      nearest = here, beside = height_at(facet, at);
  };
  for (std::uint32_t i = first_[static_cast<std::size_t>(in)]; i < first_[static_cast<std::size_t>(in) + 1];
       ++i)
    look_at(facets_[in_bins_[i]]);
  if (std::isfinite(highest)) return highest;
  if (nearest > 100)  // millimetres: others may be nearer
    for (const Facet& facet : facets_) look_at(facet);
  return std::isfinite(highest) ? highest : beside;
}

std::pair<int, int> FloorSurface::range(dvec2 low, dvec2 high) const {
  std::pair range(std::numeric_limits<int>::max(), std::numeric_limits<int>::min());
  for (int y = bin(low.y - square_.low.y); y <= bin(high.y - square_.low.y); ++y)
    for (int x = bin(low.x - square_.low.x); x <= bin(high.x - square_.low.x); ++x) {
      const auto in =
          static_cast<std::size_t>(y) * static_cast<std::size_t>(bins_) + static_cast<std::size_t>(x);
      for (std::uint32_t i = first_[in]; i < first_[in + 1]; ++i) {
        const Facet& facet = facets_[in_bins_[i]];
        const auto [least, most] = box(facet);
        if (least.x > high.x || least.y > high.y || most.x < low.x || most.y < low.y) continue;
        for (const int height : facet.heights)
          range = {std::min(range.first, height), std::max(range.second, height)};
      }
    }
  return range;
}

}  // namespace ambulon
