#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/moving_goal_follower.hpp"
#include "errand/stall.hpp"
#include "errand/target_tracker.hpp"

namespace ambulon {

/// The errand of `Npc::escort`.
class Escort final : public Errand {
 public:
  Escort(NpcId leader, const EscortOptions& options)
      : leader_(leader), options_(options), follower_(options.unreachable) {}

  std::string_view name() const override { return "escort"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return leader_; }
  NpcId leader() const override { return leader_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override {
    if (follower_.is_stranded()) return "waiting for a way";
    return goal_ ? "coming after its leader" : "standing by";
  }

 private:
  std::optional<Outcome> mistake(const View& see) const;
  void choose_place(const View& see, const Other& leader);
  bool taken(const View& see, vec3 place) const;

  NpcId leader_;
  EscortOptions options_;
  bool begun_ = false;
  vec2 place_{0.f};           // metres, relative to the leader
  std::optional<vec3> goal_;  // while it walks
  Stall stall_;
  MovingGoalFollower follower_;
};

}  // namespace ambulon
