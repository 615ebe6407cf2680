#pragma once

#include <memory>
#include <optional>

#include "ambulon/base/pool.hpp"
#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/edits.hpp"
#include "ambulon/ground/mesh/convex_mesh.hpp"
#include "ambulon/ground/mesh/mesh_part.hpp"
#include "ambulon/ground/mesh/mesh_search.hpp"
#include "ambulon/ground/mesh/plan.hpp"
#include "ambulon/ground/widths.hpp"

namespace ambulon {

/// A plan to walk on, at z = 0, as a navigation mesh: convex polygons for the middle of a body, one mesh for
/// each width of bodies, made when first asked for and kept. Routes are the shortest there are. A barrier
/// makes anew only the patches of 16 m (more on plans of above 4 km) that it touches.
///
/// Any number of threads may ask at the same time, as long as none changes it. A spot's piece is the number
/// of a polygon, its layer stands for the width of the body; after a change it is found again by its
/// position. Up to 64 widths are told apart, by half a centimetre; one more is taken for the next wider,
/// which must be there already, or else for the widest.
class MeshGround final : public BarrierGround {
 public:
  /// The problem, with its place, when the plan makes no sense. Nobody finds a spot on a plan without any
  /// room.
  static Expected<std::unique_ptr<MeshGround>> make(Plan plan);

  /// The mesh as bodies of `radius` metres (0 to 50) see it; made when first asked for.
  const ConvexMesh& mesh(float radius) const { return mesh_of(width_for(radius)); }
  const Plan& plan() const { return plan_; }

  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  /// Known without a search.
  bool reachable(const Spot& from, const Spot& to) const override;

  /// Where the ground ends, for the middle of a body.
  struct Edge {
    vec3 at{0.f};      ///< metres
    float off = 0.f;   ///< metres from the spot
    vec2 inward{0.f};  ///< unit vector from the edge towards the ground
  };
  /// The edge of the ground that is nearest to a spot, as the crow flies, of the ground that can be reached
  /// from it; nothing when none is within `reach` metres (0 to 1e6).
  std::optional<Edge> nearest_edge(const Spot& spot, float reach) const;

  std::uint64_t revision() const override { return edits_.revision(); }
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const override;

 private:
  /// How bodies of one width see the plan.
  struct Layer {
    std::vector<Outlines> free;  // of each patch, without barriers
    ConvexMesh mesh;
  };
  /// What a thread needs to answer.
  struct Helper {
    MeshSearch search;
    MeshPart part;
  };
  struct Edit {
    vec2 low{0.f}, high{0.f};  // metres
  };

  explicit MeshGround(Plan plan) : plan_(std::move(plan)) {}
  std::uint16_t width_for(float radius) const;
  std::unique_ptr<Layer> make_layer(float radius) const;
  PatchPolygons polygons(const Outlines& free, const PatchGrid& grid, std::uint32_t patch,
                         float radius) const;
  const ConvexMesh& mesh_of(std::uint16_t number) const { return layers_[number].made->mesh; }
  Snap snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point, float reach) const;
  bool search(const Spot& from, const Spot& to, MeshSearch& search) const;
  void barrier_changed(const Barrier& barrier) override;

  Plan plan_;
  Edits<Edit> edits_;
  mutable Widths<std::unique_ptr<Layer>> layers_;
  mutable Pool<Helper> helpers_;
};

}  // namespace ambulon
