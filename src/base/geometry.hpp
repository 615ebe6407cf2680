#pragma once
// Geometry of vectors. It is apart from vec.hpp since its headers take long to compile.

#include <cmath>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"

namespace ambulon {

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
