#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/glide.hpp"

namespace ambulon {

/// The errand of `Npc::glide`.
class Glide final : public Errand {
 public:
  Glide(vec3 to, GlideOptions options) : to_(to), options_(options) {}

  std::string_view name() const override { return "glide"; }
  std::optional<vec3> goal() const override { return to_; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;

 private:
  std::optional<Outcome> begin(const View& see);

  vec3 to_, from_{0.f};
  GlideOptions options_;
  float turning_ = 0.f;  // seconds of the time spent on turning first
  double gone_ = -1;     // seconds; negative: not begun
  std::uint64_t revision_ = 0;
};

/// The part of the way, 0 to 1, gone after `part` of the time, 0 to 1.
float eased(Ease ease, float part);

}  // namespace ambulon
