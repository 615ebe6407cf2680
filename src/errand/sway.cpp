#include "errand/sway.hpp"

#include <algorithm>
#include <cmath>

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr int corners = 16;  // points of the ellipse that are tested for ground

}  // namespace

Step Sway::step(const View& see, float seconds) {
  if (gone_ < 0) {
    if (const auto why = begin(see)) return ended(*why);
  } else if (revision_ != see.revision()) {
    middle_ = see.me.position - offset(gone_);  // after a teleport it goes on from there
    revision_ = see.revision();
  }
  const double all = options_.times / static_cast<double>(options_.frequency);
  float lasts = seconds;
  if (options_.times > 0) {
    if (gone_ >= all - 1e-6) {
      if (see.me.velocity == vec2(0.f))
        return ended({.ending = Ending::done,
                      .cause = Cause::as_often_as_asked,
                      .value = static_cast<float>(options_.times)});
      return {.intent = {.facing = see.me.facing, .lasts = 0.f, .direct = true}};  // stops at once
    }
    lasts = std::min(lasts, static_cast<float>(all - gone_));
  }
  gone_ += lasts;
  const vec3 velocity = (middle_ + offset(gone_) - see.me.position) / lasts;
  return {.intent = {.velocity = flat(velocity),
                     .facing = see.me.facing,
                     .lasts = lasts,
                     .climb = velocity.z,
                     .direct = true}};
}

/// Returns the offset from the centre after `seconds`.
vec3 Sway::offset(double seconds) const {
  const double cycles = seconds * options_.frequency;
  const vec2 turn = unit(options_.phase + 2.f * pi * static_cast<float>(cycles - std::floor(cycles)));
  return turn.y * options_.axis + turn.x * options_.across;
}

std::optional<Outcome> Sway::begin(const View& see) {
  if (!finite(options_.axis) || !finite(options_.across) || !std::isfinite(options_.phase))
    return refusal(Cause::not_finite, "the axis, the axis across or the phase");
  if (const auto why = refusal({{"frequency", options_.frequency, {1e-4f, 100.f}},
                                {"the length of axis", glm::length(options_.axis), allowed::lengths},
                                {"the length of across", glm::length(options_.across), allowed::lengths}}))
    return why;
  gone_ = 0;
  revision_ = see.revision();
  middle_ = see.me.position - offset(0);
  if (options_.anywhere) return std::nullopt;
  const Spot here = see.spot();
  for (int i = 0; i < corners; ++i) {
    const vec3 there = middle_ + offset(i / (corners * static_cast<double>(options_.frequency)));
    const Stretch stretch = see.ground.straight(here, flat(there - here.position));
    if (!stretch.free)
      return Outcome{.ending = Ending::blocked,
                     .cause = Cause::something_in_way,
                     .value = stretch.metres,
                     .where = here.position};
  }
  return std::nullopt;
}

Progress Sway::progress(const View&) const {
  if (options_.times == 0 || gone_ < 0) return {};
  const double all = options_.times / static_cast<double>(options_.frequency);
  return {.fraction = static_cast<float>(std::min(1.0, gone_ / all))};
}

}  // namespace ambulon
