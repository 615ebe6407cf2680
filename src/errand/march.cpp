#include "errand/march.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "errand/squad_impl.hpp"

namespace ambulon {

March::~March() {
  if (squad_ && joined_) squad_->impl().leave(me_);
}
namespace {

constexpr float near_enough = 0.1f;     // metres from its place, while marching
constexpr float settling = 0.3f;        // seconds: time constant of the filter
constexpr float creeping = 0.15f;       // metres per second: below this its place counts as standing
constexpr float side_step = 0.6f;       // metres that it covers sideways without turning
constexpr float replan_distance = 1.f;  // metres

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
  // Straight to its place. The velocity of the place is filtered, since it moves unevenly in a jam.
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

/// The squad is at its goal: the member walks to its place and turns.
Step March::take_place(const View& see, float seconds) {
  if (!taking_place_ || final_follower_.update(see) == RouteFollower::Status::must_plan) {
    place_ = squad_->impl().place_of(see);
    if (const auto failed = final_follower_.plan(see, *place_, options_.within, Unreachable::wait))
      return ended(*failed);
    taking_place_ = true;
  }
  if (final_follower_.at_end(see, options_.within))
    return ended(final_follower_.arrival(see, options_.within));
  return {.intent = final_follower_.go_on(see, options_.within, see.gait.speed, 0.f, seconds)};
}

}  // namespace ambulon
