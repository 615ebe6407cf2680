#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/crossing.hpp"

#include "base/dvec2.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A directed crossing between polygons of a mesh. Millimetres.
struct MeshCrossing {
  /// An end of it.
  struct End {
    dvec2 at{0.0};
    double height = 0;
    std::uint32_t polygon = 0;
  };
  Passage kind = Passage::leap;
  End from, to;
  double over = 0;  ///< height that the feet must reach
  double cost = 0;  ///< at least the distance of its ends on the plan
};

/// The crossings of a mesh, and reachability over them.
class MeshCrossings {
 public:
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  MeshCrossings() = default;
  /// The ends must lie in their polygons.
  MeshCrossings(const ConvexMesh& mesh, std::vector<MeshCrossing> crossings);

  bool empty() const { return crossings_.empty(); }
  std::span<const MeshCrossing> all() const { return crossings_; }
  /// The crossings that begin in a polygon, as a linked list; `none` ends it.
  std::uint32_t first_from(std::uint32_t polygon) const {
    return polygon < first_.size() ? first_[polygon] : none;
  }
  std::uint32_t next(std::uint32_t crossing) const { return next_[crossing]; }
  /// Returns true if a crossing begins in a pocket, or in one of its inner pockets.
  bool leads_from(std::uint32_t pocket) const { return pocket < leads_.size() && leads_[pocket]; }

  /// The result of a reachability query. Callers keep it, so that its memory is reused.
  struct Reached {
    std::vector<bool> components;     ///< by component: reachable
    std::vector<std::uint32_t> open;  ///< components to be expanded
  };
  /// Returns true if there is a path between two polygons, with crossings.
  bool reachable(const ConvexMesh& mesh, std::uint32_t from, std::uint32_t to, Reached& reached) const;
  /// Returns the region of a polygon: components that are connected in both directions have the same region
  /// (strongly connected components).
  std::uint32_t region(const ConvexMesh& mesh, std::uint32_t polygon) const {
    return region_of(mesh.component(polygon));
  }
  /// Returns the region of a component.
  std::uint32_t region_of(std::uint32_t component) const {
    return crossings_.empty() ? component : region_of_[component];
  }
  /// Finds the components that are reachable from polygons.
  void reach_from(const ConvexMesh& mesh, std::span<const std::uint32_t> polygons, Reached& reached) const;
  void reach_from(const ConvexMesh& mesh, std::uint32_t polygon, Reached& reached) const {
    reach_from(mesh, std::span(&polygon, 1), reached);
  }

 private:
  void find_regions(const ConvexMesh& mesh);

  std::vector<MeshCrossing> crossings_;
  std::vector<std::uint32_t> first_;      // first crossing, by polygon
  std::vector<bool> leads_;               // by pocket
  std::vector<std::uint32_t> next_;       // by crossing: the next one from the same polygon
  std::vector<std::uint32_t> region_of_;  // by component
  std::vector<std::uint32_t> first_out_;  // by component, start in `out_`; then the total
  std::vector<std::uint32_t> out_;        // components that crossings lead to
};

}  // namespace ambulon
