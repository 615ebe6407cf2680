#include "errand/ease_to.hpp"

#include <algorithm>

#include <glm/common.hpp>

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr Range coordinates{-1e6f, 1e6f};  // metres: floats are too coarse beyond

}  // namespace

float eased(Easing easing, float part) {
  const float left = 1.f - part;
  switch (easing) {
    case Easing::linear:
      return part;
    case Easing::in:
      return part * part;
    case Easing::out:
      return 1.f - left * left;
    case Easing::in_out:
      return part * part * (3.f - 2.f * part);
  }
  return part;
}

Step EaseTo::step(const View& see, float seconds) {
  if (gone_ < 0) {
    if (const auto why = begin(see)) return ended(*why);
  } else if (revision_ != see.revision()) {
    // After a teleport, it covers the rest from there in the remaining time.
    options_.seconds -= static_cast<float>(gone_);
    turning_ = 0.f;
    if (options_.seconds > 0.f)
      if (const auto why = begin(see)) return ended(*why);
  }
  const float left = options_.seconds - static_cast<float>(gone_);
  if (left <= 1e-6f) {
    if (see.me.velocity == vec2(0.f)) return ended(Ending::arrived);
    return {.intent = {.lasts = 0.f, .direct = true}};  // stops at once
  }
  const vec2 along = direction(flat(to_ - from_), see.me.facing);
  if (gone_ < turning_) {
    const auto lasts = static_cast<float>(turning_ - gone_);
    gone_ += std::min(lasts, seconds);
    return {.intent = {.facing = along, .lasts = lasts}};
  }
  const float lasts = std::min(left, seconds);
  gone_ += lasts;
  const float part = (static_cast<float>(gone_) - turning_) / (options_.seconds - turning_);
  const vec3 next = part >= 1.f ? to_ : glm::mix(from_, to_, eased(options_.easing, part));
  const vec3 velocity = (next - see.me.position) / lasts;
  const vec2 facing = options_.turn == EaseToTurn::going
                          ? turned(see.me.facing, along, see.gait.turn_rate * lasts)
                          : see.me.facing;
  return {
      .intent = {
          .velocity = flat(velocity), .facing = facing, .lasts = lasts, .climb = velocity.z, .direct = true}};
}

std::optional<Outcome> EaseTo::begin(const View& see) {
  if (!finite(to_)) return refusal(Cause::not_finite, "a coordinate of the goal");
  if (gone_ < 0)
    if (const auto why = refusal({{"seconds", options_.seconds, {0.001f, allowed::durations.max}},
                                  {"x of the goal", to_.x, coordinates},
                                  {"y of the goal", to_.y, coordinates},
                                  {"z of the goal", to_.z, coordinates}}))
      return why;
  from_ = see.me.position;
  revision_ = see.revision();
  gone_ = 0;
  const vec2 way = flat(to_ - from_);
  if (!options_.anywhere)
    if (const Stretch stretch = see.ground.straight(see.spot(), way); !stretch.free)
      return Outcome{.ending = Ending::blocked,
                     .cause = Cause::something_in_way,
                     .value = stretch.metres,
                     .where = from_};
  if (options_.turn == EaseToTurn::first && way != vec2(0.f))
    turning_ = std::min(0.9f * options_.seconds,
                        std::abs(angle_between(see.me.facing, direction(way))) / see.gait.turn_rate);
  return std::nullopt;
}

Progress EaseTo::progress(const View& see) const {
  if (gone_ < 0) return {};
  const float all = glm::length(to_ - from_);
  const float metres = std::clamp(all - glm::length(to_ - see.me.position), 0.f, all);
  return {.metres = metres,
          .of_metres = all,
          .fraction = std::clamp(static_cast<float>(gone_) / options_.seconds, 0.f, 1.f)};
}

}  // namespace ambulon
