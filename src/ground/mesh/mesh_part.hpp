#pragma once

#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The part of a polygon within a box on the plan. Its memory is reused.
class MeshPart {
 public:
  /// Clips a polygon to the box from `low` to `high` (millimetres).
  void cut_out(const ConvexMesh& mesh, std::uint32_t polygon, dvec2 low, dvec2 high);
  /// Returns its corners, counter-clockwise, millimetres.
  std::span<const dvec2> corners() const { return corners_; }
  /// Returns its area in square millimetres; 0 if it is empty.
  double area() const { return area_; }
  /// Returns a random point, uniform by area; it must not be empty.
  dvec2 point(Random& random) const;

 private:
  void cut(int axis, double limit, double sign);

  std::vector<dvec2> corners_, kept_;  // millimetres, counter-clockwise
  double area_ = 0;
};

}  // namespace ambulon
