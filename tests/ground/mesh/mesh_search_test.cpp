#include "ground/mesh/mesh_search.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/triangulation.hpp"
#include "random_yard.hpp"

namespace ambulon {
namespace {

/// Returns true if a straight line stays on the mesh: the midpoints between its intersections with edges are
/// inside.
bool clear(const ConvexMesh& mesh, dvec2 from, dvec2 to) {
  std::vector<double> parts = {0, 1};
  for (const ConvexMesh::Polygon& polygon : mesh.polygons())
    for (std::uint32_t side = polygon.first; side < polygon.first + polygon.count; ++side) {
      if (mesh.sides()[side].across != ConvexMesh::none) continue;
      const dvec2 a = mesh.start_of(side), along = mesh.end_of(side) - a, way = to - from;
      if (const double slope = cross(way, along); slope != 0) parts.push_back(cross(a - from, along) / slope);
      parts.push_back(glm::dot(a - from, way) / glm::dot(way, way));
    }
  std::erase_if(parts, [](double part) { return !(part >= 0 && part <= 1); });
  std::ranges::sort(parts);
  for (std::size_t i = 1; i < parts.size(); ++i) {
    const dvec2 middle = glm::mix(from, to, (parts[i - 1] + parts[i]) / 2);
    if ((parts[i] - parts[i - 1]) * glm::distance(from, to) > 1e-3 &&
        glm::distance(mesh.nearest(middle).point, middle) > 1e-3)
      return false;
  }
  return true;
}

/// A line over a mesh, from edge to edge.
struct Line {
  dvec2 from, to;
  bool crossed_by(dvec2 a, dvec2 b) const {
    const auto side = [](dvec2 start, dvec2 end, dvec2 at) {
      return cross(glm::normalize(end - start), at - start);
    };
    return a != b && side(from, to, a) * side(from, to, b) < 0 && side(a, b, from) * side(a, b, to) < 0;
  }
  bool holds(dvec2 at) const { return glm::distance(nearest_on(from, to, at), at) < 1; }
};

/// The line through a place in a direction, slightly extended.
Line line_through(const ConvexMesh& mesh, dvec2 place) {
  const double angle = 0.01 * number(0, 628), reach = 1e6;
  const dvec2 along(std::cos(angle), std::sin(angle));
  double ahead = reach, behind = reach;
  for (const ConvexMesh::Polygon& polygon : mesh.polygons())
    for (std::uint32_t side = polygon.first; side < polygon.first + polygon.count; ++side) {
      if (mesh.sides()[side].across != ConvexMesh::none) continue;
      const dvec2 a = mesh.start_of(side), edge = mesh.end_of(side) - a;
      const double slope = cross(along, edge);
      if (slope == 0 || std::abs(cross(a - place, along) / slope - 0.5) > 0.5) continue;
      const double off = cross(a - place, edge) / slope;
      (off >= 0 ? ahead : behind) = std::min(off >= 0 ? ahead : behind, std::abs(off));
    }
  return {place - (behind + 1) * along, place + (ahead + 1) * along};
}

/// The length of the shortest path between two points over the visibility graph of all corners, without
/// crossing a line; infinite if there is none.
double over_all_corners(const ConvexMesh& mesh, dvec2 from, dvec2 to, const Line* line = nullptr) {
  std::vector<dvec2> points = {from, to};
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon)
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon)) points.push_back(side.start);
  const auto before = [](dvec2 a, dvec2 b) { return a.x != b.x ? a.x < b.x : a.y < b.y; };
  std::sort(points.begin() + 2, points.end(), before);
  points.erase(std::unique(points.begin() + 2, points.end()), points.end());
  // A corner at an end of the line exists twice, once on each side.
  for (std::size_t i = 2, count = points.size(); line != nullptr && i < count; ++i)
    if (line->holds(points[i])) {
      const dvec2 along = glm::normalize(line->to - line->from), aside = 2.0 * dvec2(-along.y, along.x);
      points.push_back(points[i] - aside);
      points[i] += aside;
    }
  std::vector<double> length(points.size(), std::numeric_limits<double>::infinity());
  std::vector<bool> done(points.size());
  length[0] = 0;
  while (true) {
    std::size_t next = points.size();
    for (std::size_t i = 0; i < points.size(); ++i)
      if (!done[i] && (next == points.size() || length[i] < length[next])) next = i;
    if (next == points.size() || next == 1 || !std::isfinite(length[next])) return length[1];
    done[next] = true;
    for (std::size_t i = 0; i < points.size(); ++i)
      if (const double through = length[next] + glm::distance(points[next], points[i]);
          through < length[i] - 1e-9 && !(line != nullptr && line->crossed_by(points[next], points[i])) &&
          clear(mesh, points[next], points[i]))
        length[i] = through;
  }
}

