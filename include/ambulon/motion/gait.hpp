#pragma once

#include "ambulon/base/angle.hpp"
#include "ambulon/base/problem.hpp"

namespace ambulon {

/// How an NPC moves: the limits that every errand keeps to.
struct Gait {
  float speed = 1.4f;                ///< metres per second, 0.01 to 100
  float acceleration = 4.f;          ///< metres per second squared when speeding up, 0.05 to 1000
  float braking = 6.f;               ///< metres per second squared when slowing down, 0.05 to 1000
  float turn_rate = radians(360.f);  ///< radians per second, 0.01 to 1000
  bool turn_first = false;           ///< stands still and turns before it sets off in another direction
  float slowing_distance = 0.6f;     ///< metres before its goal over which it slows down evenly, 0 to 1000
  float floor_speed = 0.25f;         ///< fraction of `speed` (0 to 1) below which slowing does not go
  float stride = 1.5f;               ///< metres walked in one cycle of both feet, 0.01 to 100
  float clearance = 0.f;             ///< metres that it likes to keep from corners and edges, 0 to 100
  float rounding = 0.f;              ///< metres, radius of the arcs it makes of bends, 0 (none) to 100
  /// Times its own weight that it weighs with all it carries, 0.01 to 100: what its acceleration, braking and
  /// turn rate are for. `with_mass` changes all of them.
  float mass = 1.f;
  /// Seconds without progress after which its orders end as stuck, 0.1 to 1e6; 0: as
  /// `WorldOptions::patience`. `Order::patience` overrides it.
  float patience = 0.f;

  friend bool operator==(const Gait&, const Gait&) = default;
};

/// The gait itself, or the first value that lies out of its range.
Expected<Gait> checked(const Gait& gait);

}  // namespace ambulon
