#include "ground/mesh/patch.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include <glm/geometric.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "ground/mesh/triangulation.hpp"
#include "random_yard.hpp"

namespace ambulon {
namespace {

/// Returns the number of sides whose twins do not match.
int wrong_sides(const ConvexMesh& mesh) {
  int wrong = 0;
  for (std::uint32_t side = 0; side < mesh.sides().size(); ++side) {
    const std::uint32_t across = mesh.sides()[side].across;
    if (mesh.polygons()[mesh.sides()[side].polygon].count == 0 || across == ConvexMesh::none) continue;
    wrong += mesh.sides()[across].across != side || mesh.start_of(side) != mesh.end_of(across) ||
             mesh.end_of(side) != mesh.start_of(across);
  }
  return wrong;
}

/// Returns what searches know of each side, by its ends.
auto links(const ConvexMesh& mesh) {
  std::map<std::array<double, 4>, std::array<double, 6>> links;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon)
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon)) {
      const dvec2 end = mesh.end_of(static_cast<std::uint32_t>(&side - mesh.sides().data())),
                  next = mesh.start_of(side.next_open);
      const double open = side.across != ConvexMesh::none ? 1 : 0;
      links[{side.start.x, side.start.y, end.x, end.y}] = {static_cast<double>(side.bend),
                                                           static_cast<double>(side.blind),
                                                           static_cast<double>(side.border),
                                                           open,
                                                           next.x,
                                                           next.y};
    }
  return links;
}

/// Returns the place of one mesh in another, within rounding.
std::optional<MeshSearch::Place> same_place(const ConvexMesh& mesh, dvec2 at) {
  const ConvexMesh::Nearest there = mesh.nearest(at);
  if (there.polygon == ConvexMesh::none || glm::distance(there.point, at) > 1) return {};
  return MeshSearch::Place{there.point, there.polygon};
}

RC_GTEST_PROP(ConvexMesh, InPatchesItIsTheSameGround, ()) {
  const Outlines outlines = yard();
  const ConvexMesh whole(*Triangulation::make(outlines));
  const int size = 4000 * static_cast<int>(std::lround(std::sqrt(whole.area() / 16e6)) + 1);
  const ConvexMesh mesh = in_patches(outlines, size);
  RC_ASSERT(wrong_sides(mesh) == 0);
  // Where sides are cut, the cut is rounded to the millimetre.
  RC_ASSERT(std::abs(mesh.area() - whole.area()) < 1.0 * size * mesh.grid().count() + 100);
  MeshSearch one, other;
  for (int i = 0; i < 6; ++i) {
    const MeshSearch::Place from = somewhere(whole), to = somewhere(whole);
    const auto start = same_place(mesh, from.at), goal = same_place(mesh, to.at);
    RC_ASSERT(start && goal);
    const bool found = one.find(whole, from, to);
    if (!found && other.find(mesh, *start, *goal)) {
      // Outlines that touch in a point may part by a millimetre.
      RC_DISCARD("rounded apart");
    }
    RC_ASSERT(found == other.find(mesh, *start, *goal));
    if (found) RC_ASSERT(std::abs(one.length() - other.length()) < 5 + 1e-4 * one.length());
  }
}

RC_GTEST_PROP(ConvexMesh, PatchesReplacedAreAsIfMadeSo, ()) {
  const Outlines before = yard(), after = yard();
  const PatchGrid grid = patches_for({0, 0}, {20'000, 20'000}, number(2500, 9000));
  const auto old = polygons_of_all(cut_into_patches(before, grid));
  auto now = polygons_of_all(cut_into_patches(after, grid));
  ConvexMesh kept(grid, old);
  auto mixed = old;
  for (int round = 0; round < 3; ++round) {
    std::vector<ConvexMesh::Change> changes;
    for (std::uint32_t patch = 0; patch < grid.count(); ++patch)
      if (*rc::gen::arbitrary<bool>()) {
        mixed[patch] = *rc::gen::arbitrary<bool>() ? old[patch] : now[patch];
        changes.push_back({patch, mixed[patch]});
      }
    kept.replace(std::move(changes));
  }
  const ConvexMesh fresh(grid, mixed);
  RC_ASSERT(wrong_sides(kept) == 0);
  RC_ASSERT(std::abs(kept.area() - fresh.area()) < 1);
  RC_ASSERT(links(kept) == links(fresh));
  MeshSearch search;
  for (int i = 0; i < 4; ++i) {
    // Where pieces only touch, a point lies in both.
    const MeshSearch::Place from = inside_of_one(fresh), to = inside_of_one(fresh);
    const ConvexMesh::Nearest start = kept.nearest(from.at), goal = kept.nearest(to.at);
    RC_ASSERT(start.point == from.at && goal.point == to.at);
    const bool found = search.find(fresh, from, to);
    const double length = search.length();
    RC_ASSERT(search.find(kept, {start.point, start.polygon}, {goal.point, goal.polygon}) == found);
    if (found) RC_ASSERT(std::abs(search.length() - length) < 1e-3);
  }
}

}  // namespace
}  // namespace ambulon
