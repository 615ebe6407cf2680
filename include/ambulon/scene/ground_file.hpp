#pragma once

#include <memory>
#include <string>

#include "ambulon/base/jobs.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"
#include "ambulon/scene/level_file.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How `read_ground` reads a file. Each part is used if the file is of that kind.
struct GroundFileOptions {
  TileMapOptions tiles = {};
  LevelFileOptions level = {};
  Jobs jobs = {};  ///< build the meshes of levels
};

/// Reads the ground of a scene file, a plan file, a level, a saved ground or a tile map. The problem begins
/// with the file, and with line and column if they are known.
///
///     const auto ground = ambulon::read_ground("market.glb");
///     if (!ground) return report(ground.error().text);
///     ambulon::World world({.ground = ground->get()});
Expected<std::unique_ptr<Ground>> read_ground(const std::string& file, const GroundFileOptions& options = {});

/// Saves a ground with all its meshes for `read_ground`, which then builds nothing. `source`: the file of its
/// level or plan. Returns the name of the file, or a problem if it cannot be written.
Expected<std::string> save_ground(const MeshGround& ground, const std::string& source,
                                  const std::string& file);

}  // namespace ambulon
