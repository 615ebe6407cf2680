#pragma once

#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/level.hpp"

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

/// Reads the level of a geometry file: .gltf, .glb, .obj, .ply, .stl, and other formats of Assimp. The
/// problem begins with the file. A name that matches nothing is a problem.
Expected<Level> read_level(const std::string& file, const LevelFileOptions& options = {});

}  // namespace ambulon
