#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/moving_goal_follower.hpp"
#include "errand/target_tracker.hpp"

namespace ambulon {

/// The errand of `Npc::chase`.
class Chase final : public Errand {
 public:
  Chase(Target target, const ChaseOptions& options)
      : tracker_(target), options_(options), follower_(options.unreachable) {}

  std::string_view name() const override { return "chase"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return tracker_.now(); }
  float arrival_radius() const override { return options_.reach; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override { return follower_.is_stranded() ? "waiting for a way" : "chasing"; }

 private:
  std::optional<Outcome> mistake() const;
  Step run(const View& see, const Other& target, float seconds);

  TargetTracker tracker_;
  ChaseOptions options_;
  bool begun_ = false;
  std::optional<vec3> goal_;
  MovingGoalFollower follower_;
};

}  // namespace ambulon
