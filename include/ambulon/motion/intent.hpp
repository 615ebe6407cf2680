#pragma once

#include <limits>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The desired motion that an errand returns, until it is asked again.
struct Intent {
  vec2 velocity{0.f};        ///< metres per second; zero: stand
  vec2 facing{0.f};          ///< unit vector; zero: the direction of travel
  vec2 course{0.f};          ///< unit vector: where it goes beyond the next bend; zero: as `velocity`
  vec2 edge_centre{0.f};     ///< metres: centre of a circle on the plan at which the step ends
  float edge_radius = -1.f;  ///< metres; negative: no circle
  float lasts = std::numeric_limits<float>::infinity();  ///< seconds until the errand is asked again
  float stop = std::numeric_limits<float>::infinity();   ///< metres until it stands, if it slows down to stop
  float queue = 0.f;  ///< metres to the place before which it queues if others hold it up; 0: none
  float turn_rate = std::numeric_limits<float>::infinity();  ///< radians per second, if less than the gait's
  float climb = 0.f;                                         ///< metres per second upwards, if `direct`
  bool direct = false;   ///< velocity and facing apply at once, without the gait's limits
  bool crosses = false;  ///< the NPC now follows the arc in `View::arc` to its end
};

}  // namespace ambulon
