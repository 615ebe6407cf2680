#pragma once
// Angles: radians in code, degrees in scene files. Headings run counter-clockwise from +x.

#include <cmath>

#include "ambulon/base/random.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

inline constexpr float pi = 3.14159265358979f;

constexpr float radians(float degrees) { return degrees * (pi / 180.f); }
constexpr float degrees(float radians) { return radians * (180.f / pi); }

/// Returns the unit vector along `heading` (radians, any finite value).
/// The result has the same bits on every machine: the C library's sine may differ between processors.
vec2 unit(float heading);

/// Returns the heading of `v` in radians, in (-pi, pi]; 0 for a zero vector. Same bits on every machine.
float heading_of(vec2 v);

/// Returns the signed angle in radians, in (-pi, pi], that rotates unit vector `from` onto unit vector `to`.
float angle_between(vec2 from, vec2 to);

/// Rotates unit vector `from` towards unit vector `to` by at most `most` radians (>= 0).
vec2 turned(vec2 from, vec2 to, float most);

/// Rotates `v` by `angle` radians, counter-clockwise.
inline vec2 rotated(vec2 v, float angle) {
  const vec2 turn = unit(angle);
  return {turn.x * v.x - turn.y * v.y, turn.y * v.x + turn.x * v.y};
}

/// Draws a point uniformly by area from the disc of `radius` metres (>= 0) around the origin.
inline vec2 point_in_disc(Random& random, float radius) {
  // Two statements: within one expression the order of the draws is unspecified.
  const float heading = 2.f * pi * random.fraction();
  return radius * std::sqrt(random.fraction()) * unit(heading);
}

}  // namespace ambulon
