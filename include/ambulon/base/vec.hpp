#pragma once
// The vectors of GLM, in metres. Axes are right-handed with z up; a 2D game leaves z at 0.

#include <glm/ext/vector_float2.hpp>
#include <glm/ext/vector_float3.hpp>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

using vec2 = glm::vec2;  ///< on the plan
using vec3 = glm::vec3;  ///< in space, z up

/// Projects `v` onto the xy plane.
inline vec2 flat(vec3 v) { return {v.x, v.y}; }

/// Returns (v.x, v.y, z).
inline vec3 lift(vec2 v, float z = 0.f) { return {v.x, v.y, z}; }

}  // namespace ambulon
