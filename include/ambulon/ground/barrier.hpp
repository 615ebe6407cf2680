#pragma once

#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

/// A barrier that was put on a ground; 0 is none.
enum class BarrierId : std::uint32_t {};

/// A shape put on a ground, where nobody can walk until it is taken away: a convex outline, or a disc.
class Barrier {
 public:
  /// A box with its middle at `centre` and sides of `size` (metres, 0.001 to 1000 each), turned by
  /// `heading` (radians). The problem when a number is out of range.
  static Expected<Barrier> box(vec2 centre, vec2 size, float heading = 0.f);
  /// A disc of `radius` metres, 0.001 to 1000.
  static Expected<Barrier> disc(vec2 centre, float radius);
  /// The convex hull of 3 to 64 points (metres) that do not lie on one line.
  static Expected<Barrier> hull(std::span<const vec2> points);

  /// The same shape elsewhere: moved by `way` (metres).
  Barrier moved(vec2 way) const;
  /// The same shape from one height to another (metres, not NaN); without, it stands on all floors. Only
  /// levels tell heights apart. Who can step up on it, or walk below it, is not held up.
  Barrier between(float bottom, float top) const;

  /// The same shape as ground that costs so many times the length of a way (1 to 255): nobody is held up by
  /// it. Only plans and levels know such.
  Barrier costing(float cost) const;

  /// The corners, counter-clockwise; one for a disc, its centre.
  std::span<const vec2> corners() const { return corners_; }
  /// Metres by which it reaches beyond its corners; 0 but for discs.
  float radius() const { return radius_; }
  /// The heights between which it stands, metres; infinite without any.
  float bottom() const { return bottom_; }
  float top() const { return top_; }
  /// Times the length of a way over it; 0: it is in the way.
  float cost() const { return cost_; }
  /// The corners of the upright box around it.
  vec2 least() const;
  vec2 most() const;

  /// True when it and the upright box between the corners `low` and `high` have more than an edge in common.
  bool overlaps(vec2 low, vec2 high) const;

 private:
  std::vector<vec2> corners_;
  float radius_ = 0.f, cost_ = 0.f;
  float bottom_ = -std::numeric_limits<float>::infinity(), top_ = std::numeric_limits<float>::infinity();
};

}  // namespace ambulon
