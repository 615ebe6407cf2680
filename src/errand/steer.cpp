#include "errand/steer.hpp"

#include <array>

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "errand/wish_of.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_terms = 16;  // that are blended

}  // namespace

Step Steer::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = begin(see)) return ended(*why);
  const float speed = options_.speed > 0.f ? options_.speed : see.gait.speed;
  std::array<Wish, max_terms> wishes;
  std::size_t count = 0;
  for (const Term& term : blend_->terms()) {
    wishes[count] = wish_of(term, see, wandering_, speed, seconds);
    wishes[count++].urgency *= term.weight;
  }
  const std::span<const Wish> all(wishes.data(), count);
  vec2 velocity =
      options_.mode == BlendMode::weighted ? blend_weighted(all) : blend_by_priority(all, options_.budget);
  wanted_ += seconds / (options_.settle + seconds) * (velocity - wanted_);
  // A lower speed is not filtered: braking must not be late.
  const float wished = glm::length(velocity), settled = glm::length(wanted_);
  if (settled > wished) wanted_ *= wished / settled;
  velocity = wanted_;
  if (const float length = glm::length(velocity); length < options_.min_speed)
    velocity = options_.min_speed * direction(velocity, see.me.facing);
  if (options_.queue_gap >= 0.f) {
    const float look = speed * speed / see.gait.braking + options_.queue_gap + 1.f;
    const auto near = see.near(see.me.position, look);
    velocity = queue(see.me, see.gait, see.body.radius, near, velocity, options_.queue_gap, seconds);
  }
  return {.intent = {.velocity = velocity}};
}

std::optional<Outcome> Steer::begin(const View& see) {
  if (!blend_ || blend_->terms().empty()) return refusal(Cause::no_behaviour);
  if (const auto why = refusal({{"budget", options_.budget, {0.f, 1.f}},
                                {"speed", options_.speed, allowed::speeds},
                                {"min_speed", options_.min_speed, allowed::speeds},
                                {"settle", options_.settle, {0.f, 10.f}},
                                {"queue_gap", options_.queue_gap, {-1.f, 1000.f}},
                                {"the number of behaviours",
                                 static_cast<float>(blend_->terms().size()),
                                 {1.f, static_cast<float>(max_terms)}}}))
    return why;
  begun_ = true;
  wanted_ = see.me.velocity;
  wandering_.head(see.me.heading(), see.time);
  return std::nullopt;
}

}  // namespace ambulon
