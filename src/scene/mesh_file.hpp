#pragma once

#include <string>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"

#include "ground/mesh/convex_mesh.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Saves the polygons of a mesh as .obj, .gltf or .glb, Y up as usual in these formats. Returns the name of
/// the file, or a problem if it cannot be written.
Expected<std::string> save_mesh(const ConvexMesh& mesh, const std::string& file);

}  // namespace ambulon
