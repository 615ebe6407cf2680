#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A position on a ground, for the body size that it was requested for.
struct Spot {
  vec3 position{0.f};       ///< metres
  std::uint32_t piece = 0;  ///< polygon or cell; defined by the ground
  std::uint16_t layer = 0;  ///< body size; defined by the ground
};

/// The result of `Ground::snap`. True if the spot is within the requested distance.
struct Snap {
  Spot spot = {};       ///< the nearest spot, if `found`
  float off = 0.f;      ///< metres from the point
  bool found = false;   ///< false if the ground is empty or the point is not finite
  bool within = false;  ///< the spot is within the requested distance

  explicit operator bool() const { return within; }
};

}  // namespace ambulon
