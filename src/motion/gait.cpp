#include "ambulon/motion/gait.hpp"

#include "base/allowed.hpp"
#include "base/limits.hpp"

namespace ambulon {

Expected<void> validate(const Gait& gait) {
  const detail::MemberLimit limits[] = {
      {"speed", " m/s", gait.speed, 0.01f, 100.f},
      {"acceleration", " m/s^2", gait.acceleration, 0.05f, 1000.f},
      {"braking", " m/s^2", gait.braking, 0.05f, 1000.f},
      {"turn_rate", " rad/s", gait.turn_rate, 0.01f, 1000.f},
      {"slowing_distance", " m", gait.slowing_distance, 0.f, 1000.f},
      {"floor_speed", "", gait.floor_speed, 0.f, 1.f},
      {"stride", " m", gait.stride, 0.01f, 100.f},
      {"clearance", " m", gait.clearance, 0.f, 100.f},
      {"bend_distance", " m", gait.bend_distance, 0.01f, 100.f},
      {"rounding", " m", gait.rounding, 0.f, 100.f},
      {"uphill", "", gait.uphill, 0.05f, 1.f},
      {"downhill", "", gait.downhill, 0.05f, 1.f},
      {"mass", " times its own weight", gait.mass, 0.01f, 100.f},
  };
  if (const auto* broken = detail::first_out_of_range(limits)) return detail::out_of_range("gait", *broken);
  if (gait.patience != 0.f && !allowed::patiences.holds(gait.patience))
    return problem(
        fmt::format("gait patience is {} s; it must lie between {} and {}, or be 0 for the world's",
                    gait.patience, allowed::patiences.min, allowed::patiences.max));
  return {};
}

}  // namespace ambulon
