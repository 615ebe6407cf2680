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

/// A point of a plan in whole millimetres, so that what is asked of it has an exact answer.
struct PlanPoint {
  static constexpr int max = 500'000'000;  ///< millimetres from the origin to each side: 500 km

  int x = 0;
  int y = 0;
  friend constexpr bool operator==(PlanPoint, PlanPoint) = default;
  friend constexpr auto operator<=>(PlanPoint, PlanPoint) = default;
};

/// Twice the area of a triangle in square millimetres, exactly: positive when `c` lies to the left of the way
/// from `a` to `b`, zero when the three lie on one line.
constexpr std::int64_t turn(PlanPoint a, PlanPoint b, PlanPoint c) {
  return (std::int64_t{b.x} - a.x) * (std::int64_t{c.y} - a.y) -
         (std::int64_t{b.y} - a.y) * (std::int64_t{c.x} - a.x);
}

/// Triangles between points, as even as edges that must be among them allow; exact whatever the points.
/// Points are added one by one (C. Lawson, "Software for C1 Surface Interpolation", 1977), edges are let in
/// by flipping those that cross them (S. Sloan, "A Fast Algorithm for Generating Constrained Delaunay
/// Triangulations", 1993).
class Triangulation {
 public:
  /// The triangle's corners counter-clockwise; side i goes from corner i to the next.
  struct Triangle {
    std::array<std::uint32_t, 3> corners;
    std::array<std::uint32_t, 3> beyond;  ///< the triangle on the other side; `none` at the rim
    std::array<std::uint8_t, 3> kept;     ///< sides that must stay: of which outlines they are, in bits
  };
  static constexpr std::uint32_t none = ~std::uint32_t{0};
  static constexpr std::size_t max_regions = 6;

  /// Closed outlines, of which each side is kept. What lies inside of an odd number of them, and of no odd
  /// number of `taken`, is inside of all; a side that comes twice is none. Outlines may cross and touch
  /// themselves and each other; where they cross, a point is added, rounded to the millimetre. The problem
  /// when a point lies beyond `PlanPoint::max`, or when rounding keeps making new crossings. Sides of
  /// `regions`, up to `max_regions` of them, are kept, too; they do not change what is inside.
  static Expected<Triangulation> make(std::span<const std::vector<PlanPoint>> outlines,
                                      std::span<const std::vector<PlanPoint>> taken = {},
                                      std::span<const std::vector<std::vector<PlanPoint>>> regions = {});

  std::span<const PlanPoint> points() const { return points_; }
  std::span<const Triangle> triangles() const { return triangles_; }
  /// For each triangle, whether it lies inside.
  std::vector<bool> inside() const;
  /// For each triangle the regions that it lies in, the first as the lowest bit.
  std::vector<std::uint8_t> regions() const;
  /// True when a side of that mark is an edge of what is inside.
  static constexpr bool is_edge(std::uint8_t kept) { return (kept & 3) != 0; }

 private:
  std::vector<std::uint8_t> marks() const;
  struct Side {
    std::uint32_t triangle, side;
  };

  using Ends = std::pair<std::uint32_t, std::uint32_t>;  // points

  Triangulation(PlanPoint low, PlanPoint high, std::size_t points);
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
  /// A line between two points that is to be kept for some outlines.
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
  std::vector<std::uint32_t> triangle_of_;  // one of those around each point
  std::deque<Ends> crossing_;               // sides that cross the line that is let in
  std::vector<Side> doubtful_;              // sides that may have to be flipped
  std::vector<Line> lines_;                 // still to be kept
  std::size_t crossings_left_ = 0;
};

}  // namespace ambulon
