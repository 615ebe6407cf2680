#include "ground/mesh/convex_mesh.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/mesh/mesh_assembler.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr double same_place = 1e-6;  // millimetres

}  // namespace

ConvexMesh::ConvexMesh(const Triangulation& triangulation) : ConvexMesh({}, {polygons_of(triangulation)}) {}

ConvexMesh::ConvexMesh(const PatchGrid& grid, std::vector<PatchPolygons> patches)
    : ConvexMesh(
          grid,
          [&] {
            std::vector<std::vector<Square>> squares;
            for (std::uint32_t cell = 0; cell < grid.count(); ++cell) squares.push_back({grid.square(cell)});
            return squares;
          }(),
          std::move(patches), 1) {}

ConvexMesh::ConvexMesh(const PatchGrid& grid, const std::vector<std::vector<Square>>& squares,
                       std::vector<PatchPolygons> patches, double step)
    : grid_(grid), step_(step) {
  for (const auto& in_cell : squares) {
    first_of_cell_.push_back(static_cast<std::uint32_t>(patches_.size()));
    for (const Square& square : in_cell) patches_.emplace_back().square = square;
  }
  first_of_cell_.push_back(static_cast<std::uint32_t>(patches_.size()));
  Assembler(*this).find_neighbours();
  std::vector<Change> all;
  for (std::uint32_t patch = 0; patch < patches_.size(); ++patch)
    all.push_back({patch, std::move(patches[patch])});
  replace(std::move(all));
}

void ConvexMesh::replace(std::vector<Change> changes) { Assembler(*this).replace(std::move(changes)); }

double ConvexMesh::area(std::uint32_t polygon) const {
  const auto sides = sides_of(polygon);
  if (sides.empty()) return 0;
  const dvec2 first = sides[0].start;
  double twice = 0;
  for (std::size_t i = 2; i < sides.size(); ++i)
    twice += cross(sides[i - 1].start - first, sides[i].start - first);
  return twice / 2;
}

double ConvexMesh::area() const {
  double sum = 0;
  for (std::uint32_t polygon = 0; polygon < polygons_.size(); ++polygon) sum += area(polygon);
  return sum;
}

bool ConvexMesh::holds(std::uint32_t polygon, dvec2 point) const {
  const Polygon& around = polygons_[polygon];
  if (point.x < around.low.x || point.y < around.low.y || point.x > around.high.x || point.y > around.high.y)
    return false;
  const auto sides = sides_of(polygon);
  for (std::size_t i = 0; i < sides.size(); ++i) {
    const dvec2 a = sides[i].start, b = sides[i + 1 < sides.size() ? i + 1 : 0].start;
    if (cross(b - a, point - a) < 0) return false;
  }
  return true;
}

std::optional<std::uint32_t> ConvexMesh::at(dvec2 point) const {
  std::uint32_t found = none;
  each_near(point, point, [&](std::uint32_t polygon) {
    if (polygon < found && holds(polygon, point)) found = polygon;
  });
  return found == none ? std::nullopt : std::optional(found);
}

dvec2 ConvexMesh::nearest_in(std::uint32_t polygon, dvec2 point) const {
  if (holds(polygon, point)) return point;
  const auto sides = sides_of(polygon);
  dvec2 nearest = sides[0].start;
  double min = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < sides.size(); ++i) {
    const dvec2 on = nearest_on(sides[i].start, sides[i + 1 < sides.size() ? i + 1 : 0].start, point);
    const double square = glm::dot(on - point, on - point);
    if (square < min) nearest = on, min = square;
  }
  return nearest;
}

ConvexMesh::Exit ConvexMesh::exit_of(std::uint32_t polygon, dvec2 start, dvec2 along, double gone) const {
  Exit exit;
  double off_exit = 0;
  const dvec2 end = start + along;
  const Polygon& around = polygons_[polygon];
  const std::uint32_t last = around.first + around.count - 1;
  dvec2 b = start_of(around.first);
  for (std::uint32_t side = around.first; side <= last; ++side) {
    const dvec2 a = std::exchange(b, start_of(side < last ? side + 1 : around.first)), edge = b - a;
    const double beyond = -cross(edge, end - a);
    if (beyond <= 0) continue;
    exit.inside = false;
    const double slope = cross(edge, along);
    if (slope >= 0) continue;  // it does not lead out there
    const double length = glm::length(edge);
    const bool open = sides_[side].across != none;
    if (!open && beyond <= tolerance::along_edge_mm * length) continue;
    const double part = std::max(gone, -cross(edge, start - a) / slope);
    // The extension of a side may be hit where another side lies on the same line. Of two such sides the
    // nearer one counts.
    const double place = glm::dot(start + part * along - a, edge) / length;
    const double off = std::max({0.0, -place, place - length});
    if (off > tolerance::along_edge_mm) continue;
    const bool same = exit.side != none && std::abs(part - exit.part) < same_place / glm::length(along);
    if (same ? off < off_exit || (off == off_exit && open) : part < exit.part)
      exit.side = side, exit.part = part, off_exit = off;
  }
  return exit;
}

ConvexMesh::Nearest ConvexMesh::nearest(dvec2 point, const Wanted& wanted) const {
  if (wanted.components == nullptr && !wanted.height)
    if (const auto here = at(point)) return {*here, point};
  Nearest best;
  double off = wanted.within;
  const auto distance_to = [&](dvec2 low, dvec2 high) {
    return glm::distance(point, glm::clamp(point, low, high));
  };
  const auto look_at = [&](std::uint32_t number) {
    const Polygon& polygon = polygons_[number];
    if (wanted.components != nullptr && !(*wanted.components)[component(number)]) return;
    if (distance_to(dvec2(polygon.low.x, polygon.low.y), dvec2(polygon.high.x, polygon.high.y)) > off) return;
    const dvec2 here = nearest_in(number, point);
    double distance = glm::distance(here, point);
    if (wanted.height) {
      const double higher = height(number, here) - *wanted.height;
      if (higher > wanted.up || -higher > wanted.down) return;
      if (wanted.in_space) distance = std::hypot(distance, higher);
    }
    if (distance < off || (distance == off && number < best.polygon)) best = {number, here}, off = distance;
  };
  // Visits patches in rings around the point, until no further ring can contain a nearer point.
  const int column = grid_.column_at(point.x), row = grid_.row_at(point.y);
  for (int ring = 0; ring <= std::max(grid_.across, grid_.up); ++ring) {
    bool nearer = false;
    for (int y = std::max(0, row - ring); y <= std::min(grid_.up - 1, row + ring); ++y)
      for (int x = std::max(0, column - ring); x <= std::min(grid_.across - 1, column + ring); ++x) {
        if (std::max(std::abs(x - column), std::abs(y - row)) != ring) continue;
        const dvec2 low(grid_.low.x + static_cast<double>(x) * grid_.size,
                        grid_.low.y + static_cast<double>(y) * grid_.size);
        if (grid_.size > 0 && distance_to(low, low + static_cast<double>(grid_.size)) > off) continue;
        nearer = true;
        const std::uint32_t cell = grid_.number(x, y);
        for (std::uint32_t patch = first_of_cell_[cell]; patch < first_of_cell_[cell + 1]; ++patch)
          for (std::uint32_t i = 0; i < patches_[patch].polygons.count; ++i)
            look_at(patches_[patch].polygons.first + i);
      }
    if (!nearer) break;
  }
  return best;
}

}  // namespace ambulon
