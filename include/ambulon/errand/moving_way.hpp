#pragma once

#include "ambulon/errand/retry.hpp"
#include "ambulon/errand/way.hpp"

namespace ambulon {

/// The way to a goal that moves: planned anew only when the goal has moved by more than a threshold, and
/// bent along with it meanwhile.
class MovingWay {
 public:
  /// `waits`: where there is no way it stands until there is one; otherwise that is the end.
  explicit MovingWay(bool waits) : waits_(waits) {}

  /// Goes on towards `goal` at `speed`, to stand `radius` metres from it. Nothing when only a straight
  /// line is left to it: then the errand steers for itself.
  std::optional<Step> go_on(const View& see, vec3 goal, float radius, float speed, float refresh,
                            float seconds) {
    const bool stands = retry_.waits() && !way_.waits();
    if (stands && !retry_.due(see)) return Step{};
    if (stands || way_.outdated(see) || glm::distance(goal, planned_for_) > refresh) {
      if (const auto failed = way_.lay(see, goal)) {
        if (!waits_) return ended(*failed);
        retry_.put_off(see, *failed);
        return Step{};
      }
      planned_for_ = goal;
    }
    if (retry_.waits() && way_.waits()) return Step{};
    retry_.over(see);
    way_.move_end(goal);
    way_.at_end(see, radius);  // it counts the bends
    if (way_.on_last_leg()) return std::nullopt;
    return Step{.intent = way_.go_on(see, radius, speed, 0.f, seconds)};
  }

  /// True while there is no way.
  bool stands_without_way() const { return retry_.waits(); }

  std::span<const vec3> bends_ahead() const { return way_.bends_ahead(); }

 private:
  Way way_;
  Retry retry_;
  vec3 planned_for_{0.f};
  bool waits_;
};

}  // namespace ambulon
