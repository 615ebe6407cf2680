#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/moving_goal_follower.hpp"
#include "errand/stall.hpp"
#include "errand/target_tracker.hpp"

namespace ambulon {

/// The errand of `Npc::follow`.
class Follow final : public Errand {
 public:
  Follow(Target target, const FollowOptions& options)
      : tracker_(target), options_(options), follower_(options.unreachable) {}

  std::string_view name() const override { return "follow"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return tracker_.now(); }
  float arrival_radius() const override { return options_.stop; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> mistake() const;
  vec3 place_by(const View& see, const Other& target) const;
  float stop_by(const View& see, const Other& target) const;
  Step walk(const View& see, const Other& target, float off, float seconds);
  vec2 keep_up(const View& see, const Other& target, float off, float speed, float seconds) const;

  TargetTracker tracker_;
  FollowOptions options_;
  bool begun_ = false, standing_ = false;
  float behind_ = 0.f;  // metres further than wanted at which it stands, since others are in the way
  Stall stall_;
  std::optional<vec3> goal_;
  MovingGoalFollower follower_;
};

}  // namespace ambulon
