#pragma once

#include "ambulon/base/body.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/motion/gait.hpp"
#include "ambulon/motion/intent.hpp"
#include "ambulon/motion/stance.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The kinematic state of an NPC.
struct Motion {
  vec3 position{0.f};        ///< metres; over steps its height follows a smooth line, at most about half a
                             ///< step off the ground
  vec2 velocity{0.f};        ///< metres per second
  vec2 facing{1.f, 0.f};     ///< unit vector
  float stride_phase = 0.f;  ///< phase of the walk cycle, in [0, 1). It grows with the metres walked, so
                             ///< that feet animated at this phase do not slide. On stairs a foot comes down
                             ///< (0 and 0.5) where a tread begins
  float stride = 1.5f;       ///< metres per walk cycle: `Gait::stride`; on stairs two treads
  float turn = 0.f;          ///< radians left to turn on the spot, positive to the left; 0 in other stances,
                             ///< and for bodies that the game moves
  float stop = 0.f;          ///< metres left until it stands; 0 in stances other than `stopping`
  Stance stance = Stance::idle;

  float speed() const;
  float heading() const { return heading_of(facing); }
};

/// Advances `motion` by `intent` within the limits of `gait`, for at most `seconds` (> 0), and returns the
/// seconds used. These are fewer if the path crosses the intent's circle, if `Intent::lasts` is over, or when
/// the NPC has turned on the spot.
///
/// 1. Speed changes by at most acceleration (or braking) times the seconds used.
/// 2. Acceleration is constant within the step and the path is its exact integral, so the same motion divided
///    into more steps ends at the same place.
/// 3. An intent to stand brakes as hard as the gait allows.
/// 4. The facing turns by at most turn_rate (of the gait or the intent, the lower one) times the seconds
/// used.
/// 5. If the intent has no facing, a moving NPC faces its velocity.
/// 6. A standing NPC turns on the spot until it faces within 45 degrees of the intent's velocity. A gait with
///    `turn_first` turns until it faces it, and also turns on the spot at sharp bends.
/// 7. An NPC that reverses its direction brakes to a stand before it turns.
///
/// A direct intent is exempt: its velocity and facing apply at once.
float advance(Motion& motion, const Gait& gait, const Intent& intent, float seconds);

/// Returns the speed in metres per second above which `body` runs: a Froude number of 0.5. R. M. Alexander,
/// "Optimization and Gaits in the Locomotion of Vertebrates" (1989).
float run_speed(const Body& body);

/// The ground under a step.
struct Footing {
  float stride = 1.5f;               ///< metres per walk cycle, > 0
  Stance walking = Stance::walking;  ///< or `stairs_up`, `stairs_down`
};

/// Sets the stance and what belongs to it (stride phase, stride, `turn`, `stop`) after a step of `metres`
/// with `intent`. `before`: the motion before the step; `run_speed`: metres per second.
void take_stance(Motion& motion, const Motion& before, const Gait& gait, const Intent& intent,
                 const Footing& footing, float run_speed, float metres);

}  // namespace ambulon
