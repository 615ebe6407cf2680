#pragma once

#include <memory>
#include <optional>

#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

namespace ambulon {

/// The ground of a scene as its file describes it. Each play makes its own of it, which it may change.
struct SceneGround {
  OpenGround open = {};  ///< when there are no tiles
  std::optional<TileMap> tiles = {};
  bool along_cells = false;  ///< see `TileGroundOptions`

  /// The ground itself.
  std::unique_ptr<Ground> make() const;
  /// The corners of the rectangle that holds it, metres.
  vec2 least() const;
  vec2 most() const;
};

}  // namespace ambulon
