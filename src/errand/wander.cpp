#include "errand/wander.hpp"

#include <algorithm>

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {

vec2 stray(const View& see, Wandering& wandering, float turn, float every, vec2 home, float radius,
           float seconds) {
  // of the step, so that the result does not depend on its length
  const double middle = see.time + 0.5 * seconds;
  vec2 along = unit(wandering.at(middle, turn, every, see.random));
  const vec2 back = home - flat(see.me.position);
  if (radius > 0.f && glm::dot(back, back) > radius * radius &&
      glm::dot(along, back) < 0.9f * glm::length(back)) {
    along = turned(along, direction(back), 2.f * turn / every * seconds);
    wandering.head(heading_of(along), middle);
  }
  const float look = std::max(2.f * see.body.radius, see.gait.speed);  // one second of walking
  const Stretch stretch = see.ground.straight(see.spot(), look * along);
  if (stretch.free || glm::dot(along, stretch.inward) >= 0.f) {
    wandering.evading = 0;
    return along;
  }
  // Turns to the free side, faster if the edge is nearer. It keeps to that side until the way is free, so
  // that it does not oscillate in a corner.
  if (wandering.evading == 0) wandering.evading = cross(along, stretch.inward) >= 0.f ? 1 : -1;
  const float nearness = 1.f - stretch.metres / look;
  along = turned(along, static_cast<float>(wandering.evading) * vec2(-along.y, along.x),
                 nearness * 8.f * seconds);
  wandering.head(heading_of(along), middle);
  return along;
}

Step Wander::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = begin(see)) return ended(*why);
  const vec2 along = stray(see, wandering_, options_.turn, options_.every, home_, options_.radius, seconds);
  return {.intent = {.velocity = (options_.speed > 0.f ? options_.speed : see.gait.speed) * along}};
}

std::optional<Outcome> Wander::begin(const View& see) {
  if (options_.home && !finite(*options_.home)) return refusal(Cause::not_finite, "a coordinate of home");
  if (const auto why = refusal({{"turn", options_.turn, {0.f, 2.f * pi}},
                                {"every", options_.every, {0.05f, allowed::durations.max}},
                                {"speed", options_.speed, allowed::speeds},
                                {"radius", options_.radius, allowed::lengths}}))
    return why;
  begun_ = true;
  home_ = flat(options_.home.value_or(see.me.position));
  wandering_.head(see.me.heading(), see.time);
  return std::nullopt;
}

}  // namespace ambulon
