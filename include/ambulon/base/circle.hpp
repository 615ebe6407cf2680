#pragma once
// Steps against circles: how arrival is tested along the way swept and not only where it ends.

#include <algorithm>

#include <glm/common.hpp>

#include "ambulon/base/tolerance.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

/// True when the way from `was` to `now` touches the circle of `radius` metres around `centre`.
inline bool came_by(vec2 was, vec2 now, vec2 centre, float radius) {
  const vec2 way = now - was, offset = centre - was;
  const float reach = radius + tolerance::arrival_metres(centre);
  const vec2 nearest = offset - nearest_on(vec2(0.f), way, offset);
  return glm::dot(nearest, nearest) <= reach * reach;
}

/// The part of the way `from` to `from + way`, from 0 to 1, at which it first crosses into the
/// circle; 1 when it does not, or begins inside.
inline float first_crossing(vec2 from, vec2 way, vec2 centre, float radius) {
  const vec2 offset = from - centre;
  const float inside = radius + tolerance::arrival_metres(centre), square = glm::dot(offset, offset);
  const float a = glm::dot(way, way), b = glm::dot(offset, way), c = square - radius * radius;
  if (square <= inside * inside || b >= 0.f || a == 0.f) return 1.f;
  if (c >= -2.f * b) return 1.f;  // out of reach: spares most steps the square root
  const float root = b * b - a * c;
  return root <= 0.f ? 1.f : std::min(1.f, c / (-b + std::sqrt(root)));
}

/// True when the line from `a` to `b` and that from `c` to `d` cross; not when an end of one lies on the
/// other.
inline bool lines_cross(vec2 a, vec2 b, vec2 c, vec2 d) {
  return cross(b - a, c - a) * cross(b - a, d - a) < 0.f && cross(d - c, a - c) * cross(d - c, b - c) < 0.f;
}

/// A bound from below on the metres from a point to another by way of an upright box from `low` to `high`:
/// the distances of both from the box, but no less than that between them.
inline float metres_by_box(vec2 from, vec2 to, vec2 low, vec2 high) {
  const auto off = [&](vec2 point) { return glm::distance(point, glm::clamp(point, low, high)); };
  return std::max(glm::distance(from, to), off(from) + off(to));
}

/// True when the line from `from` to `to` touches the upright box between the corners `low` and `high`.
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
