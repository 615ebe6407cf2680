#pragma once

#include <cstdint>
#include <memory>
#include <memory_resource>
#include <span>

#include "ambulon/base/body.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/spot.hpp"
#include "ambulon/ground/tiles/cell.hpp"

namespace AMBULON_PUBLIC ambulon {

class TileGround;
class TileMap;

/// Distances and directions from every cell of a tile ground to the nearest of several goals. They are
/// computed once, and each query takes constant time, for any number of NPCs.
///
///     const ambulon::FlowField exits(ground, gates);
///     for (ambulon::Npc visitor : visitors) visitor.flow(exits);
///
/// Distances solve the eikonal equation, so routes do not prefer the directions of the grid; costs of cells
/// count. The fronts start at the goals (J. Tsitsiklis, "Efficient Algorithms for Globally Optimal
/// Trajectories", 1995), spread over the eight triangles around each cell in roughly sorted order (L. Yatziv,
/// A. Bartesaghi and G. Sapiro, "O(N) Implementation of the Fast Marching Algorithm", 2006), and are
/// corrected until nothing changes, so the result does not depend on that order.
class FlowField {
 public:
  static constexpr std::uint16_t nowhere = 0xffff;  ///< the number of no goal

  /// Makes the field of up to 65,535 goals (metres) for a body. A goal moves to the nearest spot; goals that
  /// are not finite are ignored. `ground` must outlive the field.
  FlowField(const TileGround& ground, std::span<const vec3> goals, const Body& body = {},
            std::pmr::memory_resource* memory = std::pmr::get_default_resource());
  FlowField(FlowField&& other) noexcept;
  FlowField& operator=(FlowField&& other) noexcept;
  ~FlowField();

  /// Makes the field along which to flee from the goals of `danger`: to the places that are locally furthest
  /// from them, out of dead ends and past the danger where necessary. A place 1 m further from the danger is
  /// worth a route that is `caution` metres longer (1 to 100): small values prefer near refuges. Cells that
  /// the danger cannot reach lead nowhere. `danger` must outlive the field and be updated before it.
  static FlowField away_from(const FlowField& danger, float caution = 1.2f);

  /// Updates the field after the ground has changed, and returns true if it had. Only the part of the field
  /// beyond a change is computed again; a field of `away_from` is computed again as a whole.
  bool update();

  /// Returns the metres to the nearest goal, each times the cost of its cell; infinity without a route.
  float distance(vec3 position) const;
  /// Returns the number of the nearest goal; `nowhere` without a route.
  std::uint16_t nearest_goal(vec3 at) const;
  /// Returns the unit direction to go in; zero at a goal and without a route.
  vec2 direction(vec3 at) const;
  /// Returns the spot of a goal.
  const Spot& goal(std::uint16_t number) const;

  /// Returns the distance at the centre of a cell, for overlays.
  float distance_of(Cell cell) const;
  const TileGround& ground() const;
  /// Returns the cells as the field's body sees them.
  const TileMap& map() const;

 private:
  class AMBULON_HIDDEN Impl;
  explicit FlowField(std::unique_ptr<Impl> impl);

  std::unique_ptr<Impl> impl_;
};

}  // namespace ambulon
