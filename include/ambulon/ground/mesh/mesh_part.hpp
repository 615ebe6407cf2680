#pragma once

#include <cstdint>
#include <vector>

#include "ambulon/base/random.hpp"
#include "ambulon/ground/mesh/convex_mesh.hpp"

namespace ambulon {

/// What of a polygon lies within a box.
struct MeshPart {
  std::uint32_t polygon;
  std::vector<dvec2> corners;  ///< millimetres, counter-clockwise
  double area;                 ///< square millimetres

  /// A point of it, uniform by area.
  dvec2 point(Random& random) const;
};

/// Of the polygons of a component, what lies within the upright box from `low` to `high` (millimetres), in
/// the order of their numbers.
std::vector<MeshPart> parts_within(const ConvexMesh& mesh, dvec2 low, dvec2 high, std::uint32_t component);

}  // namespace ambulon
