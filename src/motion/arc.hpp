#pragma once

#include "ambulon/base/vec.hpp"
#include "ambulon/motion/gait.hpp"
#include "ambulon/motion/stance.hpp"

namespace ambulon {

/// A movement over a crossing: through the air, along a ladder or through a door. Once begun, it runs to its
/// end.
struct Arc {
  vec3 from{0.f}, to{0.f};          ///< metres
  float seconds = 0.f;              ///< duration
  float rise = 0.f;                 ///< metres per second: upward speed at the start; of a jump only
  Stance stance = Stance::walking;  ///< during the movement
  bool falls = false;  ///< true: with the acceleration of gravity; false: straight, at constant speed

  /// Returns a jump over a height (metres). It is as high as the height needs. It is higher if its speed on
  /// the plan would otherwise exceed the gait's speed, or 3 m/s for slower gaits.
  static Arc jump(vec3 from, vec3 to, float over, const Gait& gait);
  /// Returns a straight movement at the gait's speed; on a ladder at half of it.
  static Arc through(vec3 from, vec3 to, const Gait& gait);
  static Arc climb(vec3 from, vec3 to, const Gait& gait);

  /// Returns the position after `time` seconds (>= 0); after the end, the end.
  vec3 at(float time) const;
  /// Returns the velocity on the plan, metres per second.
  vec2 velocity() const { return (flat(to) - flat(from)) / seconds; }
};

}  // namespace ambulon
