#pragma once
// The speed at which a route takes a given time.

#include <algorithm>

#include "ambulon/motion/gait.hpp"

#include "errand/route_follower.hpp"

namespace ambulon {

/// Returns the metres before a stop from which an NPC that goes at `pace` (metres per second) slows down.
inline float slowing_metres(const Gait& gait, float pace) {
  const float slowed = (1.f - gait.floor_speed * gait.floor_speed) * pace * pace;
  return std::max(gait.slowing_distance, slowed / (2.f * gait.braking));
}

/// Returns the seconds that slowing down to a stop takes more than going on at `pace`.
inline float seconds_of_stop(const Gait& gait, float pace) {
  return slowing_metres(gait, pace) / pace * (1.f - gait.floor_speed) / (1.f + gait.floor_speed);
}

/// Returns the seconds that accelerating to `pace` takes more than going at `pace` from the start.
inline float seconds_of_start(const Gait& gait, float pace) { return pace / (2.f * gait.acceleration); }

/// Returns the speed for `left` metres in `seconds`: not below a tenth and not above twice the `mean` speed.
inline float pace_for(float left, float seconds, float mean) {
  return seconds > 0.f ? std::clamp(left / seconds, 0.1f * mean, 2.f * mean) : 2.f * mean;
}

/// Keeps the time of an order that is to arrive after given seconds.
class ArrivalTime {
 public:
  /// `seconds`: from the first call of `speed`; 0: no time is given.
  explicit ArrivalTime(float seconds) : seconds_(seconds) {}

  float seconds() const { return seconds_; }
  /// Returns the speed to go at, with `left` metres to go.
  float speed(const View& see, float left);

 private:
  float seconds_;
  float mean_ = 0.f;  // metres per second: of the whole route
  float pace_ = 0.f;  // metres per second; 0: it has not set out
  double due_ = -1;   // seconds since the world began; negative: not begun
};

}  // namespace ambulon
