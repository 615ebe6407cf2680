#include "ground/mesh/floor_surface.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr int max_bins = 32;    // per row
constexpr double each_bin = 2;  // facets per bin, approximately

/// Returns the distance in millimetres from a point to a facet on the plan; 0 inside.
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

}  // namespace

std::pair<PlanPoint, PlanPoint> box_of(const FloorSurface::Facet& facet) {
  const auto [x0, x1] = std::minmax({facet.corners[0].x, facet.corners[1].x, facet.corners[2].x});
  const auto [y0, y1] = std::minmax({facet.corners[0].y, facet.corners[1].y, facet.corners[2].y});
  return {{x0, y0}, {x1, y1}};
}

double height_at(const FloorSurface::Facet& facet, dvec2 at) {
  const dvec2 a = to_vec(facet.corners[0]), b = to_vec(facet.corners[1]), c = to_vec(facet.corners[2]);
  const double whole = cross(b - a, c - a);
  // Heights are rounded, so the plane of a narrow triangle is unreliable. Its longest side is used instead.
  const std::array<dvec2, 3> ways = {b - a, c - b, a - c};
  std::size_t longest = glm::dot(ways[1], ways[1]) > glm::dot(ways[0], ways[0]) ? 1 : 0;
  if (glm::dot(ways[2], ways[2]) > glm::dot(ways[longest], ways[longest])) longest = 2;
  const double square = glm::dot(ways[longest], ways[longest]);
  if (whole * whole < tolerance::plane_mm * tolerance::plane_mm * square) {
    const double part = glm::dot(at - to_vec(facet.corners[longest]), ways[longest]) / square;
    return facet.heights[longest] + part * (facet.heights[(longest + 1) % 3] - facet.heights[longest]);
  }
  const double of_b = cross(at - a, c - a) / whole, of_c = cross(b - a, at - a) / whole;
  return facet.heights[0] + of_b * (facet.heights[1] - facet.heights[0]) +
         of_c * (facet.heights[2] - facet.heights[0]);
}

FloorSurface::FloorSurface(const Square& square, std::vector<Facet> facets)
    : square_(square), facets_(std::move(facets)) {
  across_ =
      std::clamp(static_cast<int>(std::sqrt(static_cast<double>(facets_.size()) / each_bin)), 1, max_bins);
  std::vector<std::pair<std::uint32_t, std::uint32_t>> placed;
  for (std::uint32_t facet = 0; facet < facets_.size(); ++facet) {
    const auto [low, high] = box_of(facets_[facet]);
    for (int row = place(low.y - tolerance::beside_facet_mm - square_.low.y);
         row <= place(high.y + tolerance::beside_facet_mm - square_.low.y); ++row)
      for (int column = place(low.x - tolerance::beside_facet_mm - square_.low.x);
           column <= place(high.x + tolerance::beside_facet_mm - square_.low.x); ++column)
        placed.emplace_back(bin(column, row), facet);
  }
  bins_ = Bins(static_cast<std::size_t>(across_) * static_cast<std::size_t>(across_), std::move(placed));
}

/// Returns the row or column of bins of a coordinate, clamped.
int FloorSurface::place(double off) const {
  return static_cast<int>(std::clamp(off / square_.size * across_, 0.0, across_ - 1.0));
}

double FloorSurface::height(dvec2 at) const {
  double highest = -std::numeric_limits<double>::infinity(),
         nearest = std::numeric_limits<double>::infinity(), beside = 0;
  const auto look_at = [&](const Facet& facet) {
    const double here = off(facet, at);
    if (here <= tolerance::beside_facet_mm)
      highest = std::max(highest, height_at(facet, at));
    else if (here < nearest)
      nearest = here, beside = height_at(facet, at);
  };
  const dvec2 inside = at - to_vec(square_.low);
  for (const std::uint32_t facet : bins_.in(bin(place(inside.x), place(inside.y)))) look_at(facets_[facet]);
  if (std::isfinite(highest)) return highest;
  if (nearest > 100)  // millimetres: others may be nearer
    for (const Facet& facet : facets_) look_at(facet);
  return std::isfinite(highest) ? highest : beside;
}

std::pair<int, int> FloorSurface::range(dvec2 low, dvec2 high) const {
  std::pair range(std::numeric_limits<int>::max(), std::numeric_limits<int>::min());
  const dvec2 from = low - to_vec(square_.low), to = high - to_vec(square_.low);
  for (int row = place(from.y); row <= place(to.y); ++row)
    for (int column = place(from.x); column <= place(to.x); ++column)
      for (const std::uint32_t number : bins_.in(bin(column, row))) {
        const Facet& facet = facets_[number];
        const auto [min, max] = box_of(facet);
        if (min.x > high.x || min.y > high.y || max.x < low.x || max.y < low.y) continue;
        for (const int height : facet.heights)
          range = {std::min(range.first, height), std::max(range.second, height)};
      }
  return range;
}

}  // namespace ambulon
