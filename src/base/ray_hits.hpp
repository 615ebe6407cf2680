#pragma once
// Where a ray meets planes and columns.

#include <optional>
#include <span>

#include "ambulon/base/ray.hpp"

namespace ambulon {

/// Returns the point at `metres` along the ray.
vec3 along(const Ray& ray, double metres);

/// Returns the distance in metres along the ray to the horizontal plane at height `z`; nothing if it misses
/// it.
std::optional<double> into_height(const Ray& ray, double z);

/// Returns the distance in metres along the ray to a vertical prism or cylinder from height `bottom` to `top`
/// (metres, finite, `top` >= `bottom`). Three corners or more are the convex outline of a prism,
/// counter-clockwise. One corner is the centre of a cylinder of `radius` metres. Returns 0 if the ray begins
/// inside, nothing if it misses.
std::optional<double> into_column(const Ray& ray, std::span<const vec2> corners, float radius, float bottom,
                                  float top);

}  // namespace ambulon
