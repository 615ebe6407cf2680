#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"

#include "base/geometry.hpp"

namespace ambulon {

/// Returns the straight walk from `other` along `offset` (metres).
Stretch beside(const View& see, const Other& other, vec2 offset);

/// Returns true if `other` stands (below 0.05 m/s).
inline bool stands(const Other& other) { return glm::length(other.velocity) < 0.05f; }

/// Tracks the target of an errand: chooses one of a group, chooses again if that is worthwhile or if the
/// target is removed, and records when it comes near or leaves.
class TargetTracker {
 public:
  explicit TargetTracker(Target target) : target_(target), now_(target.npc) {}

  /// Returns the target as it was when the tick began, or why there is none.
  tl::expected<Other, Outcome> look(const View& see);
  NpcId now() const { return now_; }

  /// Records and reports when the target comes within `metres`, and when it leaves 1.1 times that distance
  /// (hysteresis). 0: does nothing.
  void watch_distance(const View& see, const Other& target, float metres);

 private:
  Target target_;
  NpcId now_;
  double next_choice_ = 0;  // seconds
  bool near_ = false;
};

}  // namespace ambulon
