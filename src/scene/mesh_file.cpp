#include "scene/mesh_file.hpp"

#include <algorithm>
#include <assimp/Exporter.hpp>
#include <assimp/scene.h>
#include <memory>
#include <vector>

#include <fmt/format.h>

#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {
namespace {

/// Returns the polygons as triangles, Y up. Polygons share no corners, since the heights of neighbours may
/// differ.
std::unique_ptr<aiScene> scene_of(const ConvexMesh& mesh) {
  std::vector<aiVector3D> corners;
  std::vector<aiFace> faces;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    const auto first = static_cast<unsigned>(corners.size());
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon)) {
      const double height = mesh.height(polygon, side.start);
      corners.emplace_back(static_cast<float>(side.start.x / 1000), static_cast<float>(height / 1000),
                           static_cast<float>(-side.start.y / 1000));
    }
    for (auto third = first + 2; third < corners.size(); ++third) {
      aiFace& face = faces.emplace_back();
      face.mNumIndices = 3;
      face.mIndices = new unsigned[3]{first, third - 1, third};  // owned by the face
    }
  }
  auto scene = std::make_unique<aiScene>();
  scene->mRootNode = new aiNode("ground");  // owned by the scene, as the following
  scene->mNumMaterials = scene->mNumMeshes = scene->mRootNode->mNumMeshes = 1;
  scene->mMaterials = new aiMaterial*[1]{new aiMaterial};
  scene->mMeshes = new aiMesh*[1]{new aiMesh};
  scene->mRootNode->mMeshes = new unsigned[1]{0};
  aiMesh& made = *scene->mMeshes[0];
  made.mName = "ground";
  made.mPrimitiveTypes = aiPrimitiveType_TRIANGLE;
  made.mNumVertices = static_cast<unsigned>(corners.size());
  made.mVertices = new aiVector3D[corners.size()];
  std::ranges::copy(corners, made.mVertices);
  made.mNumFaces = static_cast<unsigned>(faces.size());
  made.mFaces = new aiFace[faces.size()];
  std::ranges::copy(faces, made.mFaces);
  return scene;
}

}  // namespace

Expected<std::string> save_mesh(const ConvexMesh& mesh, const std::string& file) {
  const char* format = file.ends_with(".obj")    ? "objnomtl"
                       : file.ends_with(".gltf") ? "gltf2"
                       : file.ends_with(".glb")  ? "glb2"
                                                 : nullptr;
  if (format == nullptr)
    return problem(
        fmt::format("{}: is not the name of a .obj, .gltf or .glb file, which is what meshes are "
                    "saved as to be looked at",
                    file));
  const auto scene = scene_of(mesh);
  if (scene->mMeshes[0]->mNumFaces == 0)
    return problem(fmt::format("{}: there is nothing that can be walked on to be saved", file));
  Assimp::Exporter exporter;
  if (exporter.Export(scene.get(), format, file) != aiReturn_SUCCESS)
    return problem(fmt::format("{}: cannot be written; is there such a folder?", file));
  return file;
}

}  // namespace ambulon
