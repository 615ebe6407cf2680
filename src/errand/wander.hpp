#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"
#include "ambulon/motion/steering.hpp"

namespace ambulon {

/// The errand of `Npc::wander`.
class Wander final : public Errand {
 public:
  explicit Wander(const WanderOptions& options) : options_(options) {}

  std::string_view name() const override { return "wander"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override { return "wandering"; }

 private:
  std::optional<Outcome> begin(const View& see);

  WanderOptions options_;
  bool begun_ = false;
  vec2 home_{0.f};
  Wandering wandering_;
};

/// Returns the next unit direction of a random walk. It turns away from edges of the ground, and back if it
/// is more than `radius` metres (0: no limit) from `home`.
vec2 stray(const View& see, Wandering& wandering, float turn, float every, vec2 home, float radius,
           float seconds);

}  // namespace ambulon
