#include "ground/mesh/triangulation.hpp"

#include <cmath>
#include <optional>

#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "generate.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {
namespace {

using Outline = std::vector<PlanPoint>;

/// Any outlines: crossing, touching, nested, collinear, with repeated points; on a coarse or a fine grid.
std::vector<Outline> any_outlines() {
  const int step = *rc::gen::element(1, 50, 1000), range = *rc::gen::element(3, 8, 100);
  const auto coordinate =
      rc::gen::map(rc::gen::inRange(-range, range + 1), [step](int n) { return n * step; });
  const auto point = rc::gen::construct<PlanPoint>(coordinate, coordinate);
  const auto count = static_cast<std::size_t>(*rc::gen::inRange(0, 6));
  std::vector<Outline> outlines;
  for (std::size_t i = 0; i < count; ++i)
    outlines.push_back(
        *rc::gen::container<Outline>(static_cast<std::size_t>(*rc::gen::inRange(0, 12)), point));
  return outlines;
}

dvec2 exact(PlanPoint p) { return {p.x, p.y}; }

double off_side(dvec2 a, dvec2 b, dvec2 point) { return glm::distance(nearest_on(a, b, point), point); }

/// Even-odd test of a point; nothing if it is too close to a side, since crossings are rounded.
std::optional<bool> inside_by_counting(std::span<const Outline> outlines, dvec2 point, double room) {
  bool inside = false;
  for (const Outline& outline : outlines)
    for (std::size_t i = 0; i < outline.size(); ++i) {
      const dvec2 a = exact(outline[i]), b = exact(outline[(i + 1) % outline.size()]);
      if (off_side(a, b, point) < room) return {};
      if ((a.y > point.y) != (b.y > point.y) && point.x < a.x + (point.y - a.y) / (b.y - a.y) * (b.x - a.x))
        inside = !inside;
    }
  return inside;
}

RC_GTEST_PROP(Triangulation, IsWholeAndEvenWhateverTheOutlines, ()) {
  const std::vector<Outline> outlines = any_outlines();
  const auto made = Triangulation::make(outlines);
  RC_ASSERT(made.has_value());
  const auto points = made->points();
  const auto triangles = made->triangles();
  const std::vector<bool> inside = made->inside();
  std::int64_t area = 0;
  for (std::uint32_t t = 0; t < triangles.size(); ++t) {
    const auto& [corners, beyond, kept] = triangles[t];
    RC_ASSERT(turn(points[corners[0]], points[corners[1]], points[corners[2]]) > 0);
    area += turn(points[corners[0]], points[corners[1]], points[corners[2]]);
    for (std::size_t i = 0; i < 3; ++i) {
      if (beyond[i] == Triangulation::none) continue;
      const auto& other = triangles[beyond[i]];
      std::size_t back = 0;
      while (back < 3 && other.corners[back] != corners[(i + 1) % 3]) ++back;
      RC_ASSERT(back < 3);
      RC_ASSERT(other.corners[(back + 1) % 3] == corners[i]);
      RC_ASSERT(other.beyond[back] == t);
      RC_ASSERT(other.kept[back] == kept[i]);
      RC_ASSERT((inside[t] != inside[beyond[i]]) == kept[i]);
    }
  }
  // The square around everything is covered once.
  const auto [low, high] = std::pair(points[0], points[2]);
  RC_ASSERT(area == 2 * (std::int64_t{high.x} - low.x) * (std::int64_t{high.y} - low.y));
  for (std::uint32_t t = 0; t < triangles.size(); ++t) {
    const auto& corners = triangles[t].corners;
    const dvec2 middle =
        (exact(points[corners[0]]) + exact(points[corners[1]]) + exact(points[corners[2]])) / 3.0;
    if (const auto expected = inside_by_counting(outlines, middle, 8.0)) RC_ASSERT(inside[t] == *expected);
  }
}

RC_GTEST_PROP(ConvexMesh, IsConvexCoversWhatIsInsideAndFindsPointsInIt, ()) {
  const auto triangulation = Triangulation::make(any_outlines());
  const ConvexMesh mesh(*triangulation);
  double inside_area = 0;
  const std::vector<bool> inside = triangulation->inside();
  for (std::size_t t = 0; t < inside.size(); ++t) {
    const auto& corners = triangulation->triangles()[t].corners;
    const auto points = triangulation->points();
    if (inside[t])
      inside_area +=
          0.5 * static_cast<double>(turn(points[corners[0]], points[corners[1]], points[corners[2]]));
  }
  RC_ASSERT(std::abs(mesh.area() - inside_area) <= 1e-9 * inside_area);
  for (std::uint32_t p = 0; p < mesh.polygons().size(); ++p) {
    if (mesh.polygons()[p].count == 0) continue;
    dvec2 middle(0.0);
    for (const auto& side : mesh.sides_of(p)) middle += mesh.corners()[side.corner].at;
    middle /= static_cast<double>(mesh.sides_of(p).size());
    RC_ASSERT(mesh.holds(p, middle));  // so it is convex
    RC_ASSERT(mesh.at(middle) == p);
    for (const auto& side : mesh.sides_of(p))
      if (side.across != ConvexMesh::none)
        RC_ASSERT(mesh.component(p) == mesh.component(mesh.sides()[side.across].polygon));
  }
  const dvec2 anywhere(*rc::gen::inRange(-2000, 2000), *rc::gen::inRange(-2000, 2000));
  const auto nearest = mesh.nearest(anywhere);
  RC_ASSERT((nearest.polygon == ConvexMesh::none) == mesh.polygons().empty());
  for (std::uint32_t p = 0; p < mesh.polygons().size(); ++p) {
    if (mesh.polygons()[p].count == 0) continue;
    RC_ASSERT(glm::distance(nearest.point, anywhere) <=
              glm::distance(mesh.nearest_in(p, anywhere), anywhere) + 1e-9);
  }
}

TEST(Triangulation, SaysWhichPointLiesTooFarOut) {
  const std::vector<Outline> outlines = {{{0, 0}, {PlanPoint::max + 1, 0}, {0, 5000}}};
  EXPECT_EQ(Triangulation::make(outlines).error().text,
            "the point (500000.001 m, 0 m) lies too far out; a plan reaches 500 km from the origin");
}

TEST(Triangulation, ALineAcrossManySidesNeedsNoDepth) {
  std::vector<std::vector<PlanPoint>> fence;
  for (int i = 0; i < 60'000; ++i)
    fence.push_back({{10 * i, 0}, {10 * i + 5, 0}, {10 * i + 5, 1'000}, {10 * i, 1'000}});
  fence.push_back({{-100, 500}, {600'100, 501}, {600'100, 2'000}, {-100, 2'000}});
  const auto made = Triangulation::make(fence);
  ASSERT_TRUE(made) << made.error().text;
  EXPECT_GT(made->triangles().size(), 480'000U);
}

TEST(Triangulation, AHubOfManySpokesIsWhole) {
  std::vector<std::vector<PlanPoint>> spokes;
  constexpr int count = 8'000;
  const auto rim = [](int i) {
    const double angle = 6.283185307179586 * i / count;
    return PlanPoint{static_cast<int>(std::lround(5e6 * std::cos(angle))),
                     static_cast<int>(std::lround(5e6 * std::sin(angle)))};
  };
  for (int i = 0; i < count; i += 2) spokes.push_back({{0, 0}, rim(i), rim(i + 1)});
  const auto made = Triangulation::make(spokes);
  ASSERT_TRUE(made);
  double area = 0;
  const std::vector<bool> inside = made->inside();
  for (std::size_t i = 0; i < inside.size(); ++i) {
    const auto& corners = made->triangles()[i].corners;
    if (inside[i])
      area += 0.5 * static_cast<double>(turn(made->points()[corners[0]], made->points()[corners[1]],
                                             made->points()[corners[2]]));
  }
  EXPECT_NEAR(area / (0.5 * 3.14159265 * 5e6 * 5e6), 1, 1e-4);
}

TEST(Triangulation, TheLeastIntegerIsTooFarOut) {
  constexpr int min = std::numeric_limits<int>::min();
  for (const PlanPoint far : {PlanPoint{min, 0}, {0, min}, {min, min}})
    EXPECT_FALSE(Triangulation::make(std::vector<std::vector<PlanPoint>>{{{0, 0}, {10, 0}, far}}));
}

}  // namespace
}  // namespace ambulon
