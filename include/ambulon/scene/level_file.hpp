#pragma once

#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/level.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How the file of a level is to be understood.
struct LevelFileOptions {
  enum class Up : std::uint8_t { y, z };
  std::optional<Up> up = {};  ///< which axis points up; by default Z for .ply and .stl, and Y for all others
  /// Names of nodes, meshes and materials, in which * stands for anything. What is below a node goes with it.
  std::vector<std::string> decor = {};   ///< that is not there for those who walk
  std::vector<std::string> barred = {};  ///< that is in the way, and never walked on
  /// Surfaces with a cost per metre (1 to 255).
  struct Cost {
    std::string name;
    float cost = 1.f;
  };
  std::vector<Cost> costs = {};
  /// Metres, -1e7 to 1e7, in the axes of this library: added to all coordinates of the file, before these are
  /// rounded. A level far from its origin is brought near it that way.
  vec3 shift{0.f};
};

/// The level of a file of geometry: .gltf, .glb, .obj, .ply, .stl, and whatever else Assimp reads. The
/// problem begins with the file; a name that fits nothing in it is one.
Expected<Level> read_level(const std::string& file, const LevelFileOptions& options = {});

}  // namespace ambulon
