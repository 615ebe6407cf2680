#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How a blend combines its behaviours.
enum class BlendMode : std::uint8_t {
  weighted,  ///< the mean, by weight and urgency
  priority,  ///< in order, until the budget is used up
};

/// Options of `Npc::steer`, which steers by a blend of behaviours. The order never ends by itself.
struct SteerOptions {
  BlendMode mode = BlendMode::weighted;
  float budget = 1.f;      ///< sum of urgencies that `priority` uses, 0 to 1
  float speed = 0.f;       ///< metres per second, up to 100; 0: the gait's speed
  float min_speed = 0.f;   ///< metres per second, up to 100: never slower, like birds
  float settle = 0.2f;     ///< seconds over which the desired velocity is smoothed, 0 to 10
  float queue_gap = -1.f;  ///< metres to keep behind the NPC that walks ahead; negative: no queueing
};

}  // namespace ambulon
