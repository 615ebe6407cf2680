// Reads levels from geometry files.

#include <algorithm>
#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <filesystem>
#include <fnmatch.h>

#include <fmt/format.h>
#include <glm/ext/matrix_double4x4.hpp>
#include <glm/ext/vector_double3.hpp>
#include <glm/ext/vector_double4.hpp>

#include "ambulon/base/range.hpp"
#include "ambulon/scene/ground_file.hpp"

#include "scene/names.hpp"

namespace ambulon {
namespace {

/// Name patterns with wildcards, and which of them have matched.
class Patterns {
 public:
  explicit Patterns(const std::vector<std::string>& patterns) : patterns_(patterns), met_(patterns.size()) {}

  /// Returns the last one that matches a name, if any.
  std::optional<std::size_t> last_that_fits(const std::string& name) {
    std::optional<std::size_t> last;
    for (std::size_t i = 0; i < patterns_.size(); ++i)
      if (!name.empty() && fnmatch(patterns_[i].c_str(), name.c_str(), 0) == 0) met_[i] = true, last = i;
    return last;
  }
  bool fit(const std::string& name) { return last_that_fits(name).has_value(); }
  /// Returns the first one that has matched nothing, if any.
  const std::string* unmet() const {
    const auto first = std::ranges::find(met_, false);
    return first == met_.end() ? nullptr : &patterns_[static_cast<std::size_t>(first - met_.begin())];
  }

 private:
  const std::vector<std::string>& patterns_;
  std::vector<bool> met_;
};

std::vector<std::string> names_of(const std::vector<LevelFileOptions::Cost>& costs) {
  std::vector<std::string> names;
  for (const auto& each : costs) names.push_back(each.name);
  return names;
}

class Reading {
 public:
  Reading(const aiScene& scene, const LevelFileOptions& options, bool y_up)
      : scene_(scene),
        decor_(options.decor),
        barred_(options.barred),
        cost_names_(names_of(options.costs)),
        costs_(options.costs),
        costly_(cost_names_),
        y_up_(y_up),
        shift_(options.shift) {
    read(*scene.mRootNode, aiMatrix4x4(), {});
  }

  Level& level() { return level_; }
  /// Returns a pattern that has matched nothing, and its key.
  std::optional<std::pair<std::string, std::string>> unmet() const {
    if (const auto* name = decor_.unmet()) return std::pair("decor", *name);
    if (const auto* name = barred_.unmet()) return std::pair("barred", *name);
    if (const auto* name = costly_.unmet()) return std::pair("cost", *name);
    return std::nullopt;
  }
  const std::vector<std::string>& names() const { return names_; }

 private:
  /// The properties of the triangles below a node or of a mesh.
  struct Stuff {
    Level::Kind kind = Level::Kind::solid;
    float cost = 1.f;
  };

  Stuff stuff_of(const std::string& name, Stuff otherwise) {
    if (!name.empty() && std::ranges::find(names_, name) == names_.end()) names_.push_back(name);
    const bool decor = decor_.fit(name), barred = barred_.fit(name);
    if (decor || barred) otherwise.kind = decor ? Level::Kind::decor : Level::Kind::barred;
    if (const auto which = costly_.last_that_fits(name)) otherwise.cost = costs_[*which].cost;
    return otherwise;
  }

  void read(const aiNode& node, const aiMatrix4x4& above, Stuff stuff) {
    const aiMatrix4x4 placed = above * node.mTransformation;
    stuff = stuff_of(node.mName.C_Str(), stuff);
    for (unsigned i = 0; i < node.mNumMeshes; ++i) read(*scene_.mMeshes[node.mMeshes[i]], placed, stuff);
    for (unsigned i = 0; i < node.mNumChildren; ++i) read(*node.mChildren[i], placed, stuff);
  }

  void read(const aiMesh& mesh, const aiMatrix4x4& placed, Stuff stuff) {
    stuff = stuff_of(mesh.mName.C_Str(), stuff);
    if (mesh.mMaterialIndex < scene_.mNumMaterials)
      stuff = stuff_of(scene_.mMaterials[mesh.mMaterialIndex]->GetName().C_Str(), stuff);
    const auto first = static_cast<std::uint32_t>(level_.corners.size());
    const glm::dmat4 placed_in_double(placed.a1, placed.b1, placed.c1, placed.d1, placed.a2, placed.b2,
                                      placed.c2, placed.d2, placed.a3, placed.b3, placed.c3, placed.d3,
                                      placed.a4, placed.b4, placed.c4, placed.d4);
    for (unsigned i = 0; i < mesh.mNumVertices; ++i) {
      const glm::dvec3 at =
          placed_in_double * glm::dvec4(mesh.mVertices[i].x, mesh.mVertices[i].y, mesh.mVertices[i].z, 1);
      level_.corners.push_back(vec3((y_up_ ? glm::dvec3(at.x, -at.z, at.y) : at) + shift_));
    }
    for (unsigned i = 0; i < mesh.mNumFaces; ++i)
      if (const aiFace& face = mesh.mFaces[i]; face.mNumIndices == 3)
        level_.triangles.push_back(
            {{first + face.mIndices[0], first + face.mIndices[1], first + face.mIndices[2]},
             stuff.kind,
             stuff.cost});
  }

  const aiScene& scene_;
  Patterns decor_, barred_;
  std::vector<std::string> cost_names_;
  const std::vector<LevelFileOptions::Cost>& costs_;
  Patterns costly_;
  bool y_up_;
  glm::dvec3 shift_;  // metres
  Level level_;
  std::vector<std::string> names_;  // of nodes, meshes and materials, in order of appearance
};

}  // namespace

Expected<Level> read_level(const std::string& file, const LevelFileOptions& options) {
  const auto wrong = [&](std::string_view what) { return problem(fmt::format("{}: {}", file, what)); };
  const float furthest_shift = 1e7f;
  for (int axis = 0; axis < 3; ++axis)
    if (!Range{-furthest_shift, furthest_shift}.holds(options.shift[axis]))
      return wrong(fmt::format("is to be shifted by {} m; it must be {:g} m at most", options.shift[axis],
                               furthest_shift));
  if (!std::filesystem::is_regular_file(file)) return wrong("cannot be read; is it there?");
  Assimp::Importer importer;
  // Lines and points cannot be walked on.
  importer.SetPropertyInteger(AI_CONFIG_PP_SBP_REMOVE, aiPrimitiveType_POINT | aiPrimitiveType_LINE);
  const aiScene* scene = importer.ReadFile(file, aiProcess_Triangulate | aiProcess_SortByPType);
  if (scene == nullptr || scene->mRootNode == nullptr)
    return wrong(fmt::format("is no level that can be read: {}", importer.GetErrorString()));
  const bool z_up =
      options.up ? *options.up == LevelFileOptions::Up::z : file.ends_with(".ply") || file.ends_with(".stl");
  Reading reading(*scene, options, !z_up);
  if (const auto unmet = reading.unmet()) {
    std::vector<std::string_view> known(reading.names().begin(), reading.names().end());
    return wrong(fmt::format("no node, mesh or material fits \"{}\" in {}{}", unmet->second, unmet->first,
                             scene::did_you_mean(unmet->second, known)));
  }
  if (reading.level().triangles.empty()) return wrong("has no triangles");
  return std::move(reading.level());
}

}  // namespace ambulon
