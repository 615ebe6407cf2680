#pragma once

#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/outing.hpp"

namespace ambulon {

/// Options of hopping.
struct HopOptions {
  bool repeats = false;      ///< may choose the point it stands at again
  std::uint32_t visits = 0;  ///< points after which it is done; 0: goes on for ever
  float leg_time = 0.f;      ///< seconds to one point before it chooses another; 0: any; at most 1e6
  float within = 0.3f;       ///< metres from a point that count as there, 0.001 to 1000
  /// When eight points in a row came to nothing, or the set has become empty.
  Unreachable unreachable = Unreachable::wait;
};

/// Walks to one random point of a set after another, each as likely as its weight, and stays as
/// long as the point says. The set is a beat, in no order; it may change meanwhile. Ends as done after
/// `visits`; refused when it begins with nothing to choose from; when eight points in a row came to nothing,
/// as stuck or timed_out, and where it is not to wait as no_way or off_ground.
class Hop final : public Outing {
 public:
  Hop(BeatPtr points, HopOptions options)
      : Outing({.within = options.within, .visits = options.visits, .leg_time = options.leg_time},
               options.unreachable, {}),
        points_(std::move(points)),
        repeats_(options.repeats) {}

  std::string_view name() const override { return "hop"; }

 private:
  std::optional<Outcome> mistake(const View& see) override;
  std::optional<Outcome> choose(const View& see, Stop& next) override;
  bool choices_changed() const override { return points_->revision() != seen_revision_; }

  BeatPtr points_;
  std::uint32_t seen_revision_ = 0;
  WaypointId here_{};  // the point chosen last
  bool repeats_;
};

}  // namespace ambulon
