#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A smooth curve through points, as a fine polyline with arc lengths.
///
/// Centripetal Catmull-Rom splines, which have neither cusps nor loops within a leg: C. Yuksel, S. Schaefer,
/// J. Keyser, "Parameterization and Applications of Catmull-Rom Curves" (2011). Evaluated by the pyramid of
/// P. Barry and R. Goldman, "A Recursive Evaluation Algorithm for a Class of Catmull-Rom Splines" (1988).
class Curve {
 public:
  explicit Curve(std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Interpolates `points` (finite; coinciding neighbours count once); back to the first if `closed`. Fewer
  /// than two different points give a curve of length 0.
  void lay(std::span<const vec3> points, bool closed);

  /// Returns the length in metres, from the first point to the last, or to the first again if closed.
  float length() const { return metres_.empty() ? 0.f : metres_.back(); }

  /// Returns the arc length to input point `index`, metres.
  float metres_to(std::size_t index) const { return at_point_[index]; }

  bool closed() const { return closed_; }

  /// Returns the position at an arc length in metres. A closed curve wraps around; an open one is clamped.
  vec3 position(float metres) const;

  /// Returns the arc length of the place nearest to `position` on the plan, between `from` and `to`. On a
  /// closed curve both may exceed its length. Searching only the stretch ahead keeps the place of an NPC on a
  /// curve that crosses itself.
  float nearest(vec3 position, float from, float to) const;

  /// Returns the polyline, for drawing.
  std::span<const vec3> points() const { return samples_; }

 private:
  float wrapped(float metres) const;
  std::size_t segment_at(float metres) const;

  std::pmr::vector<vec3> samples_;
  std::pmr::vector<float> metres_;    // of each sample
  std::pmr::vector<float> at_point_;  // of each input point
  bool closed_ = false;
};

}  // namespace ambulon
