#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/route_follower.hpp"

namespace ambulon {

/// The errand of `Npc::click_to_move`.
class ClickToMove final : public Errand {
 public:
  ClickToMove(std::shared_ptr<Clicks> clicks, ClickToMoveOptions options)
      : clicks_(std::move(clicks)), options_(options) {}

  std::string_view name() const override { return "click_to_move"; }
  std::optional<vec3> goal() const override;
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  bool give_up(const View& see, const Outcome& why) override;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override { return follower_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> mistake() const;
  std::optional<Outcome> plan(const View& see);
  void move_goal(const View& see);
  std::optional<Outcome> lay(const View& see, vec3 place);
  std::optional<Outcome> arrive(const View& see);

  std::shared_ptr<Clicks> clicks_;
  ClickToMoveOptions options_;
  std::uint32_t planned_revision_ = 0;  // of the clicks; 0: nothing planned yet
  double next_plan_ = 0;                // seconds: the earliest next plan while the pointer moves
  std::optional<vec3> goal_;            // end of the route
  std::optional<vec3> planned_goal_;    // the same, when it was planned
  bool standing_ = false;               // at the place where the pointer is held
  std::uint32_t visits_ = 0;
  RouteFollower follower_;
};

}  // namespace ambulon
