#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"

namespace ambulon {

/// The errand of `Npc::ease_to`.
class EaseTo final : public Errand {
 public:
  EaseTo(vec3 to, EaseToOptions options) : to_(to), options_(options) {}

  std::string_view name() const override { return "ease_to"; }
  std::optional<vec3> goal() const override { return to_; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;

 private:
  std::optional<Outcome> begin(const View& see);

  vec3 to_, from_{0.f};
  EaseToOptions options_;
  float turning_ = 0.f;  // seconds spent on the turn at the start
  double gone_ = -1;     // seconds since the start; negative: not begun
  std::uint64_t revision_ = 0;
};

/// Returns the fraction of the distance after the fraction `part` of the time; both 0 to 1.
float eased(Easing easing, float part);

}  // namespace ambulon
