#pragma once

#include <cstdint>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// A position known to lie on a ground, and where in the ground it is: a spot for the body that it was
/// asked for.
struct Spot {
  vec3 position{0.f};       ///< metres
  std::uint32_t piece = 0;  ///< which piece of the ground; its meaning is the ground's own
  std::uint16_t layer = 0;  ///< for which bodies it is one; its meaning is the ground's own
};

/// The answer of `Ground::snap`: the spot nearest to the point asked about.
struct Snap {
  Spot spot = {};       ///< the nearest spot; meaningless when `found` is false
  float off = 0.f;      ///< metres between the point and the spot
  bool found = false;   ///< false only when the ground is empty or the point is not finite
  bool within = false;  ///< the spot is no further off than was allowed

  explicit operator bool() const { return within; }
};

}  // namespace ambulon
