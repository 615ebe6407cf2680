#include "ambulon/errand/way.hpp"

#include <algorithm>
#include <limits>

#include "ambulon/base/circle.hpp"
#include "ambulon/motion/steering.hpp"
#include "ambulon/route/shape.hpp"
#include "ambulon/route/walk.hpp"

namespace ambulon {
namespace {

constexpr float bend_radius = 0.15f;  // metres from a bend that count as round it
constexpr float snap_reach = 0.5f;    // metres a goal may be off the ground

}  // namespace

std::optional<Outcome> Way::lay(const View& see, vec3 goal) {
  route_.bends.clear();
  const Snap to = see.ground.snap(goal, snap_reach, see.body);
  if (!to)
    return Outcome{.ending = Ending::off_ground,
                   .cause = Cause::goal_off_ground,
                   .value = to.off,
                   .where = to.spot.position};
  const Spot from = see.spot();
  see.ground.route(from, to.spot, route_);
  if (route_.bends.empty())
    return Outcome{.ending = Ending::no_way,
                   .cause = Cause::no_route,
                   .value = see.ground.nearest_reachable(from, goal).off,
                   .where = goal};
  if (see.gait.clearance > 0.f) keep_clear(see.ground, see.body, see.gait.clearance, route_);
  if (see.gait.rounding > 0.f) round_bends(see.ground, see.body, see.gait.rounding, route_);
  ground_revision_ = see.ground_revision;
  jumps_ = see.jumps;
  head_for(see, std::min<std::uint32_t>(1, static_cast<std::uint32_t>(route_.bends.size()) - 1));
  return std::nullopt;
}

bool Way::outdated(const View& see) {
  if (route_.bends.empty() || jumps_ != see.jumps) return true;
  if (ground_revision_ == see.ground_revision) return false;
  const auto ahead = std::span(route_.bends).subspan(next_ > 0 ? next_ - 1 : 0);
  if (see.ground.changed_along(ahead, see.body, ground_revision_)) return true;
  ground_revision_ = see.ground_revision;
  return false;
}

void Way::head_for(const View& see, std::uint32_t bend) {
  next_ = bend;
  last_ = bend + 1 == route_.bends.size();
  bend_ = flat(route_.bends[bend]);
  if (last_) return;
  const vec2 in = direction(bend_ - flat(route_.bends[bend - 1]));
  const vec2 out = direction(flat(route_.bends[bend + 1]) - bend_);
  bend_speed_ = bend_speed(in, out, bend_radius, std::min(see.gait.acceleration, see.gait.braking));
}

void Way::move_end(vec3 end) {
  route_.bends.back() = end;
  if (last_) bend_ = flat(end);
}

bool Way::at_end(const View& see, float radius) {
  const vec2 now = flat(see.me.position);
  while (!last_ && came_by(see.was, now, bend_, bend_radius)) head_for(see, next_ + 1);
  return last_ && came_by(see.was, now, bend_, radius);
}

Intent Way::go_on(const View& see, float radius, float speed, float end_speed, float seconds) const {
  const vec2 target = bend_ - flat(see.me.position);
  const float left = glm::length(target);
  const float edge = last_ ? radius : bend_radius;
  const Approach approach = last_ && end_speed <= 0.f
                                ? arrive(see.me, see.gait, target, left, edge, speed, seconds)
                                : pass_through(see.me, see.gait, target, left, edge, speed,
                                               last_ ? end_speed : bend_speed_, seconds);
  return {.velocity = approach.velocity, .edge_centre = bend_, .edge_radius = edge, .lasts = approach.lasts};
}

float Way::left(vec3 position) const { return metres_left(route_, next_, position); }

vec2 Way::end_direction() const {
  const std::size_t count = route_.bends.size();
  return count < 2 ? vec2(0.f) : direction(flat(route_.bends[count - 1] - route_.bends[count - 2]));
}

}  // namespace ambulon
