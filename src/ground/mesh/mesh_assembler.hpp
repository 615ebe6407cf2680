#pragma once

#include <optional>
#include <vector>

#include "base/dvec2.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {

/// Makes and changes the arrays of a mesh, patch by patch.
class ConvexMesh::Assembler {
 public:
  explicit Assembler(ConvexMesh& mesh)
      : mesh_(mesh),
        patches_(mesh.patches_),
        corners_(mesh.corners_),
        sides_(mesh.sides_),
        polygons_(mesh.polygons_),
        component_of_(mesh.component_of_),
        node_area_(mesh.node_area_) {}

  /// Finds the patches beside each patch.
  void find_neighbours();
  /// Replaces the polygons of patches.
  void replace(std::vector<Change> changes);

 private:
  class Writer;

  template <class Item>
  static void make_room(std::vector<Item>& items, Block& block, std::size_t count);
  template <class Visit>
  void each_around(const std::vector<std::uint32_t>& patches, int reach, Visit&& visit) const;
  std::optional<std::uint32_t> rim_of(std::uint32_t patch, PlanPoint a, PlanPoint b) const;
  void find_ends(std::uint32_t patch);
  void write(std::uint32_t patch);
  void join_rim(std::uint32_t patch, std::uint32_t rim);
  void find_nodes(std::uint32_t patch);
  void find_links(std::uint32_t patch);
  bool on_rim(std::uint32_t patch, dvec2 at) const;
  template <class Test>
  bool any_touches(const std::vector<std::uint32_t>& patches, dvec2 low, dvec2 high, Test&& test) const;
  bool on_rim_of(const std::vector<std::uint32_t>& patches, dvec2 at) const;
  template <class Visit>
  void each_at_rim_of(const std::vector<std::uint32_t>& patches, std::uint32_t patch, Visit&& visit) const;
  void find_bends(std::uint32_t patch);
  void find_bend_after(std::uint32_t side);
  void link_sides(std::uint32_t patch);
  void link_sides_of(std::uint32_t polygon);
  std::vector<bool> open_seams(std::uint32_t patch) const;
  void find_pockets(std::uint32_t patch);
  void find_components();

  ConvexMesh& mesh_;
  // The arrays of the mesh.
  std::vector<Patch>& patches_;
  std::vector<Corner>& corners_;
  std::vector<Side>& sides_;
  std::vector<Polygon>& polygons_;
  std::vector<std::uint32_t>& component_of_;
  std::vector<double>& node_area_;
};

}  // namespace ambulon
