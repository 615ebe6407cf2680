#pragma once

#include "ambulon/errand/moving_way.hpp"
#include "ambulon/errand/target.hpp"

namespace ambulon {

/// Options of chasing.
struct ChaseOptions {
  float reach = 0.8f;   ///< metres from the target that count as caught, 0.01 to 1000: at one height and with
                        ///< nothing between them. Where NPCs keep apart, touching counts, too
  float give_up = 0.f;  ///< metres from which the target has got away; 0: any; more than `reach`
  float foresight = 1.5f;  ///< seconds it looks ahead of where the target is going, 0 to 60
  float refresh = 0.5f;    ///< metres the target moves before the way is planned anew, 0.01 to 1000
  float act_within = 0.f;  ///< metres at which it is told that it came near and went apart; 0: it is not
  Unreachable unreachable = Unreachable::refuse;  ///< when no way leads to the target
};

/// Runs after somebody, making for where they will meet. Ends as arrived within reach; as gone when the
/// target is or got away; as off_ground, no_way or stuck. `Order::time_limit` makes it give up in time.
class Chase final : public Errand {
 public:
  Chase(Target target, const ChaseOptions& options)
      : quarry_(target), options_(options), way_(options.unreachable) {}

  std::string_view name() const override { return "chase"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return quarry_.now(); }
  float arrival_radius() const override { return options_.reach; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return way_.bends_ahead(); }
  std::string doing() const override { return way_.stands_without_way() ? "waiting for a way" : "chasing"; }

 private:
  std::optional<Outcome> mistake() const;
  Step run(const View& see, const Other& target, float seconds);

  Quarry quarry_;
  ChaseOptions options_;
  bool begun_ = false;
  std::optional<vec3> goal_;
  MovingWay way_;
};

}  // namespace ambulon
