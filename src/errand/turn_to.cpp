#include "errand/turn_to.hpp"

#include <algorithm>
#include <cmath>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float facing_there = radians(0.5f);

}  // namespace

Intent turn_on_the_spot(const View& see, vec2 facing) {
  const float off = std::abs(angle_between(see.me.facing, facing));
  return {.facing = facing, .lasts = off <= facing_there ? 0.f : off / see.gait.turn_rate};
}

std::optional<Intent> turn_to_facing(const View& see, std::optional<float> facing) {
  if (!facing) return std::nullopt;
  const Intent turn = turn_on_the_spot(see, unit(*facing));
  return turn.lasts > 0.f ? std::optional(turn) : std::nullopt;
}

Step TurnTo::step(const View& see, float) {
  if (!finite(point_) || !std::isfinite(heading_)) return ended(refusal(Cause::not_finite, "where to turn"));
  const vec2 facing =
      to_heading_ ? unit(heading_) : direction(flat(point_) - flat(see.me.position), see.me.facing);
  if (first_off_ < 0.f) first_off_ = std::abs(angle_between(see.me.facing, facing));
  const Intent intent = turn_on_the_spot(see, facing);
  if (intent.lasts == 0.f) return ended(Ending::done);
  return {.intent = intent};
}

Progress TurnTo::progress(const View& see) const {
  if (first_off_ <= 0.f) return {};
  const vec2 facing =
      to_heading_ ? unit(heading_) : direction(flat(point_) - flat(see.me.position), see.me.facing);
  const float off = std::abs(angle_between(see.me.facing, facing));
  return {.fraction = std::clamp(1.f - off / first_off_, 0.f, 1.f)};
}

}  // namespace ambulon
