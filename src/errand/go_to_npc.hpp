#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/moving_goal_follower.hpp"
#include "errand/pacing.hpp"
#include "errand/target_tracker.hpp"

namespace ambulon {

/// The errand of `Npc::go_to` to an NPC.
class GoToNpc final : public Errand {
 public:
  GoToNpc(Target target, const GoToOptions& options)
      : tracker_(target), options_(options), time_(options.arrive_in), follower_(options.unreachable) {}

  std::string_view name() const override { return "go_to"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return tracker_.now(); }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override {
    return follower_.is_stranded() ? "waiting for a way"
           : there_                ? "turning"
                                   : "walking to another character";
  }

 private:
  float reach_of(const View& see, const Other& target) const;
  Step walk(const View& see, const Other& target, float seconds);

  TargetTracker tracker_;
  GoToOptions options_;
  ArrivalTime time_;
  bool begun_ = false;
  bool there_ = false;
  std::optional<vec3> goal_;
  MovingGoalFollower follower_;
};

}  // namespace ambulon
