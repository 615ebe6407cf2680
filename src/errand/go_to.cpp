#include "errand/go_to.hpp"

#include <cmath>

#include <fmt/format.h>

#include "ambulon/base/angle.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "base/written.hpp"
#include "errand/turn_to.hpp"

namespace ambulon {

std::optional<Outcome> mistake(const GoToOptions& options) {
  if (options.facing && !std::isfinite(*options.facing)) return refusal(Cause::not_finite, "the facing");
  return refusal({{"within", options.within, allowed::arrival_distances},
                  {"arrive_in", options.arrive_in, allowed::durations}});
}

std::optional<Outcome> GoTo::plan(const View& see) {
  if (!finite(goal_)) return refusal(Cause::not_finite, "a coordinate of the goal");
  if (const auto why = mistake({.within = within_, .arrive_in = time_.seconds(), .facing = facing_}))
    return why;
  return follower_.plan(see, goal_, within_, unreachable_);
}

Step GoTo::step(const View& see, float seconds) {
  if (follower_.update(see) == RouteFollower::Status::must_plan)
    if (const auto failed = plan(see)) return ended(*failed);
  if (!follower_.at_end(see, within_)) return {.intent = walk(see, seconds)};
  if (const auto turn = turn_to_facing(see, facing_)) return {.intent = *turn};
  return ended(follower_.arrival(see, within_));
}

std::optional<Intent> GoTo::keep_on(const View& see, float seconds) {
  if (!follower_.can_go_on(see, within_)) return std::nullopt;
  return walk(see, seconds);
}

Intent GoTo::walk(const View& see, float seconds) {
  const float left = time_.seconds() > 0.f ? follower_.left(see.me.position) - within_ : 0.f;
  return follower_.go_on(see, within_, time_.speed(see, left), 0.f, seconds);
}

Progress GoTo::progress(const View& see) const { return follower_.progress(see.me.position); }

std::optional<float> GoTo::left(const View& see) const { return follower_.left(see.me.position); }

std::string GoTo::doing() const {
  return (follower_.is_stranded() ? "waiting for a way to " : "walking to ") + written(goal_, 1);
}

}  // namespace ambulon
