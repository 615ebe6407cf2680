#pragma once

#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/vec.hpp"

#include "ground/mesh/convex_mesh.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What of a polygon of a mesh lies within an upright box. Its memory is reused.
class MeshPart {
 public:
  /// Takes the polygon, cut to the box from `low` to `high` (millimetres).
  void cut_out(const ConvexMesh& mesh, std::uint32_t polygon, dvec2 low, dvec2 high);
  /// Its corners, counter-clockwise; millimetres.
  std::span<const dvec2> corners() const { return corners_; }
  /// Square millimetres; 0 when nothing of it lies in the box.
  double area() const { return area_; }
  /// A point of it, uniform by area; it must have some.
  dvec2 point(Random& random) const;

 private:
  void cut(int axis, double limit, double sign);

  std::vector<dvec2> corners_, kept_;  // millimetres, counter-clockwise
  double area_ = 0;
};

}  // namespace ambulon
