#pragma once

#include "ambulon/base/angle.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The limits of an NPC's motion; every order keeps to them.
struct Gait {
  float speed = 1.4f;                ///< metres per second, 0.01 to 100
  float acceleration = 4.f;          ///< metres per second squared when speeding up, 0.05 to 1000
  float braking = 6.f;               ///< metres per second squared when slowing down, 0.05 to 1000
  float turn_rate = radians(360.f);  ///< radians per second, 0.01 to 1000
  bool turn_first = false;           ///< turns on the spot until it faces its way; otherwise, from a stand,
                                     ///< until it is within 45 degrees of it
  float slowing_distance = 0.6f;  ///< metres before its goal over which its speed falls linearly, 0 to 1000
  float floor_speed = 0.25f;      ///< lowest speed while slowing, as a fraction of `speed`, 0 to 1
  float stride = 1.5f;            ///< metres per walk cycle (two steps), 0.01 to 100
  float clearance = 0.f;          ///< metres to keep from corners and edges where there is room, 0 to 100
  float bend_distance =
      0.15f;             ///< metres by which it may swing out at a bend, 0.01 to 100: the more, the faster
  float rounding = 0.f;  ///< metres: radius of the arcs on which it passes bends where the ground allows, if
                         ///< that is more than `bend_distance` gives; 0 to 100
  /// Speeds on a slope of 45 degrees (of the line over steps), as fractions of `speed`, 0.05 to 1. On gentler
  /// slopes the speed falls in proportion to the gradient.
  float uphill = 1.f, downhill = 1.f;
  /// Weight including load, as a multiple of the body's own, 0.01 to 100. Acceleration, braking and turn rate
  /// are those with this mass; `with_mass` changes all of them.
  float mass = 1.f;
  /// Seconds without progress after which an order ends as `stuck`, 0.1 to 1e6; 0: `WorldOptions::patience`.
  /// `Order::patience` replaces it.
  float patience = 0.f;

  friend bool operator==(const Gait&, const Gait&) = default;
};

/// Returns a problem that names its first value out of range.
Expected<void> validate(const Gait& gait);

}  // namespace ambulon
