#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/route_follower.hpp"

namespace ambulon {

/// The errand of `Npc::go_to`.
class GoTo final : public Errand {
 public:
  GoTo(vec3 goal, GoToOptions options) : goal_(goal), options_(options) {}

  std::string_view name() const override { return "go_to"; }
  std::optional<vec3> goal() const override { return goal_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  std::optional<Intent> keep_on(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> plan(const View& see);

  vec3 goal_;
  GoToOptions options_;
  RouteFollower follower_;
};

}  // namespace ambulon
