#pragma once

#include "ambulon/errand/order_options.hpp"
#include "ambulon/errand/squad.hpp"

#include "errand/moving_goal_follower.hpp"

namespace ambulon {

/// The errand of `Npc::march`.
class March final : public Errand {
 public:
  March(std::shared_ptr<Squad> squad, MarchOptions options) : squad_(std::move(squad)), options_(options) {}
  ~March() override;

  std::string_view name() const override { return "march"; }
  std::optional<vec3> goal() const override { return place_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override {
    return taking_place_ ? final_follower_.bends_ahead() : follower_.bends_ahead();
  }
  std::string doing() const override { return taking_place_ ? "taking its place" : "marching"; }

 private:
  Step keep_up(const View& see, float seconds);
  Step take_place(const View& see, float seconds);

  std::shared_ptr<Squad> squad_;
  MarchOptions options_;
  NpcId me_;
  bool joined_ = false, taking_place_ = false;
  std::optional<vec3> place_;
  double placed_at_ = 0;  // seconds
  vec2 velocity_{0.f};    // of its place in the squad, metres per second
  MovingGoalFollower follower_{Unreachable::wait};
  RouteFollower final_follower_;
};

}  // namespace ambulon
