#include "scene/ground.hpp"

#include <glm/common.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"

namespace ambulon {

std::unique_ptr<Ground> SceneGround::make(Jobs jobs) const {
  if (tiles) return std::make_unique<TileGround>(*tiles, TileGroundOptions{.along_cells = along_cells});
  if (!is_mesh()) return std::make_unique<OpenGround>(open);
  // All of it was checked when it was read.
  auto mesh = std::move(built  ? MeshGround::restore(built->bytes, std::move(jobs))
                        : plan ? MeshGround::make(*plan)
                               : MeshGround::make(*level, rules, std::move(jobs)))
                  .value();
  // The scene's crossings replace those that a built ground was saved with.
  while (!crossings.empty() && !mesh->placed_crossings().empty())
    (void)mesh->remove(mesh->placed_crossings().back().id);
  for (const NamedCrossing& each : crossings) {
    const CrossingId id = mesh->place(each.crossing).value();
    if (each.shut) (void)mesh->shut(id);
  }
  return mesh;
}

namespace {

template <class Smaller>
vec2 corner_of(const Level& level, Smaller&& smaller) {
  vec2 corner = flat(level.corners[level.triangles[0].corners[0]]);
  for (const Level::Triangle& triangle : level.triangles)
    for (const std::uint32_t at : triangle.corners) corner = smaller(corner, flat(level.corners[at]));
  return corner;
}

}  // namespace

vec2 SceneGround::min() const {
  if (tiles) return tiles->origin();
  if (built) return built->min;
  if (level) return corner_of(*level, [](vec2 a, vec2 b) { return glm::min(a, b); });
  if (!plan) return open.min();
  vec2 min = plan->outlines[0][0];
  for (const Plan::Ring& ring : plan->outlines)
    for (const vec2 point : ring) min = glm::min(min, point);
  return min;
}

vec2 SceneGround::max() const {
  if (tiles) return tiles->corner({tiles->width(), tiles->height()});
  if (built) return built->max;
  if (level) return corner_of(*level, [](vec2 a, vec2 b) { return glm::max(a, b); });
  if (!plan) return open.max();
  vec2 max = plan->outlines[0][0];
  for (const Plan::Ring& ring : plan->outlines)
    for (const vec2 point : ring) max = glm::max(max, point);
  return max;
}

}  // namespace ambulon
