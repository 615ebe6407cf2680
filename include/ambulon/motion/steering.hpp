#pragma once
// Steering behaviours: pure functions from what is seen to a wanted velocity.
// The terms are those of C. Reynolds, "Steering Behaviors For Autonomous Characters" (1999).

#include <limits>
#include <span>

#include "ambulon/base/random.hpp"
#include "ambulon/base/range.hpp"
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

/// Straight away from `threat` (metres, seen from the NPC) at `speed`; ahead when it stands right on it.
vec2 flee(const Motion& motion, const Gait& gait, vec2 threat, float speed);

/// Where one who goes straight on at `speed` meets `target`, which goes straight on at
/// `target_velocity`: a point in metres, seen from the NPC. Looks `horizon` seconds (>= 0) ahead at the
/// most, and that far when they never meet.
vec2 meeting_point(vec2 target, vec2 target_velocity, float speed, float horizon);

/// At the point where it meets `target`, not at where that is now.
vec2 pursue(const Motion& motion, const Gait& gait, vec2 target, vec2 target_velocity, float speed,
            float horizon = 2.f);

/// Away from the point where `threat` would meet it.
vec2 evade(const Motion& motion, const Gait& gait, vec2 threat, vec2 threat_velocity, float speed,
           float horizon = 2.f);

/// Backs off when `target` (metres, seen from the NPC) is nearer than `band.least`, closes up when it is
/// further than `band.most`, and stands in between.
vec2 keep_distance(const Motion& motion, const Gait& gait, vec2 target, Range band, float speed,
                   float seconds);

/// To `slot`, a place (metres, seen from the NPC) that itself moves at `slot_velocity`, and then along
/// with it: the place beside or behind a leader. Catches up at `speed` at the most.
vec2 follow_offset(const Motion& motion, const Gait& gait, vec2 slot, vec2 slot_velocity, float speed,
                   float seconds);

/// Along the line through `path` (metres; two points or more), by steering for the point of it that
/// lies `look_ahead` metres (> 0) beyond the place nearest to the NPC.
vec2 follow_path(const Motion& motion, const Gait& gait, std::span<const vec2> path, float look_ahead,
                 float speed);

/// The speed at `distance`: from `speeds.least` at `distances.least` and nearer to `speeds.most` at
/// `distances.most` and further, evenly in between. A distance is a length, so diagonals are no faster.
float speed_by_distance(float distance, Range distances, Range speeds);

/// A heading that strays smoothly at random: every so often a new turn is drawn, and taken evenly
/// until the next. By time and not by ticks, so it is the same at any tick rate.
struct Wandering {
  float heading = 0.f;  ///< radians, when the present turn began
  float turn = 0.f;     ///< radians, of the present turn
  double began = 0;     ///< seconds
  int evading = 0;      ///< the side it turns to before an edge: 1 left, -1 right, 0 there is none

  /// The heading at `time`, in radians; draws the turns up to then: each of `most_turn` radians (>= 0)
  /// at the most to either side, in `every` seconds (> 0).
  float at(double time, float most_turn, float every, Random& random);
  /// Goes on from another heading, as at a wall.
  void head(float new_heading, double time);
};

/// The same gait with a load with which it weighs `mass` times (0.01 to 100) its own weight; it is no
/// stronger, so it speeds up, brakes and turns that much more slowly than without. A mass of 1 takes the load
/// off again.
Gait with_mass(Gait gait, float mass);

}  // namespace ambulon
