#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/scene/ground_file.hpp"

#include "scene/built_ground.hpp"
#include "scene/file_place.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The ground that a scene file describes. Each play makes its own copy, which it may change.
struct SceneGround {
  OpenGround open = {};  ///< used if there is no other
  std::optional<TileMap> tiles = {};
  bool along_cells = false;  ///< tiles: see `TileGroundOptions`
  std::optional<Plan> plan = {};
  std::shared_ptr<const Level> level = {};
  LevelRules rules = {};                          ///< of a level
  std::shared_ptr<const BuiltGround> built = {};  ///< a saved ground
  std::string source = {};                        ///< file of the plan or level, if any
  /// A crossing placed by hand.
  struct NamedCrossing {
    std::string name;
    Crossing crossing;
    bool shut = false;
    FilePlace where = {};
  };
  std::vector<NamedCrossing> crossings = {};  ///< of a plan or a level; they replace those of a saved ground

  /// "open", "of tiles", "a plan" or "a level".
  std::string_view kind() const {
    return tiles ? "of tiles" : is_level() ? "a level" : is_mesh() ? "a plan" : "open";
  }
  bool takes_barriers() const { return tiles || is_mesh(); }
  /// Returns true if `make` makes a `MeshGround`.
  bool is_mesh() const { return plan || level || built; }
  /// Returns true if points need heights.
  bool is_level() const { return level || (built && built->of_level); }

  /// Makes the ground. Meshes of levels are built on `jobs`.
  std::unique_ptr<Ground> make(Jobs jobs = {}) const;
  /// Returns the corners of its bounding rectangle, metres.
  vec2 min() const;
  vec2 max() const;
};

/// Reads the ground of a scene file, a plan file, a level, a saved ground or a tile map. The problem begins
/// with the file, and with line and column if they are known.
Expected<SceneGround> read_ground_file(const std::string& file, const TileMapOptions& options = {},
                                       const LevelFileOptions& level_options = {});

}  // namespace ambulon
