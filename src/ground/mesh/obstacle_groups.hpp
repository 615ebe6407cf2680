#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include <clipper.hpp>

#include "ground/mesh/bins.hpp"

namespace ambulon {

/// Obstacles in groups that can be handled apart: bodies pass between any two groups, and between each and
/// the edges of the ground. Millimetres.
class ObstacleGroups {
 public:
  using Paths = ClipperLib::Paths;

  /// `ground` is not empty. `reach`: radius of the bodies, rounded up.
  ObstacleGroups(const Paths& ground, const Paths& taken, ClipperLib::cInt reach);

  const Paths& at_edge() const { return at_edge_; }             ///< of the ground
  const std::vector<Paths>& inside() const { return inside_; }  ///< on the ground, away from its edges

 private:
  using Point = ClipperLib::IntPoint;
  struct Box {
    Point low, high;
  };

  static Box box_of(std::span<const Point> points, ClipperLib::cInt reach);
  static bool touch(const Box& a, const Box& b);
  void unite_touching(const std::vector<Box>& boxes);
  std::uint32_t root(std::uint32_t i);
  void unite(std::uint32_t a, std::uint32_t b);
  void sort_edges();
  bool on_ground(const Point& p) const;

  std::vector<std::array<Point, 2>> edges_;  // of the ground
  std::vector<std::uint32_t> parent_;        // of the edges, then of the obstacles: union-find
  ClipperLib::cInt low_ = 0, row_ = 1, rows_ = 1;
  Bins edges_in_;  // by row
  Paths at_edge_;
  std::vector<Paths> inside_;
};

}  // namespace ambulon
