#pragma once

#include <vector>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/survey.hpp"

namespace ambulon {

/// A mesh ground for bodies of one size.
struct MeshLayer {
  std::vector<std::vector<FloorPart>> free;  // by patch, without barriers
  ConvexMesh mesh;
  std::vector<std::vector<MeshCrossing>> found{};  // crossings, by patch
  MeshCrossings crossings{};                       // with those placed by hand
  MeshGround::LeftOut left_out{};
};

}  // namespace ambulon
