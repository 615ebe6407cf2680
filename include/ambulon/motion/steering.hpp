#pragma once
// Steering behaviours: pure functions that return a desired velocity. They work without a world.
// The terms are those of C. Reynolds, "Steering Behaviors For Autonomous Characters" (1999).

#include <limits>
#include <span>

#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/motion/gait.hpp"
#include "ambulon/motion/motion.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Returns the speed at the end of a step with which the NPC arrives at the end of its route at `end_speed`.
/// `distance`: metres left (>= 0); `speed_now`: metres per second towards the end (>= 0); `slowing`: metres
/// per second squared (> 0); `seconds`: time step (> 0). Exact for constant acceleration within a step, so
/// the braking distance does not depend on the time step.
float slowing_speed(float distance, float speed_now, float end_speed, float slowing, float seconds);

/// Returns the highest speed at which an NPC with `velocity` can turn onto `target` (metres, relative to it)
/// if its velocity changes by at most `change` metres per second squared. Faster, it would orbit the target.
/// Infinite if it heads straight there.
float turning_speed(vec2 velocity, vec2 target, float change);

/// Returns the highest speed for a bend from unit direction `in` to unit direction `out` without leaving the
/// circle of `radius` metres around it. 0 for a reversal.
float bend_speed(vec2 in, vec2 out, float radius, float change);

/// Seek: straight to `target` (metres, relative to the NPC) at `speed`, or slower where it could not turn.
vec2 seek(const Motion& motion, const Gait& gait, vec2 target, float speed);

/// A desired velocity, and the seconds for which it is valid.
struct Approach {
  vec2 velocity{0.f};
  float lasts = std::numeric_limits<float>::infinity();
  float stop = std::numeric_limits<float>::infinity();  ///< metres until it stands, if it slows down to stop
};

/// Arrive: to `target` (metres, relative to the NPC), with a speed that falls linearly over the gait's
/// slowing distance, but not below its floor speed, so that the NPC stops within `radius` metres (> 0).
/// `left`: metres of route left, at least the distance to the target. `speed`: metres per second before
/// slowing.
Approach arrive(const Motion& motion, const Gait& gait, vec2 target, float left, float radius, float speed,
                float seconds);

/// As `arrive`, without a stop: enters the circle of `radius` metres around `target` at `passing_speed` or
/// less.
Approach pass_through(const Motion& motion, const Gait& gait, vec2 target, float left, float radius,
                      float speed, float passing_speed, float seconds);

/// Flee: straight away from `threat` (metres, relative to the NPC) at `speed`; ahead if it stands on it.
vec2 flee(const Motion& motion, const Gait& gait, vec2 threat, float speed);

/// Returns the point of interception, in metres relative to the NPC: it moves straight at `speed`, the target
/// at `target_velocity`. Prediction is limited to `horizon` seconds (>= 0).
vec2 meeting_point(vec2 target, vec2 target_velocity, float speed, float horizon);

/// Pursue: seeks the point of interception.
vec2 pursue(const Motion& motion, const Gait& gait, vec2 target, vec2 target_velocity, float speed,
            float horizon = 2.f);

/// Evade: flees from the point of interception.
vec2 evade(const Motion& motion, const Gait& gait, vec2 threat, vec2 threat_velocity, float speed,
           float horizon = 2.f);

/// Backs off while `target` (metres, relative to the NPC) is nearer than `band.min`, approaches while it is
/// further than `band.max`, and stands in between.
vec2 keep_distance(const Motion& motion, const Gait& gait, vec2 target, Range band, float speed,
                   float seconds);

/// Offset following: to `slot`, a place beside or behind a leader (metres, relative to the NPC) that moves at
/// `slot_velocity`, and along with it. Catches up with at most `speed`.
vec2 follow_offset(const Motion& motion, const Gait& gait, vec2 slot, vec2 slot_velocity, float speed,
                   float seconds);

/// Path following: seeks the point of the polyline `path` (metres, 2 points or more) that is `look_ahead`
/// metres (> 0) beyond the point nearest to the NPC.
vec2 follow_path(const Motion& motion, const Gait& gait, std::span<const vec2> path, float look_ahead,
                 float speed);

/// Returns the speed at `distance`: `speeds.min` up to `distances.min`, `speeds.max` from
/// `distances.max` on, linear in between.
float speed_by_distance(float distance, Range distances, Range speeds);

/// The state of the wander behaviour: a heading that changes smoothly. A random turn is drawn at regular
/// times and applied evenly until the next. It depends on time, not on ticks, so it is the same at any tick
/// rate.
struct Wandering {
  float heading = 0.f;  ///< radians, when the present turn began
  float turn = 0.f;     ///< radians, of the present turn
  double began = 0;     ///< seconds
  int evading = 0;      ///< side to which it turns at an edge: 1 left, -1 right, 0 none

  /// Returns the heading at `time` in radians. Draws the turns up to then: one every `every` seconds (> 0),
  /// of at most `max_turn` radians (>= 0) to either side.
  float at(double time, float max_turn, float every, Random& random);
  /// Continues from another heading, as after a wall.
  void head(float new_heading, double time);
};

/// Returns the gait with `mass` times (0.01 to 100) the weight of the body: acceleration, braking and turn
/// rate are divided by it. A mass of 1 removes the load.
Gait with_mass(Gait gait, float mass);

}  // namespace ambulon
