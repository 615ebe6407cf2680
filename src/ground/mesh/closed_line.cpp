#include "ground/mesh/closed_line.hpp"

#include <algorithm>
#include <cmath>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {
namespace {

constexpr double on_it = 1;       // millimetres from the line that count as on it
constexpr double shortest = 0.1;  // millimetres: shorter intersections do not divide a polygon

/// The part of the line inside a polygon, in millimetres from its start; empty if first >= last.
struct Part {
  double first, last;
};
Part part_in(const ConvexMesh& mesh, std::uint32_t polygon, dvec2 from, dvec2 along, double length) {
  Part part{0, length};
  const ConvexMesh::Polygon& around = mesh.polygons()[polygon];
  for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
    const dvec2 a = mesh.start_of(side), edge = glm::normalize(mesh.end_of(side) - a);
    const double inside = cross(edge, from - a), slope = cross(edge, along);
    if (std::abs(slope) < 1e-12) {
      if (inside < -1e-6) part.last = -1;
    } else if (slope > 0) {
      part.first = std::max(part.first, -inside / slope);
    } else {
      part.last = std::min(part.last, inside / -slope);
    }
  }
  return part;
}

}  // namespace

void ClosedLine::lay(const ConvexMesh& mesh, dvec2 from, dvec2 to, double height, double off) {
  from_ = from, to_ = to;
  polygons_.clear(), corners_.clear();
  const double length = glm::distance(from, to);
  if (length < on_it) return;
  along_ = (to - from) / length;
  mesh.each_near(glm::min(from, to) - on_it, glm::max(from, to) + on_it, [&](std::uint32_t polygon) {
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon))
      if (touches(side.start)) corners_.push_back(side.corner);
    const Part part = part_in(mesh, polygon, from, along_, length);
    // The polygon at an end lies beyond the edge, where another part of the ground touches it.
    if (part.last - part.first < shortest || part.first <= 0 || part.last >= length) return;
    const dvec2 middle = from + 0.5 * (part.first + part.last) * along_;
    if (std::abs(mesh.height(polygon, middle) - height) <= off) polygons_.push_back(polygon);
  });
  std::ranges::sort(polygons_);
}

bool ClosedLine::touches(dvec2 at) const { return glm::distance(nearest_on(from_, to_, at), at) < on_it; }

bool ClosedLine::divides(std::uint32_t polygon) const {
  return std::ranges::binary_search(polygons_, polygon);
}

}  // namespace ambulon
