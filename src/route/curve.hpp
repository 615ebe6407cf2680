#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A smooth way through a row of points, as a fine polyline with the metres along it.
/// A centripetal Catmull-Rom curve, which has neither cusps nor loops within a leg: C. Yuksel,
/// S. Schaefer and J. Keyser, "Parameterization and Applications of Catmull-Rom Curves" (2011),
/// evaluated by the pyramid of P. Barry and R. Goldman, "A Recursive Evaluation Algorithm for a
/// Class of Catmull-Rom Splines" (1988).
class Curve {
 public:
  explicit Curve(std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Lays the curve through `points` (finite; points on top of each other count once), back to the
  /// first when `closed`. Fewer than two different points give a curve of length 0.
  void lay(std::span<const vec3> points, bool closed);

  /// Metres from the first point to the last, or round to the first again when closed.
  float length() const { return metres_.empty() ? 0.f : metres_.back(); }

  /// Metres along the curve to point `index` of those it was laid through.
  float metres_to(std::size_t index) const { return at_point_[index]; }

  bool closed() const { return closed_; }

  /// The position `metres` along: taken round a closed curve, held at the ends of an open one.
  vec3 position(float metres) const;

  /// The metres along of the place nearest to `position` (seen from above) between `from` and `to`
  /// metres along; on a closed curve both may lie beyond its length. Asking only about the stretch
  /// ahead is how a walker keeps its place on a curve that crosses itself.
  float nearest(vec3 position, float from, float to) const;

  /// The polyline itself, for drawing.
  std::span<const vec3> points() const { return samples_; }

 private:
  float wrapped(float metres) const;
  std::size_t segment_at(float metres) const;

  std::pmr::vector<vec3> samples_;
  std::pmr::vector<float> metres_;    // of each sample
  std::pmr::vector<float> at_point_;  // of each point it was laid through
  bool closed_ = false;
};

}  // namespace ambulon
