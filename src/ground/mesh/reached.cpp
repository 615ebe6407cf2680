// Keeps of a level's mesh what can be reached from the places where play happens.

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "millimetres.hpp"

namespace ambulon {
namespace {

/// The rings around some polygons, each of which is left where it has come back to its first corner.
Outlines outline_of(const PatchPolygons& polygons, std::span<const std::size_t> some) {
  struct Edge {
    std::uint32_t from, to;
  };
  std::vector<Edge> edges;  // that no other polygon has
  for (const std::size_t polygon : some) {
    const std::uint32_t first = polygons.first[polygon], end = polygons.first[polygon + 1];
    for (std::uint32_t side = first; side < end; ++side)
      if (polygons.sides[side].across == PatchPolygons::none)
        edges.push_back(
            {polygons.sides[side].corner, polygons.sides[side + 1 == end ? first : side + 1].corner});
  }
  std::ranges::sort(edges, {}, &Edge::from);
  const auto first_from = [&](std::uint32_t corner) {
    return static_cast<std::size_t>(std::ranges::lower_bound(edges, corner, {}, &Edge::from) - edges.begin());
  };
  std::vector<std::size_t> gone(edges.size());  // of the first edge from a corner: how many from there
  Outlines rings;
  for (std::size_t start = 0; start < edges.size(); ++start) {
    const std::size_t first = first_from(edges[start].from);
    if (start - first < gone[first]) continue;
    std::vector<PlanPoint>& ring = rings.emplace_back();
    // As many edges end at a corner as begin there.
    for (std::uint32_t corner = edges[start].from; ring.empty() || corner != edges[start].from;) {
      ring.push_back(polygons.corners[corner]);
      const std::size_t here = first_from(corner);
      corner = edges[here + gone[here]++].to;
    }
  }
  return rings;
}

/// Of the floors of a patch, what its polygons cover that are `kept`. A floor of which all is kept stays the
/// same; `changed` tells whether there is another one.
std::vector<FloorPart> kept_floors(const std::vector<FloorPart>& floors, const PatchPolygons& polygons,
                                   const std::vector<bool>& kept, bool& changed) {
  std::vector<FloorPart> left;
  for (const FloorPart& floor : floors) {
    std::vector<std::size_t> left_of_it;
    std::size_t of_floor = 0;
    for (std::size_t i = 0; i < polygons.count(); ++i) {
      if (polygons.floors[polygons.floor[i]] != floor.surface) continue;
      ++of_floor;
      if (kept[i]) left_of_it.push_back(i);
    }
    if (left_of_it.size() == of_floor) {
      left.push_back(floor);
      continue;
    }
    changed = true;
    if (!left_of_it.empty()) left.push_back({outline_of(polygons, left_of_it), floor.surface, floor.costly});
  }
  return left;
}

}  // namespace

/// Of each component of a mesh without barriers, whether it can be reached from the spot that is nearest to
/// one of the level's places, when all crossings are open.
std::vector<bool> MeshGround::reached_components(const Layer& whole, const BodySize& size) const {
  std::vector<std::uint32_t> polygons;
  for (const vec3 place : level_->reach_from()) {
    const ConvexMesh::Nearest nearest = whole.mesh.nearest(in_mm(flat(place)), near_height(place.z));
    if (nearest.polygon != ConvexMesh::none) polygons.push_back(nearest.polygon);
  }
  MeshCrossings::Reached reached;
  MeshCrossings(whole.mesh, all_crossings(whole, size, true)).reach_from(whole.mesh, polygons, reached);
  return std::move(reached.components);
}

/// What of a layer that was made without barriers can be reached, with the barriers as they lie now.
std::unique_ptr<MeshGround::Layer> MeshGround::reached_part(const Layer& whole, const BodySize& size) const {
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
    const Barriers barriers = barriers_in(mesh.square(patch), size);
    made[patch] = changed || !barriers.empty() ? polygons(free[patch], mesh.square(patch), size, barriers)
                                               : mesh.polygons_in(patch);
  };
  in_parts(jobs_, mesh.patch_count(), keep, 1);
  auto layer = std::make_unique<Layer>(
      Layer{std::move(free), ConvexMesh(mesh.grid(), squares, std::move(made), step_between(size))});
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

std::vector<RejectedPart> MeshGround::out_of_reach(const BodySize& size) const {
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
