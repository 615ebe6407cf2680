#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/motion/steering.hpp"

namespace ambulon {

/// Options of wandering.
struct WanderOptions {
  float turn = radians(60.f);     ///< radians of one turn at the most, 0 to 2 pi
  float every = 1.5f;             ///< seconds from turn to turn, 0.05 to 1e6
  float speed = 0.f;              ///< metres per second, up to 100; 0: the gait's
  float radius = 0.f;             ///< metres from home beyond which it turns back; 0: any; up to 1e5
  std::optional<vec3> home = {};  ///< metres; without it, where it stands when it begins
};

/// Strays about with no goal, in a heading that changes smoothly, and turns away at the edge of the
/// ground. Never ends by itself.
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

/// Where one who strays along `wandering` heads next: a unit vector that turns away from edges of the
/// ground, and back when it is more than `radius` metres (0: any) from `home`.
vec2 stray(const View& see, Wandering& wandering, float turn, float every, vec2 home, float radius,
           float seconds);

}  // namespace ambulon
