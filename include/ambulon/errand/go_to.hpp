#pragma once

#include "ambulon/errand/way.hpp"

namespace ambulon {

/// Options of going somewhere.
struct GoToOptions {
  float within = 0.3f;  ///< metres from the goal that count as there, 0.001 to 1000
  Unreachable unreachable = Unreachable::refuse;
};

/// Walks to a point by the shortest way, and stands there. Ends as arrived (its cause says so when that is
/// further than `within` from the goal), or as stuck; where it refuses goals that it cannot reach, as
/// off_ground (with the nearest spot and how far off it is) or no_way.
class GoTo final : public Errand {
 public:
  GoTo(vec3 goal, GoToOptions options) : goal_(goal), options_(options) {}

  std::string_view name() const override { return "go_to"; }
  std::optional<vec3> goal() const override { return goal_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  std::optional<Intent> keep_on(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override { return way_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> plan(const View& see);

  vec3 goal_;
  GoToOptions options_;
  Way way_;
};

}  // namespace ambulon
