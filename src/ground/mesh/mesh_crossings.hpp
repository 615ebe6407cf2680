#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/crossing.hpp"

#include "ground/mesh/convex_mesh.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A crossing from a polygon of a mesh to another. Millimetres.
struct MeshCrossing {
  /// An end of it.
  struct End {
    dvec2 at{0.0};
    double height = 0;
    std::uint32_t polygon = 0;
  };
  Passage kind = Passage::leap;
  End from, to;
  double over = 0;  ///< the height that feet must rise to on the way
  double cost = 0;  ///< that it counts as; no less than the distance between its ends as seen from above
};

/// The crossings of a mesh, and what can be reached by them.
class MeshCrossings {
 public:
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  MeshCrossings() = default;
  /// The ends must lie in their polygons.
  MeshCrossings(const ConvexMesh& mesh, std::vector<MeshCrossing> crossings);

  bool empty() const { return crossings_.empty(); }
  std::span<const MeshCrossing> all() const { return crossings_; }
  /// The first crossing that begins in a polygon, and the one after a crossing that begins in the same;
  /// `none` when there is none.
  std::uint32_t first_from(std::uint32_t polygon) const {
    return polygon < first_.size() ? first_[polygon] : none;
  }
  std::uint32_t next(std::uint32_t crossing) const { return next_[crossing]; }
  /// True of a pocket of the mesh from which, or from further pockets of which, a crossing leads.
  bool leads_from(std::uint32_t pocket) const { return pocket < leads_.size() && leads_[pocket]; }

  /// What can be reached from somewhere; kept by whoever asks, so that no memory is taken when asked again.
  struct Reached {
    std::vector<bool> components;     ///< of each whether it can
    std::vector<std::uint32_t> open;  ///< those from which it is still to be seen how to go on
  };
  /// True when there is a way from polygon to polygon, by crossings too.
  bool reachable(const ConvexMesh& mesh, std::uint32_t from, std::uint32_t to, Reached& reached) const;
  /// The same of polygons between which one can get both ways, of which this is the number: components that
  /// are joined by crossings to and fro have the same.
  std::uint32_t region(const ConvexMesh& mesh, std::uint32_t polygon) const {
    return region_of(mesh.component(polygon));
  }
  /// The region that a component belongs to.
  std::uint32_t region_of(std::uint32_t component) const {
    return crossings_.empty() ? component : region_of_[component];
  }
  /// Finds out of each component whether it can be reached from one of some polygons.
  void reach_from(const ConvexMesh& mesh, std::span<const std::uint32_t> polygons, Reached& reached) const;
  void reach_from(const ConvexMesh& mesh, std::uint32_t polygon, Reached& reached) const {
    reach_from(mesh, std::span(&polygon, 1), reached);
  }

 private:
  void find_regions(const ConvexMesh& mesh);

  std::vector<MeshCrossing> crossings_;
  std::vector<std::uint32_t> first_;      // crossing, of each polygon
  std::vector<bool> leads_;               // from each polygon that is a pocket
  std::vector<std::uint32_t> next_;       // of each crossing, the next that begins in the same polygon
  std::vector<std::uint32_t> region_of_;  // of each component
  std::vector<std::uint32_t> first_out_;  // of each component, in `out_`; then their number
  std::vector<std::uint32_t> out_;        // components to which crossings lead
};

}  // namespace ambulon
