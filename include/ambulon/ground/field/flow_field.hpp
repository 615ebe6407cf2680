#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/ground/tiles/bucket_queue.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

namespace ambulon {

/// From everywhere on a tile ground, how far it is to the nearest of some goals and which way: worked out
/// once, then asked for next to nothing, by any number of NPCs. Distances are those of the eikonal
/// equation, whose fronts spread evenly to all sides, so that ways do not prefer the directions of the grid;
/// costs count. (Solved from the goals outwards as by J. Tsitsiklis, "Efficient Algorithms for Globally
/// Optimal Trajectories" (1995), on the eight triangles around each cell, with roughly sorted fronts as in
/// L. Yatziv, A. Bartesaghi and G. Sapiro, "O(N) Implementation of the Fast Marching Algorithm" (2006), and
/// corrected until nothing changes, so that the result does not depend on the order.)
class FlowField {
 public:
  static constexpr std::uint16_t nowhere = 0xffff;  ///< the number of no goal

  /// The field of up to 65,535 goals (metres) for a body; each goal counts at the spot nearest to it.
  /// `ground` must outlive the field. Nobody is led to goals that are not finite.
  FlowField(const TileGround& ground, std::span<const vec3> goals, const Body& body = {},
            std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// The field by which to flee from the goals of `danger`: it leads to where one gets furthest away from
  /// them, out of dead ends and past them where need be. Its goals are the places from which every step leads
  /// nearer to the danger; each metre further from it there is worth `caution` metres of way (1 to 100). The
  /// less, the likelier is a near refuge; the more, the likelier the furthest. It leads nowhere where the
  /// danger cannot get. `danger` must outlive it, and be updated before it.
  static FlowField away_from(const FlowField& danger, float caution = 1.2f);

  /// Takes in what has changed on the ground; true when anything has. Costs next to nothing when not,
  /// otherwise about as much as the part of the field beyond the change; as making it anew for one to flee
  /// by.
  bool update();

  /// Metres to the goal that it leads to, each times the cost of the ground there; infinite where there is no
  /// way.
  float distance(vec3 position) const;
  /// The number of the goal that it leads to, the nearest; `nowhere` where there is no way.
  std::uint16_t nearest_goal(vec3 at) const;
  /// The unit direction in which to go; zero at a goal and where there is no way.
  vec2 direction(vec3 at) const;
  /// The spot of a goal.
  const Spot& goal(std::uint16_t number) const { return goals_[number].spot; }

  /// For overlays: what it says of a cell.
  float distance_of(Cell cell) const;
  const TileGround& ground() const { return ground_; }
  /// The cells as its body sees them.
  const TileMap& map() const { return map_; }

 private:
  struct Goal {
    vec3 asked;          // metres
    Spot spot = {};      // nearest to it
    bool found = false;  // there is such a spot
    double behind = 0;   // cells by which it is behind the best refuge
  };
  /// What the neighbours of a cell say of it.
  struct Estimate {
    double cells;   // to the goal
    vec2 way{0.f};  // unit vector towards it
  };
  // Cells are numbered with a border around the map, so that none needs looking out for the edge.
  std::uint32_t index(Cell cell) const {
    return static_cast<std::uint32_t>(cell.y + 1) * stride_ + static_cast<std::uint32_t>(cell.x + 1);
  }
  Cell cell_of(std::uint32_t index) const {
    return {static_cast<int>(index % stride_) - 1, static_cast<int>(index / stride_) - 1};
  }
  FlowField(const FlowField& danger, double caution);
  void build();
  void seek_refuges();
  double straight_to(const Goal& goal, Cell cell) const;
  void sow();
  void sow(std::uint16_t number);
  void spread();
  void offer(Cell cell, double cells, std::uint16_t goal);
  static double across(double side, double corner, double cost);
  double cost_of(std::size_t index) const;
  Estimate estimate(Cell cell) const;
  double at(Cell cell) const;
  bool sown(Cell cell) const;
  std::optional<Cell> cell_for(vec2 at) const;
  bool near_goal(CellBox box) const;
  void forget_beyond(CellBox box);
  void seek_goals();

  const TileGround& ground_;
  const FlowField* danger_ = nullptr;  // to flee from, if any
  double caution_ = 1;
  Body body_;
  const TileMap& map_;    // as the body sees it
  std::uint32_t stride_;  // cells from row to row
  std::pmr::vector<Goal> goals_;
  std::pmr::vector<double>
      cells_;  // to its goal, and what that is behind, of each cell; infinite: none, negative: blocked
  std::pmr::vector<std::uint16_t> nearest_;  // goal, of each cell
  BucketQueue open_;
  std::pmr::vector<std::uint32_t> forgotten_;  // cells, by a change
  std::uint64_t revision_ = 0;
};

}  // namespace ambulon
