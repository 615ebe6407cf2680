#pragma once
// Steering behaviours: pure functions from what is seen to a wanted velocity.
// The terms are those of C. Reynolds, "Steering Behaviors For Autonomous Characters" (1999).

#include <limits>

#include "ambulon/base/vec.hpp"
#include "ambulon/motion/gait.hpp"
#include "ambulon/motion/motion.hpp"

namespace ambulon {

/// The speed wanted at the end of a step so that the NPC reaches the end of its way at `end_speed`.
/// `distance`: metres left (>= 0); `speed_now`: metres per second towards the end (>= 0);
/// `slowing`: metres per second squared (> 0); `seconds`: length of the step (> 0).
/// Exact for steps that change speed evenly, so the way slowed down does not depend on the step.
float slowing_speed(float distance, float speed_now, float end_speed, float slowing, float seconds);

/// The highest speed at which an NPC that now moves at `velocity` can still turn onto `target`,
/// seen from it (metres), when its velocity changes by at most `change` metres per second squared.
/// Above it the NPC would circle the target. Infinite when it heads straight there.
float turning_speed(vec2 velocity, vec2 target, float change);

/// The highest speed at which a bend from unit direction `in` to unit direction `out` can be taken
/// without leaving the circle of `radius` metres around it. 0 for a turn on the spot.
float bend_speed(vec2 in, vec2 out, float radius, float change);

/// Straight at `target` (metres, seen from the NPC) at `speed`, slower where it could not turn.
vec2 seek(const Motion& motion, const Gait& gait, vec2 target, float speed);

/// A wanted velocity, and the seconds after which another is wanted.
struct Approach {
  vec2 velocity{0.f};
  float lasts = std::numeric_limits<float>::infinity();
};

/// At `target` (metres, seen from the NPC), slowing down evenly over the gait's slowing distance,
/// but not below its floor speed, so as to stand within `radius` metres (> 0) of it.
/// `left`: metres of way left, at least the distance to the target. `speed`: metres per second on
/// the way, before slowing.
Approach arrive(const Motion& motion, const Gait& gait, vec2 target, float left, float radius, float speed,
                float seconds);

/// At `target` without stopping there: enters the circle of `radius` metres around it at
/// `passing_speed` or less. The rest as `arrive`.
Approach pass_through(const Motion& motion, const Gait& gait, vec2 target, float left, float radius,
                      float speed, float passing_speed, float seconds);

}  // namespace ambulon
