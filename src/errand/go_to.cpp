#include "ambulon/errand/go_to.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "ambulon/motion/steering.hpp"

namespace ambulon {
namespace {

constexpr float bend_radius = 0.15f;  // metres from a bend that count as round it
constexpr float snap_reach = 0.5f;    // metres a goal may be off the ground

}  // namespace

std::optional<Outcome> lay_route(const View& see, vec3 goal, Route& route, Walk& walk) {
  const Snap to = see.ground.snap(goal, snap_reach);
  if (!to)
    return Outcome{.ending = Ending::off_ground, .cause = Cause::goal_off_ground, .value = to.off, .where = to.spot.position};
  const Snap from = see.ground.snap(see.me.position, std::numeric_limits<float>::infinity());
  see.ground.route(from.spot, to.spot, route);
  walk = {};
  if (route.bends.empty()) return Outcome{.ending = Ending::no_way, .cause = Cause::no_route, .where = goal};
  return std::nullopt;
}

Intent walk_route(const View& see, const Route& route, Walk& walk, float radius, float speed, float seconds) {
  pass_bends(route, walk, see.was, flat(see.me.position), bend_radius);
  const vec3 bend = route.bends[walk.next];
  const vec2 target = flat(bend) - flat(see.me.position);
  const bool last = walk.next + 1 == route.bends.size();
  Intent intent{.edge_centre = flat(bend), .edge_radius = last ? radius : bend_radius};
  if (last) {
    intent.velocity = arrive(see.me, see.gait, target, glm::length(target), radius, speed, seconds);
  } else {
    const vec2 onward = direction(flat(route.bends[walk.next + 1] - bend));
    const float passing = bend_speed(direction(target), onward, bend_radius, see.gait.braking);
    intent.velocity = pass_through(see.me, see.gait, target, glm::length(target), bend_radius, speed, passing, seconds);
  }
  return intent;
}

std::optional<Outcome> GoTo::plan(const View& see) {
  if (!finite(goal_)) return Outcome{.ending = Ending::refused, .cause = Cause::not_finite, .subject = "a coordinate of the goal"};
  if (!(options_.within >= 0.001f && options_.within <= 1000.f))
    return Outcome{.ending = Ending::refused, .cause = Cause::out_of_range, .value = options_.within, .subject = "within"};
  planned_ = true;
  revision_ = see.ground.revision();
  return lay_route(see, goal_, route_, walk_);
}

Step GoTo::step(const View& see, float seconds) {
  if (!planned_ || revision_ != see.ground.revision())
    if (const auto failed = plan(see)) return ended(*failed);
  const vec2 goal = flat(route_.bends.back());
  const bool last = walk_.next + 1 == route_.bends.size();
  if (last && came_by(see.was, flat(see.me.position), goal, options_.within)) return ended(Ending::arrived);
  return {.intent = walk_route(see, route_, walk_, options_.within, see.gait.speed, seconds)};
}

Progress GoTo::progress(const View& see) const {
  if (!planned_) return {};
  const float gone = std::clamp(route_.length - metres_left(route_, walk_, see.me.position), 0.f, route_.length);
  return {.metres = gone, .of_metres = route_.length, .fraction = route_.length > 0.f ? gone / route_.length : 1.f};
}

std::string GoTo::doing() const { return fmt::format("walking to ({:.1f}, {:.1f})", goal_.x, goal_.y); }

}  // namespace ambulon
