#pragma once

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// Options of swaying.
struct SwayOptions {
  vec3 axis{1.f, 0.f, 0.f};  ///< metres from the middle to one end, any direction; lengths up to 1e5
  vec3 across{0.f};          ///< metres; with it the way is an ellipse with these two half axes
  float frequency = 0.1f;    ///< times there and back per second, 1e-4 to 100
  float phase = 0.f;         ///< radians; 0 begins in the middle, pi / 2 at the end of the axis
  std::uint32_t times = 0;   ///< there and back so often; 0: for ever
  bool anywhere = false;     ///< over what is no ground, too: a raft, a lift
};

/// Goes there and back by a sine, or round an ellipse, from where it stands, which is its place at the
/// phase given. Keeps its heading; the gait does not count. Ends as done after so many times; as
/// blocked when its way leaves the ground.
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
  double gone_ = -1;  // seconds; negative: not begun
  std::uint64_t revision_ = 0;
};

}  // namespace ambulon
