#include "errand/march.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/geometry.hpp"
#include "errand/squad_impl.hpp"

namespace ambulon {

March::~March() {
  if (squad_ && joined_) squad_->impl().leave(me_);
}
namespace {

constexpr float near_enough = 0.1f;  // metres from its place, on the march
constexpr float settling = 0.3f;     // seconds
constexpr float creeping = 0.15f;  // metres per second: whose place goes no faster stands while it is so near
constexpr float side_step = 0.6f;  // metres that it makes up for without turning
constexpr float replan_distance = 1.f;  // metres that the place moves before the route is planned again

}  // namespace

Step March::step(const View& see, float seconds) {
  if (!joined_) {
    if (!squad_) return ended(refusal(Cause::no_target));
    if (const auto why = refusal({{"within", options_.within, allowed::arrival_distances}}))
      return ended(*why);
    me_ = see.who;
    squad_->impl().join(me_);
    joined_ = true;
  }
  if (const auto failed = squad_->impl().go_on(see)) {
    if (!squad_->impl().waits()) return ended(*failed);
    return {};
  }
  return squad_->impl().at_goal() ? take_place(see, seconds) : keep_up(see, seconds);
}

Step March::keep_up(const View& see, float seconds) {
  const vec3 before = place_.value_or(see.me.position);
  const auto passed = static_cast<float>(see.time - placed_at_);
  place_ = squad_->impl().place_of(see);
  placed_at_ = see.time;
  taking_place_ = false;
  if (auto step = follower_.go_on(see, *place_, near_enough, see.gait.speed, replan_distance, seconds))
    return *step;
  // Straight to it, as it goes on; its place moves by fits and starts where others are in the way.
  const vec2 moves = passed > 0.f ? flat(*place_ - before) / passed : vec2(0.f);
  velocity_ += std::min(1.f, passed / settling) * (moves - velocity_);
  const float fast = glm::length(velocity_);
  const vec2 velocity = fast > see.gait.speed ? see.gait.speed / fast * velocity_ : velocity_;
  const vec2 off = flat(*place_ - see.me.position);
  const float left = glm::length(off);
  const vec2 onward = squad_->impl().direction_at(see);
  if (left < near_enough && fast < creeping) return {.intent = {.facing = onward}};
  return {.intent = {.velocity = follow_offset(see.me, see.gait, off, velocity, see.gait.speed, seconds),
                     .facing = left < side_step ? onward : vec2(0.f)}};
}

/// The squad has come to its goal.
Step March::take_place(const View& see, float seconds) {
  if (!taking_place_ || last_way_.outdated(see)) {
    place_ = squad_->impl().place_of(see);
    if (const auto failed = last_way_.lay(see, *place_, options_.within, Unreachable::wait))
      return ended(*failed);
    taking_place_ = true;
  }
  if (last_way_.at_end(see, options_.within)) return ended(last_way_.arrival(see, options_.within));
  return {.intent = last_way_.go_on(see, options_.within, see.gait.speed, 0.f, seconds)};
}

}  // namespace ambulon
