#pragma once

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// Stands and turns to a point or a heading. Ends as done.
class TurnTo final : public Errand {
 public:
  /// Turns to `point` (metres). If that is the NPC's position, it does not turn.
  explicit TurnTo(vec3 point) : point_(point) {}
  /// Turns to `heading` (radians).
  explicit TurnTo(float heading) : heading_(heading), to_heading_(true) {}

  std::string_view name() const override { return "turn_to"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;

 private:
  vec3 point_{0.f};
  float heading_ = 0.f;
  bool to_heading_ = false;
  float first_off_ = -1.f;  // radians to turn at the start; negative: not begun
};

/// Returns the intent to stand and turn to the unit vector `facing`. It lasts as long as the turn; 0 s if the
/// NPC faces there already.
Intent turn_on_the_spot(const View& see, vec2 facing);

/// The same for the heading (radians) of a goal; nothing if it has none or is turned to.
std::optional<Intent> turn_to_facing(const View& see, std::optional<float> facing);

}  // namespace ambulon
