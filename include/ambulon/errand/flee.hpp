#pragma once

#include "ambulon/errand/target.hpp"

namespace ambulon {

/// Options of fleeing.
struct FleeOptions {
  float reach = 15.f;      ///< metres from the target that are far enough, 0.1 to 1e5
  float foresight = 1.f;   ///< seconds it looks ahead of where the target is going, 0 to 60
  float act_within = 0.f;  ///< metres at which it is told that it came near and went apart; 0: it is not
};

/// Runs away from somebody: straight away where there is ground, and otherwise the way that leads
/// furthest from them. Ends as done when it is far enough; as gone when the target is.
/// `Order::time_limit` makes it give up in time.
class Flee final : public Errand {
 public:
  Flee(Target target, const FleeOptions& options) : quarry_(target), options_(options) {}

  std::string_view name() const override { return "flee"; }
  NpcId target() const override { return quarry_.now(); }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override { return "fleeing"; }

 private:
  std::optional<Outcome> mistake() const;
  vec2 way_out(const View& see, vec2 threat);

  Quarry quarry_;
  FleeOptions options_;
  bool begun_ = false;
  double look_again_ = 0;
  bool cornered_ = false;  // straight away there is no ground
  vec2 out_{0.f};          // unit vector, when cornered
  vec2 running_{0.f};      // unit vector in which it runs; zero when it stands
};

}  // namespace ambulon
