#include "errand/pace.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "errand/turn_to.hpp"

namespace ambulon {
namespace {

constexpr float near_enough = 0.01f;  // metres from the turning point
constexpr float some_more = 0.5f;     // metres that it looks beyond its braking distance
constexpr float hemmed_in = 0.05f;    // metres between two turns: less is no room
constexpr float breather = 0.5f;      // seconds it then waits, so that it does not spin

}  // namespace

Step Pace::step(const View& see, float seconds) {
  if (phase_ == Phase::beginning) {
    if (const auto why = mistake()) return ended(*why);
    along_ = options_.heading ? unit(*options_.heading) : see.me.facing;
    turned_at_ = flat(see.me.position) + vec2(1.f, 0.f);
    phase_ = Phase::turning;
  }
  if (phase_ == Phase::pausing) {
    if (auto rest = rest_.go_on(seconds, see.me.facing)) return {.intent = *rest};
    phase_ = Phase::turning;
  }
  if (phase_ == Phase::turning) {
    Intent turn = turn_on_the_spot(see, along_);
    if (turn.lasts > 0.f && options_.flip) turn = {.facing = along_, .lasts = 0.f, .direct = true};
    if (turn.lasts > 0.f || turn.direct) return {.intent = turn};
    if (options_.turns > 0 && turns_ >= options_.turns)
      return ended(
          {.ending = Ending::done, .cause = Cause::as_often_as_asked, .value = static_cast<float>(turns_)});
    phase_ = Phase::walking;
  }
  return walk(see, seconds);
}

std::optional<Outcome> Pace::mistake() const {
  if (options_.heading && !std::isfinite(*options_.heading)) return refusal(Cause::not_finite, "the heading");
  return refusal({{"gap", options_.gap, {0.f, 100.f}},
                  {"pause", options_.pause.min, allowed::durations},
                  {"pause", options_.pause.max, {options_.pause.min, allowed::durations.max}}});
}

Step Pace::walk(const View& see, float seconds) {
  const float now = std::max(0.f, glm::dot(see.me.velocity, along_));
  const float fastest = std::max(now, see.gait.speed);
  const float stopping = fastest * fastest / (2.f * see.gait.braking) + 2.f * fastest * seconds;
  const float look = stopping + options_.gap + some_more;
  const Ahead ahead = look_ahead(see, look);
  const float left = std::max(0.f, ahead.metres - options_.gap);
  if (left > near_enough || now > 1e-3f) {
    const float speed = std::min(see.gait.speed, slowing_speed(left, now, 0.f, see.gait.braking, seconds));
    return {.intent = {.velocity = speed * along_, .facing = along_}};
  }
  along_ = -along_;
  ++turns_;
  see.tell({.event = Event::turned_around, .whom = ahead.whom, .where = see.me.position});
  const bool no_room = glm::length(flat(see.me.position) - turned_at_) < hemmed_in;
  rest_ = Rest::drawn(see, no_room && options_.pause.empty() ? Range{breather, breather} : options_.pause);
  turned_at_ = flat(see.me.position);
  phase_ = Phase::pausing;
  return {.intent = {.facing = see.me.facing, .lasts = 0.f}};
}

/// Returns the free distance ahead, at most `metres`.
Pace::Ahead Pace::look_ahead(const View& see, float metres) const {
  Ahead ahead{.metres = see.ground.straight(see.spot(), metres * along_).metres};
  // A circle around the middle of the lane contains all bodies that reach into it.
  const float half = 0.5f * metres;
  const vec3 middle = see.me.position + lift(half * along_);
  for (const Neighbour& other : see.near(middle, half + see.body.radius)) {
    const vec2 offset = other.offset + half * along_;
    const float room = see.body.radius + other.radius, aside = cross(along_, offset);
    const float forward = glm::dot(along_, offset);
    if (std::abs(aside) >= room || forward <= 0.f) continue;
    const float free = std::max(0.f, forward - std::sqrt(room * room - aside * aside));
    if (free < ahead.metres) ahead = {.metres = free, .whom = other.id};
  }
  return ahead;
}

Progress Pace::progress(const View&) const {
  if (options_.turns == 0) return {};
  return {.fraction = static_cast<float>(turns_) / static_cast<float>(options_.turns)};
}

std::string Pace::doing() const {
  return phase_ == Phase::walking ? fmt::format("pacing, {} turns so far", turns_) : "turning round";
}

}  // namespace ambulon
