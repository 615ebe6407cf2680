#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {

/// A straight line over a mesh, from edge to edge of it, that a search does not cross. Millimetres.
class ClosedLine {
 public:
  explicit ClosedLine(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : polygons_(memory), corners_(memory) {}

  /// The line from `from` to `to`, both a little beyond the edges, over polygons that lie at most `off` above
  /// or below `height` there.
  void lay(const ConvexMesh& mesh, dvec2 from, dvec2 to, double height, double off);

  /// True when it divides that polygon.
  bool divides(std::uint32_t polygon) const;
  /// How far to its left a point lies, negative to its right.
  double left_of(dvec2 at) const { return cross(along_, at - from_); }
  /// True when a point lies on it, but for a millimetre.
  bool touches(dvec2 at) const;
  /// The corners of the mesh that lie on it, but for a millimetre; some may come several times.
  std::span<const std::uint32_t> corners() const { return corners_; }

 private:
  dvec2 from_{0.0}, to_{0.0}, along_{1.0, 0.0};  // the last one of length 1
  std::pmr::vector<std::uint32_t> polygons_;     // that it divides, in order
  std::pmr::vector<std::uint32_t> corners_;
};

}  // namespace ambulon
