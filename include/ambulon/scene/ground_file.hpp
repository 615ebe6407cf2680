#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A ground that was built beforehand, as its file holds it.
struct BuiltGround {
  std::vector<std::byte> bytes;
  bool of_level = false;    ///< else of a plan
  vec2 min{0.f}, max{0.f};  ///< the corners of the rectangle that holds it, metres
  std::string source;       ///< the file that it was made of, where it should be now; empty: not known
  bool outdated = false;    ///< that file is there, and not as it was
};

/// Saves a ground with all its meshes, to be read by `read_built`. `source` is the file of the level or plan
/// that it was made of. Answers with the file's name; the problem when it cannot be written.
Expected<std::string> save_built(const MeshGround& ground, const std::string& source,
                                 const std::string& file);

/// The problem begins with the file, and says what is wrong with it.
Expected<std::shared_ptr<const BuiltGround>> read_built(const std::string& file);

}  // namespace ambulon
