#pragma once
// Angles: radians in code, degrees in scene files. Headings run counter-clockwise from +x.

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The ratio of a circle's circumference to its diameter; also half a turn in radians.
inline constexpr float pi = 3.14159265358979f;

/// Converts degrees to radians.
constexpr float radians(float degrees) { return degrees * (pi / 180.f); }
/// Converts radians to degrees.
constexpr float degrees(float radians) { return radians * (180.f / pi); }

/// Returns the unit vector along `heading` (radians, any finite value).
/// The result has the same bits on every machine: the C library's sine may differ between processors.
vec2 unit(float heading);

/// Returns the heading of `v` in radians, in (-pi, pi]; 0 for a zero vector. Same bits on every machine.
float heading_of(vec2 v);

/// Returns the signed angle in radians, in (-pi, pi], that rotates unit vector `from` onto unit vector `to`.
float angle_between(vec2 from, vec2 to);

/// Rotates unit vector `from` towards unit vector `to` by at most `max` radians (>= 0).
vec2 turned(vec2 from, vec2 to, float max);

/// Rotates `v` by `angle` radians, counter-clockwise.
vec2 rotated(vec2 v, float angle);

}  // namespace ambulon
