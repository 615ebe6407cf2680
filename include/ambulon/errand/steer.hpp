#pragma once

#include "ambulon/errand/blend.hpp"

namespace ambulon {

/// How the wishes of several behaviours become one velocity.
enum class BlendMode : std::uint8_t {
  weighted,  ///< the mean, by weight and urgency
  priority,  ///< in order, until the budget is used up
};

/// Options of steering.
struct SteerOptions {
  BlendMode mode = BlendMode::weighted;
  float budget = 1.f;       ///< of all urgency, by priority; 0 to 1
  float speed = 0.f;        ///< metres per second, up to 100; 0: the gait's
  float least_speed = 0.f;  ///< metres per second below which it does not go, as birds do; up to 100
  float settle = 0.2f;      ///< seconds in which it takes up a change of what it wants, so that wishes that
                            ///< take turns do not make it tremble; 0 to 10
  float queue_gap = -1.f;   ///< metres it keeps behind whoever walks ahead of it; negative: it does not queue
};

/// Steers by a blend of behaviours. Never ends by itself.
class Steer final : public Errand {
 public:
  Steer(BlendPtr blend, SteerOptions options) : blend_(std::move(blend)), options_(options) {}

  std::string_view name() const override { return "steer"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override { return "steering"; }

 private:
  std::optional<Outcome> begin(const View& see);

  BlendPtr blend_;
  SteerOptions options_;
  bool begun_ = false;
  Wandering wandering_;
  vec2 wanted_{0.f};  // settled
};

}  // namespace ambulon
