#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A half-line.
struct Ray {
  vec3 from{0.f};                ///< its origin, metres
  vec3 direction{0.f, 0.f, -1};  ///< of any length > 0
};

/// Returns true if all components are finite and the direction is not zero.
bool sound(const Ray& ray);

}  // namespace ambulon
