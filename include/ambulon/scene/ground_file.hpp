#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/jobs.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options for reading a level.
struct LevelFileOptions {
  /// An axis that points up.
  enum class Up : std::uint8_t { y, z };
  std::optional<Up> up = {};  ///< up axis; by default Z for .ply and .stl, Y for others
  /// Name patterns of nodes, meshes and materials; * matches anything. Children of a node are included.
  std::vector<std::string> decor = {};   ///< do not obstruct and are not walkable
  std::vector<std::string> barred = {};  ///< obstruct and are not walkable
  /// Surfaces with a cost per metre (1 to 255).
  struct Cost {
    std::string name;
    float cost = 1.f;
  };
  std::vector<Cost> costs = {};
  /// Metres, -1e7 to 1e7, in the axes of this library: added to all coordinates of the file before these are
  /// rounded. It brings a distant level near the origin.
  vec3 shift{0.f};
};

/// How `read_ground` reads a file. Each part is used if the file is of that kind.
struct GroundFileOptions {
  TileMapOptions tiles = {};
  LevelFileOptions level = {};
  Jobs jobs = {};  ///< build the meshes of levels
};

/// Reads the ground of a scene file, a plan file, a level, a saved ground or a tile map. The problem begins
/// with the file, and with line and column if they are known; so it does for the other functions.
///
///     const auto ground = ambulon::read_ground("market.glb");
///     if (!ground) return report(ground.error().text);
///     ambulon::World world({.ground = ground->get()});
Expected<std::unique_ptr<Ground>> read_ground(const std::string& file, const GroundFileOptions& options = {});

/// Saves a ground with all its meshes for `read_ground`, which then builds nothing. `source`: the file of its
/// level or plan. Returns the name of the file, or a problem if it cannot be written.
Expected<std::string> save_ground(const MeshGround& ground, const std::string& source,
                                  const std::string& file);

/// Reads the triangles of a level for `MeshGround::make`: .gltf, .glb, .obj, .ply, .stl, and other formats of
/// Assimp. A name that matches nothing is a problem.
Expected<Level> read_level(const std::string& file, const LevelFileOptions& options = {});

/// Reads a plan for `MeshGround::make`: TOML with the line `format = "ambulon-plan/1"` and the lists
///
///     outline = [ring, ...]       # walkable inside; at least one
///     hole    = [ring, ...]       # not walkable inside
///     solid   = [ring, ...]       # obstacles
///     wall    = [{ line = [[x, y], ...], thickness = 0.2 }, ...]
///
/// A ring is [[x, y], ...], at least three points in metres.
Expected<Plan> read_plan(const std::string& file);

/// Reads a tile map for `TileGround`. In pictures (.png) dark pixels are walls, in text the character #;
/// octile maps (.map) have signs of their own.
Expected<TileMap> read_tiles(const std::string& file, const TileMapOptions& options = {});

}  // namespace ambulon
