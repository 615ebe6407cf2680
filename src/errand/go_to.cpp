#include "errand/go_to.hpp"

#include <fmt/format.h>

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "base/written.hpp"

namespace ambulon {

std::optional<Outcome> GoTo::plan(const View& see) {
  if (!finite(goal_)) return refusal(Cause::not_finite, "a coordinate of the goal");
  if (const auto why = refusal({{"within", options_.within, allowed::arrival_distances}})) return why;
  return follower_.plan(see, goal_, options_.within, options_.unreachable);
}

Step GoTo::step(const View& see, float seconds) {
  if (follower_.update(see) == RouteFollower::Status::must_plan)
    if (const auto failed = plan(see)) return ended(*failed);
  if (follower_.at_end(see, options_.within)) return ended(follower_.arrival(see, options_.within));
  return {.intent = follower_.go_on(see, options_.within, see.gait.speed, 0.f, seconds)};
}

std::optional<Intent> GoTo::keep_on(const View& see, float seconds) {
  if (!follower_.can_go_on(see, options_.within)) return std::nullopt;
  return follower_.go_on(see, options_.within, see.gait.speed, 0.f, seconds);
}

Progress GoTo::progress(const View& see) const { return follower_.progress(see.me.position); }

std::optional<float> GoTo::left(const View& see) const { return follower_.left(see.me.position); }

std::string GoTo::doing() const {
  return (follower_.is_stranded() ? "waiting for a way to " : "walking to ") + written(goal_, 1);
}

}  // namespace ambulon
