#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {

/// A straight line from edge to edge of a mesh that a search must not cross. Millimetres.
class ClosedLine {
 public:
  explicit ClosedLine(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : polygons_(memory), corners_(memory) {}

  /// Sets the line from `from` to `to`, which are slightly beyond the edges. It covers polygons whose height
  /// there differs from `height` by at most `off`.
  void lay(const ConvexMesh& mesh, dvec2 from, dvec2 to, double height, double off);

  /// Returns true if it divides the polygon.
  bool divides(std::uint32_t polygon) const;
  /// Returns the distance of a point to its left; negative: to its right.
  double left_of(dvec2 at) const { return cross(along_, at - from_); }
  /// Returns true if a point is within 1 mm of it.
  bool touches(dvec2 at) const;
  /// Returns the corners of the mesh within 1 mm of it, possibly with repetitions.
  std::span<const std::uint32_t> corners() const { return corners_; }

 private:
  dvec2 from_{0.0}, to_{0.0}, along_{1.0, 0.0};  // the last one of length 1
  std::pmr::vector<std::uint32_t> polygons_;     // that it divides, ascending
  std::pmr::vector<std::uint32_t> corners_;
};

}  // namespace ambulon
