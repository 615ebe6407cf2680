#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/goal_sequence.hpp"

namespace ambulon {

/// The errand of `Npc::roam`.
class Roam final : public GoalSequence {
 public:
  explicit Roam(const RoamOptions& options)
      : GoalSequence({.within = options.within, .visits = options.visits, .leg_time = options.leg_time},
                     options.unreachable, options.pause),
        radius_(options.radius),
        not_nearer_(options.not_nearer),
        home_{.position = options.home.value_or(vec3(0.f))},
        home_given_(options.home.has_value()),
        from_where_it_stands_(options.from_where_it_stands) {}

  std::string_view name() const override { return "roam"; }

 private:
  std::optional<Outcome> mistake(const View& see) override;
  std::optional<Outcome> choose(const View& see, Stop& next) override;

  float radius_, not_nearer_;  // metres
  Spot home_;
  bool home_given_, from_where_it_stands_;
};

}  // namespace ambulon
