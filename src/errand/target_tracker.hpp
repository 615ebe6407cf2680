#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/target.hpp"

#include "base/geometry.hpp"

namespace ambulon {

/// As far as one can walk straight from where `other` stands along `offset` (metres).
Stretch beside(const View& see, const Other& other, vec2 offset);

/// True when `other` stands, or as good as.
inline bool stands(const Other& other) { return glm::length(other.velocity) < 0.05f; }

/// Keeps an eye on a target: chooses one of a group, chooses again when that is worthwhile or when the
/// one chosen is gone, and tells when it comes near or goes away.
class TargetTracker {
 public:
  explicit TargetTracker(Target target) : target_(target), now_(target.npc) {}

  /// The NPC it is after, as it was when the tick began; or why there is none.
  tl::expected<Other, Outcome> look(const View& see);
  NpcId now() const { return now_; }

  /// Tells of coming within `metres` of the target and of going further away than that again; 0 does
  /// not look. (Further by a tenth, so that it does not waver at the edge.)
  void watch_distance(const View& see, const Other& target, float metres);

 private:
  Target target_;
  NpcId now_;
  double next_choice_ = 0;  // seconds
  bool near_ = false;
};

}  // namespace ambulon
