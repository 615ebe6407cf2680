#pragma once
// Functions of angles with the same bits on every machine: those of the C library may differ between
// processors.

#include "ambulon/base/angle.hpp"

namespace ambulon {

/// Returns the cosine of an angle in radians.
inline float cosine(float angle) { return unit(angle).x; }

/// Returns the tangent of an angle in radians.
inline float tangent(float angle) {
  const vec2 way = unit(angle);
  return way.y / way.x;
}

}  // namespace ambulon
