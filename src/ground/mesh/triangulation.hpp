#pragma once

#include <array>
#include <cstdint>
#include <deque>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/problem.hpp"

#include "base/geometry.hpp"

namespace ambulon {

/// A point in integer millimetres, so that predicates are exact.
struct PlanPoint {
  static constexpr int max = 500'000'000;  ///< millimetres: 500 km from the origin on each axis

  int x = 0;
  int y = 0;
  friend constexpr bool operator==(PlanPoint, PlanPoint) = default;
  friend constexpr auto operator<=>(PlanPoint, PlanPoint) = default;
};

/// Returns twice the signed area of a triangle in square millimetres, exactly. Positive if `c` is left of the
/// line from `a` to `b`, zero if the points are collinear.
constexpr std::int64_t turn(PlanPoint a, PlanPoint b, PlanPoint c) {
  return (std::int64_t{b.x} - a.x) * (std::int64_t{c.y} - a.y) -
         (std::int64_t{b.y} - a.y) * (std::int64_t{c.x} - a.x);
}

/// A constrained Delaunay triangulation with exact predicates.
///
/// Incremental insertion: C. Lawson, "Software for C1 Surface Interpolation" (1977). Constraints by edge
/// flips: S. Sloan, "A Fast Algorithm for Generating Constrained Delaunay Triangulations" (1993).
class Triangulation {
 public:
  /// Corners are counter-clockwise; side i goes from corner i to the next.
  struct Triangle {
    std::array<std::uint32_t, 3> corners;
    std::array<std::uint32_t, 3> beyond;  ///< the adjacent triangle; `none` at the border
    std::array<std::uint8_t, 3> kept;     ///< constrained sides: bits of their outlines
  };
  static constexpr std::uint32_t none = ~std::uint32_t{0};
  static constexpr std::size_t max_regions = 6;
  using Rings = std::span<const std::vector<PlanPoint>>;

  /// Makes the triangulation of closed outlines, whose sides become constraints.
  ///
  /// 1. The inside is what lies inside an odd number of `outlines` and no odd number of `taken`. A side that
  ///    occurs twice cancels itself.
  /// 2. Outlines may cross and touch themselves and each other. At a crossing a point is added, rounded to 1
  ///    mm.
  /// 3. Sides of `regions` (at most `max_regions`) are constraints, too, without effect on the inside.
  /// 4. Returns a problem if a point lies beyond `PlanPoint::max`, or if rounding keeps creating crossings.
  static Expected<Triangulation> make(Rings outlines, Rings taken = {},
                                      std::span<const std::vector<std::vector<PlanPoint>>> regions = {});
  /// Makes it for outlines in the box from `low` to `high`, so that `with` can add other rings in that box.
  static Expected<Triangulation> make_in(PlanPoint low, PlanPoint high, Rings outlines);
  /// Returns a copy with `taken` and `regions`; a problem as `make`, or if a point lies outside the box.
  Expected<Triangulation> with(Rings taken,
                               std::span<const std::vector<std::vector<PlanPoint>>> regions) const;

  std::span<const PlanPoint> points() const { return points_; }
  std::span<const Triangle> triangles() const { return triangles_; }
  /// Returns for each triangle whether it is inside.
  std::vector<bool> inside() const;
  /// Returns for each triangle its regions; the first one is the lowest bit.
  std::vector<std::uint8_t> regions() const;
  /// Returns true if a side with that mark is an edge of the inside.
  static constexpr bool is_edge(std::uint8_t kept) { return (kept & 3) != 0; }

 private:
  std::vector<std::uint8_t> marks() const;
  struct Side {
    std::uint32_t triangle, side;
  };

  using Ends = std::pair<std::uint32_t, std::uint32_t>;  // points

  Triangulation(PlanPoint low, PlanPoint high);
  /// Rings, and the bit of their sides.
  using Kinds = std::vector<std::pair<Rings, std::uint8_t>>;
  static Kinds kinds_of(Rings outlines, Rings taken,
                        std::span<const std::vector<std::vector<PlanPoint>>> regions);
  Expected<void> insert(const Kinds& kinds);
  std::uint32_t add(PlanPoint point, std::uint32_t near);
  std::uint32_t locate(PlanPoint point, std::uint32_t near) const;
  void split(std::uint32_t triangle, std::uint32_t vertex);
  void split(Side side, std::uint32_t vertex);
  Side across(Side side) const;
  Ends ends(Side side) const;
  void join(Side a, std::uint32_t triangle, std::uint8_t kept);
  void flip(Side side);
  void legalize();
  bool illegal(Side side) const;
  bool convex(Side side) const;
  /// A line between two points that becomes a constraint.
  struct Line {
    std::uint32_t from, to;
    std::uint8_t of;
  };
  bool keep(std::uint32_t from, std::uint32_t to, std::uint8_t of);
  bool keep(const Line& line);
  class Fan;
  template <class Test>
  std::pair<Side, bool> first_leaving(std::uint32_t a, std::uint32_t b, Test&& test) const;
  std::pair<Side, bool> leaving(std::uint32_t from, std::uint32_t to) const;
  Side find(std::uint32_t from, std::uint32_t to) const;
  void let_in(std::uint32_t from, std::uint32_t to);
  bool cross(std::uint32_t from, std::uint32_t to, std::uint8_t of, Side crossed);
  void toggle(Side side, std::uint8_t of);

  std::vector<PlanPoint> points_;
  std::vector<Triangle> triangles_;
  std::vector<std::uint32_t> triangle_of_;  // a triangle at each point
  std::deque<Ends> crossing_;               // sides that cross the line being inserted
  std::vector<Side> doubtful_;              // sides that may have to be flipped
  std::vector<Line> lines_;                 // still to be inserted
  std::size_t crossings_left_ = 0;
  PlanPoint low_, high_;  // of the box
};

}  // namespace ambulon
