#include "ambulon/scene/mesh_file.hpp"

#include <fstream>

#include <fmt/format.h>

namespace ambulon {

Expected<std::string> save_mesh(const ConvexMesh& mesh, const std::string& file) {
  if (!file.ends_with(".obj"))
    return problem(
        fmt::format("{}: is not the name of a .obj file, which is what meshes are saved as", file));
  std::ofstream stream(file);
  stream << "# what can be walked on: convex polygons, metres\n";
  std::size_t corners = 0;  // those of each polygon are its own, since its height there is
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    std::string face = "f";
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon)) {
      stream << fmt::format("v {:.3f} {:.3f} {:.3f}\n", side.start.x / 1000,
                            mesh.height(polygon, side.start) / 1000, -side.start.y / 1000);
      face += fmt::format(" {}", ++corners);
    }
    if (mesh.polygons()[polygon].count > 0) stream << face << "\n";
  }
  stream.close();
  if (!stream) return problem(fmt::format("{}: cannot be written; is there such a folder?", file));
  return file;
}

}  // namespace ambulon
