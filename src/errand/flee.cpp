#include "errand/flee.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float look_ahead = 1.5f;   // seconds of running
constexpr double look_every = 0.25;  // seconds
constexpr int ways = 16;             // directions tried
constexpr float swing = 5.f;         // radians per second: maximum change of direction

}  // namespace

Step Flee::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = mistake()) return ended(*why);
  begun_ = true;
  const auto look = tracker_.look(see);
  if (!look) return ended(look.error());
  tracker_.watch_distance(see, *look, options_.act_within);
  const vec2 offset = flat(look->position - see.me.position);
  if (const float away = see.metres_to(*look); away >= options_.reach)
    return ended({.ending = Ending::done, .cause = Cause::far_enough, .value = away});

  const vec2 threat = meeting_point(offset, look->velocity, see.gait.speed, options_.foresight);
  const vec2 out = way_out(see, threat);
  if (out == vec2(0.f)) {
    running_ = vec2(0.f);
    return {.intent = {.facing = direction(offset, see.me.facing)}};
  }
  // A new direction is approached in a curve, since at walls the best direction changes often.
  running_ = running_ == vec2(0.f) ? out : turned(running_, out, swing * seconds);
  return {.intent = {.velocity = seek(see.me, see.gait, running_, see.gait.speed)}};
}

std::optional<Outcome> Flee::mistake() const {
  return refusal({{"reach", options_.reach, {0.1f, allowed::lengths.max}},
                  {"foresight", options_.foresight, {0.f, 60.f}},
                  {"act_within", options_.act_within, allowed::lengths}});
}

/// Returns the unit direction to run in; zero if it is cornered and no direction is better.
vec2 Flee::way_out(const View& see, vec2 threat) {
  const vec2 away = direction(-threat, see.me.facing);
  if (see.time < look_again_) return cornered_ ? out_ : away;
  look_again_ = see.time + look_every;
  const Spot here = see.spot();
  const float look = std::max(1.f, look_ahead * see.gait.speed);
  cornered_ = !see.ground.straight(here, look * away).free;
  if (!cornered_) return away;
  // Maximises the distance of the end point from the threat. The present direction gets a bonus (hysteresis).
  float best = glm::length(threat) + 0.1f;
  const vec2 before = out_;
  out_ = vec2(0.f);
  for (int i = 0; i < ways; ++i) {
    const vec2 candidate = unit(heading_of(away) + 2.f * pi * static_cast<float>(i) / ways);
    const Stretch stretch = see.ground.straight(here, look * candidate);
    const float from_threat = glm::length(stretch.metres * candidate - threat) +
                              0.2f * look * std::max(0.f, glm::dot(candidate, before));
    if (from_threat <= best) continue;
    best = from_threat;
    out_ = candidate;
  }
  return out_;
}

}  // namespace ambulon
