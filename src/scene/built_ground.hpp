#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A saved ground, as its file contains it.
struct BuiltGround {
  std::vector<std::byte> bytes;
  bool of_level = false;    ///< false: of a plan
  vec2 min{0.f}, max{0.f};  ///< corners of its bounding rectangle, metres
  std::string source;       ///< the file that it was built from; empty: unknown
  bool outdated = false;    ///< that file has changed since
};

/// Reads a saved ground. The problem begins with the file.
Expected<std::shared_ptr<const BuiltGround>> read_built(const std::string& file);

}  // namespace ambulon
