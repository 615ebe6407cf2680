#pragma once

#include <memory>

#include "ambulon/base/pool.hpp"
#include "ambulon/ground/ground.hpp"
#include "ambulon/ground/mesh/convex_mesh.hpp"
#include "ambulon/ground/mesh/mesh_search.hpp"
#include "ambulon/ground/mesh/plan.hpp"
#include "ambulon/ground/widths.hpp"

namespace ambulon {

/// A plan to walk on, at z = 0, as a navigation mesh: convex polygons for the middle of a body, one mesh for
/// each width of bodies, made when first asked for and kept. Routes are the shortest there are.
///
/// Any number of threads may ask at the same time. A spot's piece is the number of a polygon, its layer
/// stands for the width of the body. Up to 64 widths are told apart, by half a centimetre; one more is taken
/// for the next wider, which must be there already, or else for the widest.
class MeshGround final : public Ground {
 public:
  /// The problem, with its place, when the plan makes no sense. Nobody finds a spot on a plan without any
  /// room.
  static Expected<std::unique_ptr<MeshGround>> make(Plan plan);

  /// The mesh as bodies of `radius` metres (0 to 50) see it; made when first asked for.
  const ConvexMesh& mesh(float radius) const { return *meshes_[width_for(radius)].made; }
  const Plan& plan() const { return plan_; }

  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  std::uint64_t revision() const override { return 1; }

 private:
  explicit MeshGround(Plan plan) : plan_(std::move(plan)) {}
  std::uint16_t width_for(float radius) const;
  Snap snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point, float reach) const;

  Plan plan_;
  mutable Widths<std::unique_ptr<const ConvexMesh>> meshes_;
  mutable Pool<MeshSearch> searchers_;
};

}  // namespace ambulon
