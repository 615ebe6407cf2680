#pragma once

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// Stands and turns to face a point, or to a heading. Ends as done.
class TurnTo final : public Errand {
 public:
  /// Faces `point` (metres). A point right on the NPC leaves it as it stands.
  explicit TurnTo(vec3 point) : point_(point) {}
  /// Faces along `heading` (radians).
  explicit TurnTo(float heading) : heading_(heading), to_heading_(true) {}

  std::string_view name() const override { return "turn_to"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;

 private:
  vec3 point_{0.f};
  float heading_ = 0.f;
  bool to_heading_ = false;
  float first_off_ = -1.f;  // radians it had to turn; negative: not begun
};

/// The intent to stand and turn along unit vector `facing`, and the seconds it takes in all:
/// 0 when it already faces there.
Intent turn_on_the_spot(const View& see, vec2 facing);

}  // namespace ambulon
