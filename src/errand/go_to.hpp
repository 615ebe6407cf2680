#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/pacing.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {

/// Returns what is wrong with the options; nothing if they are valid.
std::optional<Outcome> mistake(const GoToOptions& options);

/// The errand of `Npc::go_to` to a point.
class GoTo final : public Errand {
 public:
  GoTo(vec3 goal, const GoToOptions& options)
      : goal_(goal),
        within_(options.within),
        unreachable_(options.unreachable),
        facing_(options.facing),
        time_(options.arrive_in) {}

  std::string_view name() const override { return "go_to"; }
  std::optional<vec3> goal() const override { return goal_; }
  float arrival_radius() const override { return within_; }
  Step step(const View& see, float seconds) override;
  std::optional<Intent> keep_on(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> plan(const View& see);

  /// Returns the intent to go on along the route.
  Intent walk(const View& see, float seconds);

  vec3 goal_;
  float within_;
  Unreachable unreachable_;
  std::optional<float> facing_;
  ArrivalTime time_;
  RouteFollower follower_;
};

}  // namespace ambulon
