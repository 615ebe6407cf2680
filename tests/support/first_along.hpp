#pragma once
// Intersects rays with a level by testing all triangles.

#include <algorithm>
#include <limits>
#include <utility>

#include "ambulon/ground/mesh/level.hpp"

#include "base/geometry.hpp"

namespace ambulon {

/// Returns the ray parameter of the first hit with a triangle, by clipping against its planes.
inline float first_along(const Level& level, vec3 from, vec3 way) {
  float first = std::numeric_limits<float>::infinity();
  for (const Level::Triangle& triangle : level.triangles) {
    const auto corner = [&](std::size_t i) { return level.corners[triangle.corners[i % 3]]; };
    const vec3 normal = glm::cross(corner(1) - corner(0), corner(2) - corner(0));
    const float slope = glm::dot(normal, way);
    if (std::abs(slope) < 1e-6f) continue;
    const float part = glm::dot(normal, corner(0) - from) / slope;
    const vec3 at = from + part * way;
    bool inside = part >= 0;
    for (std::size_t i = 0; i < 3; ++i)
      inside = inside && glm::dot(normal, glm::cross(corner(i + 1) - corner(i), at - corner(i))) >= 0;
    if (inside) first = std::min(first, part);
  }
  return first;
}

/// The minimum and the maximum for slightly shifted rays: a ray may hit or miss an edge.
inline std::pair<float, float> first_along_about(const Level& level, vec3 from, vec3 way) {
  float min = std::numeric_limits<float>::infinity(), max = 0.f;
  for (const vec3 off : {vec3(0), vec3(0.004f, 0, 0), vec3(-0.004f, 0, 0), vec3(0, 0.004f, 0),
                         vec3(0, -0.004f, 0), vec3(0, 0, 0.004f), vec3(0, 0, -0.004f)}) {
    const float beside = first_along(level, from + off, way);
    min = std::min(min, beside), max = std::max(max, beside);
  }
  return {min, max};
}

}  // namespace ambulon
