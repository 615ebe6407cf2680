#pragma once

#include "ambulon/errand/blend.hpp"
#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"
#include "ambulon/motion/steering.hpp"

namespace ambulon {

/// The errand of `Npc::steer`.
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
  vec2 wanted_{0.f};  // low-pass filtered
};

}  // namespace ambulon
