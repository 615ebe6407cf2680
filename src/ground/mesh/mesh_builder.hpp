#pragma once

#include <cstddef>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/mesh/plan.hpp"

#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_layer.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/widths.hpp"

namespace ambulon {

/// Builds the meshes of a plan or a level, with barriers: surveys the free space, divides it into convex
/// polygons and joins the patches.
class MeshBuilder {
 public:
  using Barriers = std::vector<const PlacedBarrier*>;

  /// All must outlive it. Without a level the plan is used.
  MeshBuilder(const Plan& plan, const std::optional<LevelIndex>& level, const BarrierGround& barriers,
              const Jobs& jobs)
      : plan_(plan), level_(level), barriers_(barriers), jobs_(jobs) {}

  /// Builds the layer of everything that the survey finds, with or without barriers, but without crossings.
  /// Returns null if `progress` cancelled it.
  std::unique_ptr<MeshLayer> whole(const BodySize& size, bool with_barriers,
                                   const MeshProgress& progress) const;
  /// Builds the patches again that a barrier touches.
  void barriers_changed(MeshLayer& layer, const BodySize& size,
                        std::span<const Barrier* const> changed) const;

  /// The triangulations of the floors of a patch without barriers and costs; null: not known.
  using Bases = std::vector<std::shared_ptr<const Triangulation>>;
  /// Returns the polygons of a patch with the barriers near it. `bases`, by floor, is used and completed.
  PatchPolygons polygons(const std::vector<FloorPart>& floors, const Square& square, const BodySize& size,
                         const Barriers& barriers, Bases& bases) const;
  /// Returns the barriers that may obstruct such bodies in a square.
  Barriers barriers_in(const Square& square, const BodySize& size) const;
  /// Returns the maximum height difference of sides that are joined over a border, millimetres.
  double step_between(const BodySize& size) const;
  /// Runs jobs, on the game's threads if there are any. Returns false if `progress` cancelled them.
  bool for_all(std::size_t count, const std::function<void(std::size_t)>& job, MeshPhase phase,
               const MeshProgress& progress) const;

 private:
  bool survey_all(const BodySize& size, PatchGrid& grid, std::vector<std::vector<SurveyedSquare>>& cells,
                  const MeshProgress& progress) const;
  std::vector<SurveyedSquare> squares_of_plan(const PatchGrid& grid, const Outlines& outlines) const;
  std::optional<PatchPolygons> polygons(const FloorPart& floor, const Square& square, const BodySize& size,
                                        const Barriers& barriers,
                                        std::shared_ptr<const Triangulation>& base) const;
  std::vector<CostlyOutlines> costly_in(const FloorPart& floor, const Square& square, const BodySize& size,
                                        const Barriers& barriers) const;
  bool stands_in(const PlacedBarrier& placed, const FloorPart& floor, const Square& square,
                 const BodySize& size) const;

  const Plan& plan_;
  const std::optional<LevelIndex>& level_;
  const BarrierGround& barriers_;
  const Jobs& jobs_;
};

}  // namespace ambulon
