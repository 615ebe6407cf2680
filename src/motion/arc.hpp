#pragma once

#include "ambulon/base/vec.hpp"
#include "ambulon/motion/gait.hpp"
#include "ambulon/motion/stance.hpp"

namespace ambulon {

/// A way from place to place that is gone to its end once it has been begun: through the air, along a ladder,
/// through a door.
struct Arc {
  vec3 from{0.f}, to{0.f};          ///< metres
  float seconds = 0.f;              ///< that it takes
  float rise = 0.f;                 ///< metres per second upwards at its beginning; of a jump only
  Stance stance = Stance::walking;  ///< on the way
  bool falls = false;               ///< with the acceleration of gravity; false: straight, at an even speed

  /// A jump over a height (metres): as high as it must be, or as high as it takes not to be faster, seen from
  /// above, than `gait` allows, or than 3 m/s.
  static Arc jump(vec3 from, vec3 to, float over, const Gait& gait);
  /// Straight to the other end at the gait's speed, and at half of it on a ladder.
  static Arc through(vec3 from, vec3 to, const Gait& gait);
  static Arc climb(vec3 from, vec3 to, const Gait& gait);

  /// The position after `seconds` (>= 0); its end after that.
  vec3 at(float time) const;
  /// Metres per second, seen from above.
  vec2 velocity() const { return (flat(to) - flat(from)) / seconds; }
};

}  // namespace ambulon
