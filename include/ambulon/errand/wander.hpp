#pragma once

#include <optional>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::wander`, which walks without a goal in a smoothly changing direction and turns away from
/// the edge of the ground. The order never ends by itself.
struct WanderOptions {
  float turn = radians(60.f);     ///< radians, the largest change of direction, 0 to 2 pi
  float every = 1.5f;             ///< seconds between changes, 0.05 to 1e6
  float speed = 0.f;              ///< metres per second, up to 100; 0: the gait's speed
  float radius = 0.f;             ///< metres from home at which it turns back, up to 1e5; 0: unlimited
  std::optional<vec3> home = {};  ///< metres; none: where the NPC is when the order begins
};

}  // namespace ambulon
