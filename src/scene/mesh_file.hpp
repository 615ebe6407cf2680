#pragma once

#include <string>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"

#include "ground/mesh/convex_mesh.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Saves the polygons of a mesh as .obj, .gltf or .glb, Y up as is usual there, to be looked at in any
/// viewer. Answers with the file's name; the problem when it cannot be written.
Expected<std::string> save_mesh(const ConvexMesh& mesh, const std::string& file);

}  // namespace ambulon
