#pragma once

#include "ambulon/base/body.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/motion/gait.hpp"
#include "ambulon/motion/intent.hpp"
#include "ambulon/motion/stance.hpp"

namespace ambulon {

/// Where an NPC is and how it moves at one moment.
struct Motion {
  vec3 position{0.f};        ///< metres
  vec2 velocity{0.f};        ///< metres per second
  vec2 facing{1.f, 0.f};     ///< unit vector
  float stride_phase = 0.f;  ///< place in the cycle of both feet, in [0, 1); grows with metres walked,
                             ///< so that feet played at this phase do not slide
  Stance stance = Stance::idle;

  float speed() const { return glm::length(velocity); }
  float heading() const { return heading_of(facing); }
};

/// Moves `motion` by `intent` within the limits of `gait`, for `seconds` (> 0) at the most, and
/// returns the seconds used. It stops short of `seconds` where the way crosses the intent's edge,
/// when the intent has lasted its time, or when a gait that turns first has turned.
///
/// 1. Speed changes by at most acceleration (or braking) times the seconds used.
/// 2. A change of speed is spread evenly over the step and the way is the exact integral of it, so
///    the same motion cut into more steps ends at the same place.
/// 3. Standing still brakes as hard as the gait allows, and not for longer than it takes.
/// 4. The facing turns by at most turn_rate times the seconds used.
///
/// None of these holds for a direct intent, which takes up its velocity and its facing at once.
float advance(Motion& motion, const Gait& gait, const Intent& intent, float seconds);

/// The speed in metres per second above which `body` runs, where the Froude number passes 0.5:
/// R. M. Alexander, "Optimization and Gaits in the Locomotion of Vertebrates" (1989).
float run_speed(const Body& body);

/// Sets stance and stride phase after `motion` went `metres` and came to `speed`, in metres per
/// second; `turned`: its facing changed.
void take_stance(Motion& motion, const Gait& gait, float run_speed, float metres, float speed, bool turned);

}  // namespace ambulon
