// Keeps what can be reached from given places of a level.

#include "base/in_parts.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_ground_impl.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/mesh/triangulation.hpp"
#include "rings.hpp"

namespace ambulon {
namespace {

/// Returns the outlines of polygons.
Outlines outline_of(const PatchPolygons& polygons, std::span<const std::uint32_t> some) {
  std::vector<std::pair<PlanPoint, PlanPoint>> edges;  // of one polygon only
  for (const std::uint32_t polygon : some) {
    const std::uint32_t first = polygons.first[polygon], end = polygons.first[polygon + 1];
    const auto corner = [&](std::uint32_t side) { return polygons.corners[polygons.sides[side].corner]; };
    for (std::uint32_t side = first; side < end; ++side)
      if (polygons.sides[side].across == PatchPolygons::none)
        edges.emplace_back(corner(side), corner(side + 1 == end ? first : side + 1));
  }
  return rings_of(std::move(edges));
}

/// Returns the floors of a patch without the polygons that are not `kept`. `changed`: whether there were any.
std::vector<FloorPart> kept_floors(const std::vector<FloorPart>& floors, const PatchPolygons& polygons,
                                   const std::vector<bool>& kept, bool& changed) {
  std::vector<std::vector<std::uint32_t>> kept_of(polygons.floors.size());
  std::vector<std::size_t> count_of(polygons.floors.size());
  for (std::uint32_t i = 0; i < polygons.count(); ++i) {
    ++count_of[polygons.floor[i]];
    if (kept[i]) kept_of[polygons.floor[i]].push_back(i);
  }
  std::vector<FloorPart> left;
  std::size_t next = 0;  // floors of polygons have the same order, but empty ones are missing
  for (const FloorPart& floor : floors) {
    if (next == polygons.floors.size() || polygons.floors[next] != floor.surface) continue;
    const std::size_t number = next++;
    if (kept_of[number].size() == count_of[number]) {
      left.push_back(floor);
      continue;
    }
    changed = true;
    if (!kept_of[number].empty())
      left.push_back({outline_of(polygons, kept_of[number]), floor.surface, floor.costly});
  }
  return left;
}

}  // namespace

/// Returns for each component of a mesh without barriers whether it can be reached from the spot nearest to
/// one of the level's places, with all crossings open.
std::vector<bool> MeshGroundImpl::reached_components(const Layer& whole, const BodySize& size) const {
  std::vector<std::uint32_t> polygons;
  for (const vec3 place : level_->reach_from()) {
    const ConvexMesh::Nearest nearest = whole.mesh.nearest(in_mm(flat(place)), near_height(place.z));
    if (nearest.polygon != ConvexMesh::none) polygons.push_back(nearest.polygon);
  }
  MeshCrossings::Reached reached;
  MeshCrossings(whole.mesh, all_crossings(whole, size, true)).reach_from(whole.mesh, polygons, reached);
  return std::move(reached.components);
}

/// Returns the reachable part of a layer, with the present barriers.
std::unique_ptr<MeshGroundImpl::Layer> MeshGroundImpl::reached_part(const Layer& whole,
                                                                    const BodySize& size) const {
  const ConvexMesh& mesh = whole.mesh;
  const std::vector<bool> reached = reached_components(whole, size);
  LeftOut left_out;
  std::vector<bool> counted = reached;
  std::vector<std::vector<Square>> squares(mesh.grid().count());
  for (std::uint32_t cell = 0; cell < squares.size(); ++cell)
    for (std::uint32_t patch = mesh.first_of(cell); patch < mesh.first_of(cell + 1); ++patch) {
      squares[cell].push_back(mesh.square(patch));
      mesh.each_area_in(patch, [&](std::uint32_t component, double area) {
        if (reached[component]) return;
        left_out.area += area / (per_metre * per_metre);
        if (!counted[component]) ++left_out.components;
        counted[component] = true;
      });
    }
  std::vector<PatchPolygons> made(mesh.patch_count());
  std::vector<std::vector<FloorPart>> free(mesh.patch_count());
  const auto keep = [&](std::size_t number) {
    const auto patch = static_cast<std::uint32_t>(number);
    std::vector<bool> kept;
    mesh.each_polygon_in(patch, [&](std::uint32_t i) { kept.push_back(reached[mesh.component(i)]); });
    bool changed = false;
    free[patch] = kept_floors(whole.free[patch], mesh.polygons_in(patch), kept, changed);
    const MeshBuilder::Barriers barriers = builder_.barriers_in(mesh.square(patch), size);
    MeshBuilder::Bases bases;
    made[patch] = changed || !barriers.empty()
                      ? builder_.polygons(free[patch], mesh.square(patch), size, barriers, bases)
                      : mesh.polygons_in(patch);
  };
  in_parts(jobs_, mesh.patch_count(), keep, 1);
  auto layer = std::make_unique<Layer>(
      Layer{std::move(free), ConvexMesh(mesh.grid(), squares, std::move(made), builder_.step_between(size))});
  layer->left_out = left_out;
  if (!barriers().empty()) {
    (void)find_crossings_of(*layer, size, true, {});
    return layer;
  }
  layer->found = whole.found;
  for (std::uint32_t patch = 0; patch < layer->found.size(); ++patch)
    std::erase_if(layer->found[patch], [&](MeshCrossing& crossing) {
      return !reached[mesh.component(crossing.from.polygon)] || !find_again(layer->mesh, crossing);
    });
  put_together(*layer, size);
  return layer;
}

std::vector<RejectedPart> MeshGroundImpl::out_of_reach(const BodySize& size) const {
  std::vector<RejectedPart> parts;
  const auto whole = make_whole_layer(size, false, {});
  const std::vector<bool> reached = reached_components(*whole, size);
  for (std::uint32_t polygon = 0; polygon < whole->mesh.polygons().size(); ++polygon) {
    if (whole->mesh.polygons()[polygon].count == 0 || reached[whole->mesh.component(polygon)]) continue;
    RejectedPart& part = parts.emplace_back(RejectedPart{Rejection::out_of_reach, {}});
    for (const ConvexMesh::Side& side : whole->mesh.sides_of(polygon)) {
      const double height = whole->mesh.height(polygon, side.start);
      part.corners.push_back(lift(in_metres(side.start), static_cast<float>(height / per_metre)));
    }
  }
  return parts;
}

}  // namespace ambulon
