#pragma once
// Intersection tests of line segments with circles, lines and boxes. Arrival is tested along the segment that
// a step sweeps, so a fast NPC cannot step over its goal.

#include <algorithm>

#include <glm/common.hpp>

#include "ambulon/base/vec.hpp"

#include "base/geometry.hpp"
#include "base/tolerance.hpp"

namespace ambulon {

/// Returns true if the segment from `was` to `now` touches the circle of `radius` metres around `centre`.
inline bool came_by(vec2 was, vec2 now, vec2 centre, float radius) {
  const vec2 way = now - was, offset = centre - was;
  const float reach = radius + tolerance::arrival_metres(centre);
  const vec2 nearest = offset - nearest_on(vec2(0.f), way, offset);
  return glm::dot(nearest, nearest) <= reach * reach;
}

/// Returns the parameter in [0, 1] at which the segment from `from` to `from + way` enters the circle; 1 if
/// it does not enter it or begins inside.
inline float first_crossing(vec2 from, vec2 way, vec2 centre, float radius) {
  const vec2 offset = from - centre;
  const float inside = radius + tolerance::arrival_metres(centre), square = glm::dot(offset, offset);
  const float a = glm::dot(way, way), b = glm::dot(offset, way), c = square - radius * radius;
  if (square <= inside * inside || b >= 0.f || a == 0.f) return 1.f;
  if (c >= -2.f * b) return 1.f;  // too short: avoids the square root for most steps
  const float root = b * b - a * c;
  return root <= 0.f ? 1.f : std::min(1.f, c / (-b + std::sqrt(root)));
}

/// Returns true if the segments `a` to `b` and `c` to `d` intersect in their interiors. An end point that
/// lies on the other segment does not count.
inline bool lines_cross(vec2 a, vec2 b, vec2 c, vec2 d) {
  return cross(b - a, c - a) * cross(b - a, d - a) < 0.f && cross(d - c, a - c) * cross(d - c, b - c) < 0.f;
}

/// Returns a lower bound on the length in metres of a path from `from` to `to` that visits the axis-aligned
/// box from `low` to `high`: the sum of both distances to the box, and at least the distance between the
/// points.
inline float metres_by_box(vec2 from, vec2 to, vec2 low, vec2 high) {
  const auto off = [&](vec2 point) { return glm::distance(point, glm::clamp(point, low, high)); };
  return std::max(glm::distance(from, to), off(from) + off(to));
}

/// Returns true if the segment from `from` to `to` touches the axis-aligned box from `low` to `high`.
inline bool crosses_box(vec2 from, vec2 to, vec2 low, vec2 high) {
  float enters = 0.f, leaves = 1.f;
  for (int axis = 0; axis < 2; ++axis) {
    const float way = to[axis] - from[axis];
    if (way == 0.f) {
      if (from[axis] < low[axis] || from[axis] > high[axis]) return false;
      continue;
    }
    const float one = (low[axis] - from[axis]) / way, other = (high[axis] - from[axis]) / way;
    enters = std::max(enters, std::min(one, other));
    leaves = std::min(leaves, std::max(one, other));
  }
  return enters <= leaves;
}

}  // namespace ambulon
