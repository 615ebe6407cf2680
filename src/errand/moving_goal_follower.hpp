#pragma once

#include <algorithm>

#include "base/geometry.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {

/// Follows a route to a moving goal. The route is planned again only when the goal has moved by a threshold;
/// until then its end moves with the goal.
class MovingGoalFollower {
 public:
  /// `unreachable`: what to do if no route leads to the goal.
  explicit MovingGoalFollower(Unreachable unreachable) : unreachable_(unreachable) {}

  /// Goes on towards `goal` at `speed`, to stand `radius` metres from it. Returns nothing on the last
  /// straight leg: the errand then steers for itself.
  std::optional<Step> go_on(const View& see, vec3 goal, float radius, float speed, float replan_distance,
                            float seconds) {
    const bool moved = !follower_.is_stranded() && glm::distance(goal, planned_for_) > replan_distance;
    if (follower_.update(see) == RouteFollower::Status::must_plan || moved) {
      const vec3 foot = footing(see, goal, radius);
      if (const auto failed = follower_.plan(see, foot, radius, unreachable_)) return ended(*failed);
      planned_for_ = goal;
    }
    if (follower_.is_stranded()) return Step{};
    const bool elsewhere = follower_.ends_elsewhere();
    if (elsewhere) radius = std::min(radius, there_instead);
    if (!elsewhere) follower_.move_end(goal);
    const bool there = follower_.at_end(see, radius);  // also counts passed bends
    if (elsewhere && there) return Step{};
    if (!elsewhere && follower_.on_last_leg()) return std::nullopt;
    return Step{.intent = follower_.go_on(see, radius, speed, 0.f, seconds)};
  }

  /// Returns true while there is no route.
  bool is_stranded() const { return follower_.is_stranded(); }

  /// Returns the metres of route left from `position`; 0 without a route.
  float left(vec3 position) const { return follower_.end() ? follower_.left(position) : 0.f; }

  std::span<const vec3> bends_ahead() const { return follower_.bends_ahead(); }

 private:
  /// Returns the goal, or the ground below a target that is in the middle of a jump.
  static vec3 footing(const View& see, vec3 goal, float radius) {
    const float near = std::max(radius, 0.5f);
    if (see.ground.snap(goal, near, see.body)) return goal;
    const Snap below = see.ground.snap(goal, near + see.body.height, see.body);
    return below && flat_distance(below.spot.position, goal) <= near ? below.spot.position : goal;
  }

  static constexpr float there_instead = 0.3f;  // metres from the nearest spot to the goal

  RouteFollower follower_;
  vec3 planned_for_{0.f};
  Unreachable unreachable_;
};

}  // namespace ambulon
