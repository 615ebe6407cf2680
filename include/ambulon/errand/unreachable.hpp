#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What an order does if no route leads to a goal, or if the goal is off the ground.
enum class Unreachable : std::uint8_t {
  nearest,  ///< go to the nearest reachable spot, and on to the goal when a route opens
  refuse,   ///< end the order with the reason
  wait,     ///< stand and plan again after 1, 2, 4, 8 and 16 s, and 1 s after the ground has changed
};

}  // namespace ambulon
