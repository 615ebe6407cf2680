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
#include "ambulon/scene/file_place.hpp"
#include "ambulon/scene/ground_file.hpp"
#include "ambulon/scene/level_file.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The ground of a scene as its file describes it. Each play makes its own of it, which it may change.
struct SceneGround {
  OpenGround open = {};  ///< when there is nothing else
  std::optional<TileMap> tiles = {};
  bool along_cells = false;  ///< of tiles: see `TileGroundOptions`
  std::optional<Plan> plan = {};
  std::shared_ptr<const Level> level = {};
  LevelRules rules = {};                          ///< of the level
  std::shared_ptr<const BuiltGround> built = {};  ///< of a level or a plan, beforehand
  std::string source = {};                        ///< the file of the plan or level, if it has one
  /// A crossing placed by hand.
  struct NamedCrossing {
    std::string name;
    Crossing crossing;
    bool shut = false;
    FilePlace where = {};
  };
  std::vector<NamedCrossing> crossings = {};  ///< of a plan or a level; instead of those of a built ground

  /// "open", "of tiles", "a plan" or "a level".
  std::string_view kind() const {
    return tiles ? "of tiles" : is_level() ? "a level" : is_mesh() ? "a plan" : "open";
  }
  bool takes_barriers() const { return tiles || is_mesh(); }
  /// True when `make` makes a `MeshGround`.
  bool is_mesh() const { return plan || level || built; }
  /// True when it tells heights apart.
  bool is_level() const { return level || (built && built->of_level); }

  /// The ground itself; of a level, the one whose meshes are made on the threads that `jobs` has.
  std::unique_ptr<Ground> make(Jobs jobs = {}) const;
  /// The corners of the rectangle that holds it, metres.
  vec2 min() const;
  vec2 max() const;
};

/// The ground of a scene file, a plan file, the file of a level's geometry, of a built ground, or of a tile
/// map, with the options for those. The problem begins with the file, and with line and column where they are
/// known.
Expected<SceneGround> read_ground_file(const std::string& file, const TileMapOptions& options = {},
                                       const LevelFileOptions& level_options = {});

}  // namespace ambulon
