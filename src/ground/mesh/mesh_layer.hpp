#pragma once

#include <algorithm>
#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

/// The triangulations of the patches whose barriers changed last, without barriers: each change begins with
/// them. At most 32 patches, since one takes some 50 kB.
class TriangulatedPatches {
 public:
  using Floors = std::vector<std::shared_ptr<const Triangulation>>;

  /// Returns the floors of a patch, and forgets them; nothing if they are not known.
  Floors take(std::uint32_t patch) {
    const auto found = std::ranges::find(known_, patch, &Known::patch);
    if (found == known_.end()) return {};
    Floors floors = std::move(found->floors);
    known_.erase(found);
    return floors;
  }
  /// Keeps the floors of a patch, which has none, as the latest.
  void keep(std::uint32_t patch, Floors floors) {
    if (known_.size() == max) known_.erase(known_.begin());
    known_.push_back({patch, std::move(floors)});
  }

 private:
  static constexpr std::size_t max = 32;
  struct Known {
    std::uint32_t patch;
    Floors floors;
  };
  std::vector<Known> known_;  // the latest last
};

/// A mesh ground for bodies of one size.
struct MeshLayer {
  std::vector<std::vector<FloorPart>> free;  // by patch, without barriers
  ConvexMesh mesh;
  std::vector<std::vector<MeshCrossing>> found{};  // crossings, by patch
  MeshCrossings crossings{};                       // with those placed by hand
  TriangulatedPatches bases{};
  MeshGround::LeftOut left_out{};
};

}  // namespace ambulon
