#pragma once
// The vectors of GLM, in metres. Axes are right-handed with z up; a 2D game leaves z at 0.

#include <cmath>

#include <glm/common.hpp>
#include <glm/ext/vector_double2.hpp>
#include <glm/geometric.hpp>
#include <glm/vec2.hpp>
#include <glm/vec3.hpp>

namespace ambulon {

using vec2 = glm::vec2;
using vec3 = glm::vec3;
using dvec2 = glm::dvec2;  ///< for calculations in which floats are too coarse

/// Projects `v` onto the xy plane.
inline vec2 flat(vec3 v) { return {v.x, v.y}; }

/// Returns (v.x, v.y, z).
inline vec3 lift(vec2 v, float z = 0.f) { return {v.x, v.y, z}; }

/// Returns the distance of two points in the xy plane, metres.
inline float flat_distance(vec3 a, vec3 b) { return glm::length(flat(b) - flat(a)); }

/// Returns the z component of the cross product: positive if `b` lies counter-clockwise of `a`.
inline float cross(vec2 a, vec2 b) { return a.x * b.y - a.y * b.x; }
inline double cross(dvec2 a, dvec2 b) { return a.x * b.y - a.y * b.x; }

/// Returns the point of the segment from `from` to `to` that is nearest to `point`.
template <class Vec>
Vec nearest_on(Vec from, Vec to, Vec point) {
  const Vec way = to - from;
  const auto square = glm::dot(way, way);
  if (!(square > 0)) return from;
  return from +
         glm::clamp(glm::dot(point - from, way) / square, decltype(square)(0), decltype(square)(1)) * way;
}

/// Returns true if no component is infinite or NaN.
inline bool finite(vec3 v) { return std::isfinite(v.x) && std::isfinite(v.y) && std::isfinite(v.z); }

/// Returns `v` normalised; `fallback` if `v` is shorter than 1e-6.
inline vec2 direction(vec2 v, vec2 fallback = {0.f, 0.f}) {
  const float length = glm::length(v);
  return length > 1e-6f ? v / length : fallback;
}

}  // namespace ambulon
