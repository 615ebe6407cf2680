#pragma once

#include <optional>
#include <span>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// A straight line from a point on, in one direction.
struct Ray {
  vec3 from{0.f};                ///< metres
  vec3 direction{0.f, 0.f, -1};  ///< of any length above 0
};

/// True when all of it is finite and it has a direction.
bool sound(const Ray& ray);

/// The point `metres` along a ray.
vec3 along(const Ray& ray, double metres);

/// Metres along a ray to where it meets the level plane at height `z`; nothing when it does not.
std::optional<double> into_height(const Ray& ray, double z);

/// Metres along a ray to where it comes into an upright column from height `bottom` to `top` (metres, finite,
/// `top` >= `bottom`): of convex outline (counter-clockwise, three corners and more), or round, with one
/// corner as its middle, of `radius` metres. 0 when the ray begins inside; nothing when it does not meet it.
std::optional<double> into_column(const Ray& ray, std::span<const vec2> corners, float radius, float bottom,
                                  float top);

}  // namespace ambulon
