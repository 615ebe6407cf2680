// Checks that characters can stand, and can reach the goals of their steps.

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "base/written.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "scene/checker.hpp"
#include "scene/hindrance.hpp"

namespace ambulon::scene {

void Checker::needs_tiles(const SceneStep& step) {
  if (tiles_ == nullptr)
    find(step.where, fmt::format("{}'s {} needs a ground of tiles", npc_->name, verb_of(step)),
         fmt::format("this ground is {}, so it is refused", scene_.ground.kind()),
         "give the ground tiles, or another verb");
}

void Checker::teleports(vec3 to, const SceneStep& step) {
  on_ground(to, step.where, fmt::format("{}'s {}", npc_->name, verb_of(step)));
  stands_ = to;
}

void Checker::reachable(const ScenePoint& point, const SceneStep& step) {
  if (point.npc.empty()) reachable(point.at, step);
}

void Checker::reachable(vec3 point, const SceneStep& step) {
  reachable(point, step.where, fmt::format("{}'s {}", npc_->name, verb_of(step)));
}

/// Finds a point off the ground. Returns false if it is.
bool Checker::on_ground(vec3 point, FilePlace where, const std::string& what) {
  const Snap there = ground_->snap(point, reach, npc_->body);
  const bool told = !scene_.place_at(point).empty() && !ground_->snap(point, reach, thin);
  if (!there && !told)
    find(where, fmt::format("{} leads to {}, which is off the ground", what, as_given(point)),
         fmt::format("the nearest ground is {:.2f} m off", there.off),
         there.found ? written(there.spot.position) + " would do" : "make room for it");
  return there.within;
}

void Checker::reachable(vec3 point, FilePlace where, const std::string& who) {
  const Body& body = npc_->body;
  if (!on_ground(point, where, who)) return;
  const Snap there = ground_->snap(point, reach, body), here = ground_->snap(stands_, reach, body);
  const std::string what = fmt::format("{} leads to {}", who, as_given(point));
  if (!here || ground_->reachable(here.spot, there.spot)) return;
  const auto doorway = scene::too_narrow(*ground_, stands_, point, body);
  const auto high = !doorway && mesh_ != nullptr && mesh_->of_level()
                        ? scene::too_high(*mesh_, stands_, point, body)
                        : std::nullopt;
  if (high)
    find(where, what,
         fmt::format("on the way there is a step of {:.2f} m{} at {}, {:.2f} m too {} for it", high->metres,
                     high->down ? " down" : "", written(high->at, 1), high->over,
                     high->down ? "deep" : "high"),
         fmt::format("a step_up or {} of {:.2f} would do, or a ramp", high->down ? "drop_down" : "jump_up",
                     std::ceil(100 * high->metres) / 100));
  else if (doorway)
    find(where, what,
         fmt::format("it is {:.2f} m wide, and the only way is {:.2f} m wide beyond {}", 2 * body.radius,
                     2 * doorway->radius, written(doorway->at, 1)),
         fmt::format("a radius of {:.2f} would do", std::floor(100 * doorway->radius) / 100));
  else
    find(where, what, "no route leads there from its start", "open a route, or choose a point on this side");
}

/// Checks that the character can stand, and is not shut in.
void Checker::place() {
  const Snap here = ground_->snap(npc_->at.at, npc_->body.radius, npc_->body);
  if (!here && npc_->body.deck.x <= 0.f)
    return find(
        npc_->where,
        fmt::format("{} begins at {}, where it has no room to stand", npc_->name, as_given(npc_->at.at)),
        "the scene cannot be played",
        here.found ? written(here.spot.position) + " would do" : "make room for it");
  if (npc_->steps.empty() || !here) return;
  if (mesh_ != nullptr)
    if (const double area = room_around(here.spot); area < little_room)
      find(npc_->where, fmt::format("{} begins walled in", npc_->name),
           fmt::format("its centre can reach at most {:.2f} m2 from there", area),
           "open a route, or let it begin elsewhere");
  if (tiles_ == nullptr) return;
  const TileLayer& layer = tiles_->layer(npc_->body.radius);
  const std::uint32_t cells = layer.components().size(
      layer.components().component(layer.map(), layer.map().cell_of(here.spot.piece)));
  if (cells < few_cells)
    find(npc_->where, fmt::format("{} begins walled in", npc_->name),
         fmt::format("it can reach at most {} cell{} from there", cells, cells == 1 ? "" : "s"),
         "open a route, or let it begin elsewhere");
}

/// Returns the reachable area around a spot in square metres, or a value above `little_room`.
double Checker::room_around(const Spot& spot) const {
  const ConvexMesh& mesh = mesh_->mesh(npc_->body);
  const MeshCrossings& crossings = mesh_->crossings(npc_->body);
  MeshCrossings::Reached reached;
  crossings.reach_from(mesh, spot.piece, reached);
  double area = 0;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size() && area < little_room; ++polygon)
    if (mesh.polygons()[polygon].count > 0 && reached.components[mesh.component(polygon)])
      area += mesh.area(polygon) / 1e6;
  return area;
}

}  // namespace ambulon::scene
