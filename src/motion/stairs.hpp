#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "ambulon/motion/motion.hpp"

namespace ambulon {

/// Detects stairs from the heights of the ground that a body walks over, and keeps its steps on their treads.
class Stairs {
 public:
  /// Call it after each step. `metres`: walked, in space; `rise`: metres by which the ground under it rose.
  void see(Motion& motion, const Gait& gait, float metres, float rise) {
    since_ = std::min(since_ + metres, 2.f * longest);
    if (std::abs(rise) > lowest && level_) {
      const bool both = since_ >= shortest && since_ <= longest;
      tread_ = static_cast<std::int16_t>(both ? std::copysign(steps * since_, rise) : 0.f);
      // A foot shall come down where the next tread begins: the phase is then a multiple of 0.5.
      const float short_of = std::round(2.f * motion.stride_phase) * 0.5f - motion.stride_phase;
      motion.stride = both ? since_ / (0.5f + std::clamp(short_of, -correction, correction)) : gait.stride;
      since_ = 0.f;
    } else if (steps * since_ > missed * static_cast<float>(std::abs(tread_))) {
      tread_ = 0;
    }
    if (metres > 0.f) level_ = std::abs(rise) < level * metres;
  }
  Footing footing(const Motion& motion, const Gait& gait) const {
    if (tread_ == 0) return {.stride = gait.stride};
    return {.stride = motion.stride, .walking = tread_ > 0 ? Stance::stairs_up : Stance::stairs_down};
  }

 private:
  static constexpr float lowest = 0.05f;                    // metres: height of a riser
  static constexpr float shortest = 0.12f, longest = 0.7f;  // metres, of a tread
  static constexpr float correction = 0.1f;                 // of the phase, in a tread: maximum
  static constexpr float missed = 1.5f;                     // treads without a riser after which stairs end
  static constexpr float level = 0.2f;                      // gradient: less counts as level
  static constexpr float steps = 10'000.f;                  // of `tread_` in a metre

  float since_ = 2.f * longest;  // metres since the last riser
  std::int16_t tread_ = 0;       // 0.1 mm; negative: downwards; 0: not on stairs
  bool level_ = false;
};

}  // namespace ambulon
