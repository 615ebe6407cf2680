#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::sway`, which moves back and forth on a sine, or around an ellipse.
///
/// 1. The NPC's place when the order begins is the point of the curve at `phase`.
/// 2. The heading stays, and the gait does not apply.
/// 3. The order ends as `done` after `times`, or as `blocked` if the curve leaves the ground.
struct SwayOptions {
  vec3 axis{1.f, 0.f, 0.f};  ///< metres from the centre to one end, in any direction; up to 1e5 long
  vec3 across{0.f};          ///< metres: the second half axis of an ellipse; (0, 0, 0): a line
  float frequency = 0.1f;    ///< periods per second, 1e-4 to 100
  float phase = 0.f;         ///< radians; 0 is the centre, pi / 2 the end of the axis
  std::uint32_t times = 0;   ///< periods after which the order is done; 0: endless
  bool anywhere = false;     ///< may leave the ground: a raft, a lift
};

}  // namespace ambulon
