#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

namespace ambulon {

/// The ground of a scene as its file describes it. Each play makes its own of it, which it may change.
struct SceneGround {
  OpenGround open = {};  ///< when there are neither tiles nor a plan
  std::optional<TileMap> tiles = {};
  bool along_cells = false;  ///< of tiles: see `TileGroundOptions`
  std::optional<Plan> plan = {};

  /// "open", "of tiles" or "a plan".
  std::string_view kind() const { return tiles ? "of tiles" : plan ? "a plan" : "open"; }
  bool takes_barriers() const { return tiles || plan; }

  /// The ground itself.
  std::unique_ptr<Ground> make() const;
  /// The corners of the rectangle that holds it, metres.
  vec2 least() const;
  vec2 most() const;
};

/// The ground of a scene file, a plan file, or the file of a tile map; `options` are those of the latter. The
/// problem begins with the file, and with line and column where they are known.
Expected<SceneGround> read_ground_file(const std::string& file, const TileMapOptions& options = {});

}  // namespace ambulon
