#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/target_tracker.hpp"

namespace ambulon {

/// The errand of `Npc::flee`.
class Flee final : public Errand {
 public:
  Flee(Target target, const FleeOptions& options) : tracker_(target), options_(options) {}

  std::string_view name() const override { return "flee"; }
  NpcId target() const override { return tracker_.now(); }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override { return "fleeing"; }

 private:
  std::optional<Outcome> mistake() const;
  vec2 way_out(const View& see, vec2 threat);

  TargetTracker tracker_;
  FleeOptions options_;
  bool begun_ = false;
  double look_again_ = 0;
  bool cornered_ = false;  // no ground straight away from the threat
  vec2 out_{0.f};          // unit vector, if cornered
  vec2 running_{0.f};      // unit vector of the run; zero if it stands
};

}  // namespace ambulon
