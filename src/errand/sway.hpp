#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"

namespace ambulon {

/// The errand of `Npc::sway`.
class Sway final : public Errand {
 public:
  explicit Sway(const SwayOptions& options) : options_(options) {}

  std::string_view name() const override { return "sway"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;

 private:
  std::optional<Outcome> begin(const View& see);
  vec3 offset(double seconds) const;

  SwayOptions options_;
  vec3 middle_{0.f};
  double gone_ = -1;  // seconds since the start; negative: not begun
  std::uint64_t revision_ = 0;
};

}  // namespace ambulon