RC_GTEST_PROP(MeshSearch, WaysAreTheShortestOfAll, ()) {
  const std::vector<Outline> outlines = yard();
  const ConvexMesh mesh = *rc::gen::arbitrary<bool>() ? ConvexMesh(*Triangulation::make(outlines))
                                                      : in_patches(outlines, outlines[0][2].x);
  MeshSearch search;
  for (int i = 0; i < 3; ++i) {
    const MeshSearch::Place from = somewhere(mesh), to = somewhere(mesh);
    const double shortest = over_all_corners(mesh, from.at, to.at);
    RC_ASSERT(search.find(mesh, from, to) == std::isfinite(shortest));
    if (!std::isfinite(shortest)) continue;
    RC_ASSERT(std::abs(search.length() - shortest) < 1e-3);
    double length = 0;
    const auto path = search.path();
    RC_ASSERT(path.front().at == from.at);
    RC_ASSERT(path.back().at == to.at);
    for (std::size_t k = 1; k < path.size(); ++k) {
      length += glm::distance(path[k - 1].at, path[k].at);
      RC_ASSERT(path[k - 1] == path[k] || clear(mesh, path[k - 1].at, path[k].at));
    }
    RC_ASSERT(std::abs(search.length() - length) < 1e-6);
  }
}

RC_GTEST_PROP(MeshSearch, WaysRoundALineAreTheShortestOfThoseThatDoNotCrossIt, ()) {
  const std::vector<Outline> outlines = yard();
  const ConvexMesh mesh = *rc::gen::arbitrary<bool>() ? ConvexMesh(*Triangulation::make(outlines))
                                                      : in_patches(outlines, outlines[0][2].x);
  const Line line = line_through(mesh, inside_of_one(mesh).at);
  const auto passes = [&](const ConvexMesh::Corner& corner) {  // it closely, and goes on
    return line.holds(corner.at) &&
           std::min(glm::distance(corner.at, line.from), glm::distance(corner.at, line.to)) > 3;
  };
  if (std::ranges::any_of(mesh.corners(), passes)) return;
  ClosedLine closed;
  closed.lay(mesh, line.from, line.to, 0, 0);
  MeshSearch search;
  for (int i = 0; i < 3; ++i) {
    const MeshSearch::Place from = somewhere(mesh), to = somewhere(mesh);
    if (line.holds(from.at) || line.holds(to.at)) continue;
    const double shortest = over_all_corners(mesh, from.at, to.at, &line);
    const double infinite = std::numeric_limits<double>::infinity();
    RC_ASSERT(search.find_round(mesh, from, to, {}, closed, infinite) == std::isfinite(shortest));
    if (!std::isfinite(shortest)) continue;
    RC_ASSERT(std::abs(search.length() - shortest) < 15);  // millimetres, as corners are moved
    const auto path = search.path();
    for (std::size_t k = 1; k < path.size(); ++k) {
      const bool at_its_end = line.holds(path[k - 1].at) || line.holds(path[k].at);
      RC_ASSERT(at_its_end || !line.crossed_by(path[k - 1].at, path[k].at));
      RC_ASSERT(path[k - 1] == path[k] || clear(mesh, path[k - 1].at, path[k].at));
    }
    RC_ASSERT(search.find_round(mesh, from, to, {}, closed, search.length() + 0.1));
    RC_ASSERT(!search.find_round(mesh, from, to, {}, closed, shortest - 20));
  }
}

RC_GTEST_PROP(MeshSearch, WaysToManyAreTheSameAsOneByOne, ()) {
  const std::vector<Outline> outlines = yard();
  const ConvexMesh mesh = in_patches(outlines, outlines[0][2].x);
  MeshSearch together, alone;
  const MeshSearch::Place from = somewhere(mesh);
  std::vector<MeshSearch::Place> ends = {from};
  for (int i = number(0, 40); i > 0; --i) ends.push_back(somewhere(mesh));
  together.find_all(mesh, from, ends);
  for (std::size_t i = 0; i < ends.size(); ++i) {
    const bool found = alone.find(mesh, from, ends[i]);
    RC_ASSERT(together.way_to(i) == found);
    if (!found) continue;
    RC_ASSERT(std::abs(together.length() - alone.length()) < 1e-6);
    const auto path = together.path();
    RC_ASSERT(path.front().at == from.at && path.back().at == ends[i].at);
    double length = 0;
    for (std::size_t k = 1; k < path.size(); ++k) {
      length += glm::distance(path[k - 1].at, path[k].at);
      RC_ASSERT(path[k - 1] == path[k] || clear(mesh, path[k - 1].at, path[k].at));
    }
    RC_ASSERT(std::abs(together.length() - length) < 1e-6);
  }
}

RC_GTEST_PROP(MeshSearch, DoesNotDependOnHowItIsSliced, ()) {
  const ConvexMesh mesh(*Triangulation::make(yard()));
  const MeshSearch::Place from = somewhere(mesh), to = somewhere(mesh);
  MeshSearch whole, sliced;
  const bool found = whole.find(mesh, from, to);
  sliced.begin(mesh, from, to);
  auto state = sliced.go_on(0);
  for (int i = 0; i < 10'000 && state == MeshSearch::State::searching; ++i) state = sliced.go_on(1);
  RC_ASSERT((state == MeshSearch::State::found) == found);
  RC_ASSERT(sliced.length() == whole.length());
  RC_ASSERT(sliced.expanded() == whole.expanded());
  RC_ASSERT(std::ranges::equal(sliced.path(), whole.path()));
}

}  // namespace
}  // namespace ambulon
