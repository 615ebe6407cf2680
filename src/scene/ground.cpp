#include "ambulon/scene/ground.hpp"

#include <glm/common.hpp>

namespace ambulon {

std::unique_ptr<Ground> SceneGround::make() const {
  if (tiles) return std::make_unique<TileGround>(*tiles, TileGroundOptions{.along_cells = along_cells});
  if (plan) return std::move(MeshGround::make(*plan)).value();  // it was checked when it was read
  return std::make_unique<OpenGround>(open);
}

vec2 SceneGround::least() const {
  if (tiles) return tiles->origin();
  if (!plan) return open.least();
  vec2 least = plan->outlines[0][0];
  for (const Plan::Ring& ring : plan->outlines)
    for (const vec2 point : ring) least = glm::min(least, point);
  return least;
}

vec2 SceneGround::most() const {
  if (tiles) return tiles->corner({tiles->width(), tiles->height()});
  if (!plan) return open.most();
  vec2 most = plan->outlines[0][0];
  for (const Plan::Ring& ring : plan->outlines)
    for (const vec2 point : ring) most = glm::max(most, point);
  return most;
}

}  // namespace ambulon
