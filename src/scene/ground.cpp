#include "ambulon/scene/ground.hpp"

namespace ambulon {

std::unique_ptr<Ground> SceneGround::make() const {
  if (tiles) return std::make_unique<TileGround>(*tiles, TileGroundOptions{.along_cells = along_cells});
  return std::make_unique<OpenGround>(open);
}

vec2 SceneGround::least() const { return tiles ? tiles->origin() : open.least(); }

vec2 SceneGround::most() const {
  return tiles ? tiles->corner({tiles->width(), tiles->height()}) : open.most();
}

}  // namespace ambulon
