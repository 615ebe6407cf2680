#include "errand/pacing.hpp"

#include <algorithm>
#include <cmath>

#include "base/allowed.hpp"

namespace ambulon {
namespace {

/// Returns the metres that an NPC would go at constant speed `pace` in the time in which it goes `left`
/// metres and stops. It slows down at an even rate from a distance on, to its floor speed.
float metres_at_pace(const Gait& gait, float pace, float left) {
  const float slowing = slowing_metres(gait, pace), floor = gait.floor_speed;
  if (slowing <= 0.f || left <= 0.f) return left;
  const float part = std::min(1.f, left / slowing);
  const float from = std::sqrt(floor * floor + (1.f - floor * floor) * part);  // of the pace
  return left + part * slowing * (2.f / (from + floor) - 1.f);
}

}  // namespace

float ArrivalTime::speed(const View& see, float left) {
  if (seconds_ <= 0.f) return see.gait.speed;
  if (due_ < 0) due_ = see.time + static_cast<double>(seconds_);
  if (left <= 0.f) return pace_ > 0.f ? pace_ : see.gait.speed;
  const auto until = static_cast<float>(due_ - see.time);
  mean_ = std::max(mean_, left / seconds_);  // a detour makes it longer
  const float pace = pace_ > 0.f ? pace_ : mean_;
  const float started = std::clamp(see.me.speed() / pace, 0.f, 1.f);
  const float starting = (1.f - started) * (1.f - started) * seconds_of_start(see.gait, pace);
  pace_ =
      std::min(pace_for(metres_at_pace(see.gait, pace, left), until - starting, mean_), allowed::speeds.max);
  return pace_;
}

}  // namespace ambulon
