// Crossings of a mesh ground: those found for a body, and those placed by hand.

#include <algorithm>

#include <fmt/format.h>
#include <glm/common.hpp>

#include "ambulon/base/problem.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "find_crossings.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_ground_impl.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/survey.hpp"

namespace ambulon {
namespace {

constexpr double same_end = 1;  // millimetres between an end of a crossing and its polygon

/// Returns the end of a crossing nearest to `at`; nothing if there is none near.
std::optional<MeshCrossing::End> end_at(const ConvexMesh& mesh, dvec2 at, double height, bool of_level,
                                        double reach) {
  ConvexMesh::Wanted wanted;
  if (of_level) wanted.height = height;
  const ConvexMesh::Nearest nearest = mesh.nearest(at, wanted);
  if (nearest.polygon == ConvexMesh::none) return {};
  const double here = mesh.height(nearest.polygon, nearest.point);
  if (std::hypot(glm::distance(nearest.point, at), of_level ? here - height : 0.0) > reach) return {};
  return MeshCrossing::End{nearest.point, here, nearest.polygon};
}

/// Returns true if an end still lies in its polygon after changes.
bool still_there(const ConvexMesh& mesh, const MeshCrossing::End& end) {
  return end.polygon < mesh.polygons().size() && mesh.polygons()[end.polygon].count > 0 &&
         mesh.holds(end.polygon, end.at) && std::abs(mesh.height(end.polygon, end.at) - end.height) < 1;
}

}  // namespace

std::vector<MeshCrossing> MeshGroundImpl::find_crossings_in(const ConvexMesh& mesh, std::uint32_t patch,
                                                            const BodySize& size, bool with_barriers) const {
  const Square& square = mesh.square(patch);
  const double margin = crossing_reach(size) + per_metre * size.radius + 10;
  const dvec2 low = to_vec(square.low) - margin,
              high = to_vec(square.low) + static_cast<double>(square.size) + margin;
  const MeshBuilder::Barriers barriers =
      with_barriers ? barriers_near(in_metres(low), in_metres(high)) : MeshBuilder::Barriers();
  return find_crossings(mesh, patch, *level_, barriers, size);
}

bool MeshGroundImpl::find_crossings_of(Layer& layer, const BodySize& size, bool with_barriers,
                                       const MeshProgress& progress) const {
  if (level_ && hops(size)) {
    layer.found.resize(layer.mesh.patch_count());
    const auto one = [&](std::size_t patch) {
      layer.found[patch] =
          find_crossings_in(layer.mesh, static_cast<std::uint32_t>(patch), size, with_barriers);
    };
    if (!builder_.for_all(layer.found.size(), one, MeshPhase::crossing, progress)) return false;
  }
  put_together(layer, size);
  return true;
}

/// Finds the polygons at the ends of a crossing of a level. Returns false if the ground there was removed.
bool MeshGroundImpl::find_again(const ConvexMesh& mesh, MeshCrossing& crossing) {
  for (MeshCrossing::End* end : {&crossing.from, &crossing.to}) {
    if (still_there(mesh, *end)) continue;
    const auto now = end_at(mesh, end->at, end->height, true, same_end);
    if (!now) return false;
    end->polygon = now->polygon;
  }
  return true;
}

/// Finds the crossings in the patches near a barrier again, since the numbers of polygons may have changed.
void MeshGroundImpl::find_crossings_near(Layer& layer, const BodySize& size,
                                         std::span<const Barrier* const> barriers) const {
  for (const Barrier* barrier : barriers) {
    if (!level_ || !hops(size)) break;
    const double reach = crossing_reach(size), around = 2.0 * layer.mesh.grid().size;
    const dvec2 low = in_mm(barrier->min()) - reach, high = in_mm(barrier->max()) + reach;
    layer.mesh.each_patch_near(low - around, high + around, [&](std::uint32_t patch) {
      std::erase_if(layer.found[patch],
                    [&](MeshCrossing& crossing) { return !find_again(layer.mesh, crossing); });
    });
    layer.mesh.each_patch_near(low, high, [&](std::uint32_t patch) {
      layer.found[patch] = find_crossings_in(layer.mesh, patch, size, true);
    });
  }
  put_together(layer, size);
}

/// Returns the crossings of all patches, and those placed by hand.
std::vector<MeshCrossing> MeshGroundImpl::all_crossings(const Layer& layer, const BodySize& size,
                                                        bool with_shut) const {
  std::vector<MeshCrossing> all;
  for (const auto& found : layer.found) all.insert(all.end(), found.begin(), found.end());
  for (const PlacedCrossing& placed : placed_) {
    if (placed.shut && !with_shut) continue;
    const Crossing& crossing = placed.crossing;
    const double reach = per_metre * end_reach({.radius = size.radius});
    const auto from = end_at(layer.mesh, in_mm(flat(crossing.from)), per_metre * crossing.from.z, of_level(),
                             reach),
               to =
                   end_at(layer.mesh, in_mm(flat(crossing.to)), per_metre * crossing.to.z, of_level(), reach);
    if (!from || !to) continue;
    const double length = std::hypot(glm::distance(from->at, to->at), from->height - to->height);
    MeshCrossing made{.kind = crossing.kind,
                      .from = *from,
                      .to = *to,
                      .over = std::max(from->height, to->height),
                      .cost = length + per_metre * crossing.cost};
    all.push_back(made);
    if (!crossing.both_ways) continue;
    std::swap(made.from, made.to);
    all.push_back(made);
  }
  return all;
}

void MeshGroundImpl::put_together(Layer& layer, const BodySize& size) const {
  layer.crossings = MeshCrossings(layer.mesh, all_crossings(layer, size, false));
}

Expected<CrossingId> MeshGroundImpl::place(const Crossing& crossing) {
  if (const auto right = validate(crossing); !right) return tl::unexpected(right.error());
  const CrossingId id{next_crossing_++};
  placed_.push_back({id, crossing});
  crossing_changed(crossing, true);
  return id;
}

Expected<std::vector<MeshGroundImpl::PlacedCrossing>::iterator> MeshGroundImpl::find(CrossingId id) {
  const auto found = std::ranges::find(placed_, id, &PlacedCrossing::id);
  if (found == placed_.end())
    return problem(fmt::format("crossing {} is not on the ground", static_cast<std::uint32_t>(id)));
  return found;
}

Expected<CrossingId> MeshGroundImpl::remove(CrossingId id) {
  const auto placed = find(id);
  if (!placed) return tl::unexpected(placed.error());
  const Crossing was = (*placed)->crossing;
  placed_.erase(*placed);
  crossing_changed(was, false);
  return id;
}

Expected<CrossingId> MeshGroundImpl::set_shut(CrossingId id, bool shut) {
  const auto placed = find(id);
  if (!placed) return tl::unexpected(placed.error());
  if (std::exchange((*placed)->shut, shut) != shut) crossing_changed((*placed)->crossing, !shut);
  return id;
}

void MeshGroundImpl::crossing_changed(const Crossing& crossing, bool opens) {
  for (std::uint16_t number = 0; number < layers_.count(); ++number)
    put_together(*layers_[number].made, layers_[number]);
  const vec2 from = flat(crossing.from), to = flat(crossing.to);
  const float reach = end_reach({.radius = 0.f});
  edits_.add({glm::min(from, to) - reach, glm::max(from, to) + reach}, opens);
}

}  // namespace ambulon
