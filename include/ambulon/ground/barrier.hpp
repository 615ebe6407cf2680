#pragma once

#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The id of a barrier on a ground; 0 is none.
enum class BarrierId : std::uint32_t {};

/// A convex polygon or a disc that blocks the ground, or changes its cost, until it is removed.
class Barrier {
 public:
  /// Makes a box with sides of `size` (metres, 0.001 to 1000 each), rotated by `heading` (radians). Returns a
  /// problem if a number is out of range; so do the others.
  static Expected<Barrier> box(vec2 centre, vec2 size, float heading = 0.f);
  /// Makes a disc of `radius` metres, 0.001 to 1000.
  static Expected<Barrier> disc(vec2 centre, float radius);
  /// Makes the convex hull of 3 to 64 points (metres) that are not on one line.
  static Expected<Barrier> hull(std::span<const vec2> points);

  /// Returns the shape moved by `way` (metres).
  Barrier moved(vec2 way) const;
  /// Returns the shape limited to heights (metres, not NaN). Otherwise it stands on all storeys. Only levels
  /// distinguish heights. Bodies that can step onto it or pass below it are not blocked.
  Barrier between(float bottom, float top) const;

  /// Returns the shape as walkable ground with a cost per metre (1 to 255). Only for plans and levels.
  Barrier costing(float cost) const;

  /// Returns the corners, counter-clockwise; for a disc its centre.
  std::span<const vec2> corners() const { return corners_; }
  /// Returns the radius of a disc in metres; 0 for other shapes.
  float radius() const { return radius_; }
  /// Returns the heights between which it stands, metres; infinite by default.
  float bottom() const { return bottom_; }
  float top() const { return top_; }
  /// Returns the cost per metre; 0: it blocks.
  float cost() const { return cost_; }
  /// Returns the corners of its bounding box.
  vec2 min() const;
  vec2 max() const;

  /// Returns true if its interior intersects the box between the corners `low` and `high`.
  bool overlaps(vec2 low, vec2 high) const;

 private:
  std::vector<vec2> corners_;
  float radius_ = 0.f, cost_ = 0.f;
  float bottom_ = -std::numeric_limits<float>::infinity(), top_ = std::numeric_limits<float>::infinity();
};

}  // namespace ambulon
