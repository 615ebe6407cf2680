#pragma once
// Angles: radians in code, degrees in scene files. Headings run counter-clockwise from +x.

#include <cmath>

#include "ambulon/base/random.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

inline constexpr float pi = 3.14159265358979f;

constexpr float radians(float degrees) { return degrees * (pi / 180.f); }
constexpr float degrees(float radians) { return radians * (180.f / pi); }

/// The unit vector that points along `heading` (radians, any finite value).
/// The same bits on every machine: the C library's sine may differ from one processor to the next.
vec2 unit(float heading);

/// The heading of `v`, in (-pi, pi]; 0 for a zero vector. The same bits on every machine.
float heading_of(vec2 v);

/// The signed angle in (-pi, pi] that turns unit vector `from` onto unit vector `to`.
float angle_between(vec2 from, vec2 to);

/// Unit vector `from` turned towards unit vector `to`, by `most` radians (>= 0) at the most.
vec2 turned(vec2 from, vec2 to, float most);

/// `v` turned by `angle` (radians), counter-clockwise.
inline vec2 rotated(vec2 v, float angle) {
  const vec2 turn = unit(angle);
  return {turn.x * v.x - turn.y * v.y, turn.y * v.x + turn.x * v.y};
}

/// Uniform by area in the disc of `radius` metres (>= 0) around the origin.
inline vec2 point_in_disc(Random& random, float radius) {
  // One draw after the other: in one expression, each compiler would draw them in its own order.
  const float heading = 2.f * pi * random.fraction();
  return radius * std::sqrt(random.fraction()) * unit(heading);
}

}  // namespace ambulon
