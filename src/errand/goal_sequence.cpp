#include "errand/goal_sequence.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/written.hpp"

namespace ambulon {
namespace {

constexpr std::uint8_t max_failures = 8;  // in a row; then it waits or ends

}  // namespace

Step GoalSequence::step(const View& see, float seconds) {
  if (!begun_) {
    if (const auto why = mistake(see)) return ended(*why);
    begun_ = true;
  }
  if (phase_ == Phase::walking) {
    const Step walked = walk(see, seconds);
    if (phase_ == Phase::walking) return walked;
  }
  if (phase_ == Phase::pausing) {
    if (auto rest = rest_.go_on(seconds)) return {.intent = *rest};
    if (limits_.visits > 0 && visits_ >= limits_.visits)
      return ended(
          {.ending = Ending::done, .cause = Cause::as_often_as_asked, .value = static_cast<float>(visits_)});
  }
  if (phase_ == Phase::waiting && !retry_->due(see, choices_changed())) return {};
  if (const auto why = set_out(see)) return ended(*why);
  return phase_ == Phase::waiting ? Step{} : walk(see, seconds);
}

std::optional<Intent> GoalSequence::keep_on(const View& see, float seconds) {
  if (phase_ == Phase::pausing) return rest_.go_on(seconds);
  if (phase_ != Phase::walking || leg_is_over(see) || !follower_.can_go_on(see, limits_.within))
    return std::nullopt;
  return follower_.go_on(see, limits_.within, see.gait.speed, 0.f, seconds);
}

/// Chooses spots until a route to one is found.
std::optional<Outcome> GoalSequence::set_out(const View& see) {
  for (;;) {
    if (auto nowhere = choose(see, next_)) return wait(see, *nowhere) ? std::nullopt : nowhere;
    const auto failed = plan_route(see);
    if (!failed) break;
    if (!give_up(see, *failed)) return failed;
    if (phase_ == Phase::waiting) return std::nullopt;
  }
  phase_ = Phase::walking;
  went_ = false;
  leg_began_ = static_cast<float>(see.time);
  see.tell({.event = Event::sets_out, .where = next_.position});
  return std::nullopt;
}

/// With `Unreachable::wait`, it waits only if no other spot can be reached.
std::optional<Outcome> GoalSequence::plan_route(const View& see) {
  const bool nearest = unreachable_ == Unreachable::nearest;
  return follower_.plan(see, next_.position, limits_.within,
                        nearest ? Unreachable::nearest : Unreachable::refuse);
}

Step GoalSequence::walk(const View& see, float seconds) {
  if (follower_.update(see) == RouteFollower::Status::must_plan) {
    if (const auto failed = plan_route(see)) {
      if (!give_up(see, *failed)) return ended(*failed);
      return {};
    }
  }
  if (follower_.at_end(see, limits_.within)) {
    ++visits_;
    if (went_) failures_ = 0;  // standing where it already was is no success
    see.tell({.event = Event::visited, .number = visits_, .where = next_.position});
    rest_ = Rest::drawn(see, next_.pause);
    phase_ = Phase::pausing;
    return {};
  }
  if (leg_is_over(see)) {
    const Outcome late{.ending = Ending::timed_out, .cause = Cause::time_up, .value = limits_.leg_time};
    return give_up(see, late) ? Step{} : ended(late);
  }
  went_ = went_ || !follower_.is_planning();
  if (waits() && went_) retry_->over(see);
  return {.intent = follower_.go_on(see, limits_.within, see.gait.speed, 0.f, seconds)};
}

/// Gives this spot up. After `max_failures` in a row, it waits or ends.
bool GoalSequence::give_up(const View& see, const Outcome& why) {
  if (++failures_ >= max_failures) return wait(see, why);
  if (!waits()) see.tell({.event = Event::gave_up, .where = next_.position, .outcome = why});
  phase_ = Phase::setting_out;
  return true;
}

/// Waits before the next choice. Returns false if the errand shall end instead.
bool GoalSequence::wait(const View& see, const Outcome& why) {
  const bool may_change = why.ending == Ending::no_route || why.ending == Ending::off_ground;
  if (!may_change || unreachable_ == Unreachable::refuse) return false;
  failures_ = 0;
  (retry_ ? *retry_ : retry_.make(see.memory)).put_off(see, why);
  phase_ = Phase::waiting;
  return true;
}

std::optional<vec3> GoalSequence::goal() const {
  if (phase_ != Phase::walking) return std::nullopt;
  return next_.position;
}

std::optional<float> GoalSequence::left(const View& see) const {
  return phase_ == Phase::walking ? std::optional(follower_.left(see.me.position)) : std::nullopt;
}

Progress GoalSequence::progress(const View& see) const {
  const float visited = static_cast<float>(visits_), all = static_cast<float>(limits_.visits);
  Progress progress = phase_ == Phase::walking ? follower_.progress(see.me.position) : Progress();
  progress.fraction = all > 0.f ? std::min(1.f, visited / all) : 0.f;
  return progress;
}

std::string GoalSequence::doing() const {
  if (phase_ == Phase::walking) return "walking to " + written(next_.position, 1);
  if (phase_ == Phase::waiting) return "waiting until there is somewhere to go";
  return phase_ == Phase::pausing ? fmt::format("staying, {:.1f} s left", rest_.left()) : "about to set out";
}

}  // namespace ambulon
