#pragma once

#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/order_options.hpp"

#include "errand/goal_sequence.hpp"

namespace ambulon {

/// The errand of `Npc::hop`.
class Hop final : public GoalSequence {
 public:
  Hop(BeatPtr points, HopOptions options)
      : GoalSequence({.within = options.within, .visits = options.visits, .leg_time = options.leg_time},
                     options.unreachable, {}),
        points_(std::move(points)),
        within_(options.within),
        repeats_(options.repeats) {}

  std::string_view name() const override { return "hop"; }

 private:
  std::optional<Outcome> mistake(const View& see) override;
  std::optional<Outcome> choose(const View& see, Stop& next) override;
  bool choices_changed() const override { return points_->revision() != seen_revision_; }

  BeatPtr points_;
  std::uint32_t seen_revision_ = 0;
  WaypointId here_{};  // the last chosen point
  float within_;       // metres, if the point has none of its own
  bool repeats_;
};

}  // namespace ambulon
