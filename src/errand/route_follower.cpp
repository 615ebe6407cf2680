#include "errand/route_follower.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "ambulon/motion/steering.hpp"

#include "base/circle.hpp"
#include "base/geometry.hpp"
#include "route/compact_route.hpp"
#include "route/shape.hpp"

namespace ambulon {
namespace {

constexpr float bend_radius = 0.15f;     // metres from the first spot of a route that count as there
constexpr float min_swing = 0.05f;       // metres of room at a bend, the minimum: it may graze a wall
constexpr float entry_reach = 0.05f;     // metres from the beginning of an arc that count as there
constexpr float crossing_reach = 0.05f;  // metres from the start of a crossing
constexpr float landed = 0.3f;           // metres from the end of a crossing
constexpr float snap_reach = 0.5f;       // metres that a goal may be off the ground
constexpr float off_ground = 0.05f;      // metres
constexpr float on_goal = 0.01f;         // metres off the ground at which a goal counts as on it
constexpr float there_already = 1e-3f;   // metres from the goal: no search needed
constexpr float aside = 3.f;             // metres from a bend within which it may be passed from the side
constexpr float strayed_by = 0.4f;       // metres from a leg: minimum before sight is tested
// of the rest: a smaller gain is not worth a new route
constexpr float worth_metres = 0.3f, worth_part = 0.05f;
constexpr float course_sight = 2.f;                      // metres along the route
constexpr float look_every = 0.5f, glance_every = 0.1f;  // seconds
constexpr std::uint32_t looked_ahead = 16;               // bends that braking considers

/// Returns the metres by which another route must be shorter to replace the present one, of which `left`
/// metres are left.
float worth(float left) { return std::max(worth_metres, worth_part * left); }

}  // namespace

tl::expected<Spot, Outcome> spot_of_goal(const View& see, vec3 goal, float within) {
  const Snap to = see.ground.snap(goal, std::max(snap_reach, within), see.body);
  if (to) return to.spot;
  return tl::unexpected(Outcome{.ending = Ending::off_ground,
                                .cause = Cause::goal_off_ground,
                                .value = to.off,
                                .where = to.spot.position});
}

Outcome no_route(const View& see, vec3 goal) {
  return {.ending = Ending::no_route,
          .cause = Cause::no_route,
          .value = see.ground.nearest_reachable(see.spot(), goal).off,
          .where = goal};
}

std::optional<Outcome> RouteFollower::plan(const View& see, vec3 goal, float within,
                                           Unreachable unreachable) {
  strayed_ = false;
  const auto to = spot_of_goal(see, goal, within);
  const auto failed = !to                                      ? std::optional(to.error())
                      : !see.ground.reachable(see.spot(), *to) ? std::optional(no_route(see, goal))
                                                               : plan_to(see, *to);
  const float off = to ? metres_apart(goal - to->position, see.body.height, snap_reach) : 0.f;
  if (!failed && off <= on_goal) {
    if (!is_stranded()) less_.reset();
    return std::nullopt;
  }
  if (failed) {
    asked_.withdraw();
    if (unreachable == Unreachable::refuse) {
      forget_route();
      return failed;
    }
  }
  const Snap nearest =
      failed && unreachable == Unreachable::nearest ? see.ground.nearest_reachable(see.spot(), goal) : Snap();
  Shortfall& less = less_ ? *less_ : less_.make(see.memory);
  less.goal = goal;
  less.within = within;
  less.instead = nearest.found && !plan_to(see, nearest.spot);
  less.off = less.instead ? nearest.off : off;
  if (!failed || less.instead) return std::nullopt;
  forget_route();
  if (unreachable == Unreachable::nearest) return failed;
  less.retry.put_off(see, *failed);
  bring_up_to_date(see);
  return std::nullopt;
}

/// Plans the route to a reachable spot, or requests it. Returns the reason if the request found none.
std::optional<Outcome> RouteFollower::plan_to(const View& see, const Spot& to) {
  strayed_ = false;
  const bool same_end = !route_.empty() && glm::distance(route_.end(), to.position) < there_already;
  opening_.asked = opening_.seen & static_cast<std::uint8_t>(same_end);
  opening_.seen = 0;
  opening_.period = period(see) & 15U;
  const bool known = std::exchange(found_none_, false) && asked_.leads_to(to);
  asked_.withdraw();
  if (known) return no_route(see, to.position);
  const Spot from = see.spot();
  if (glm::distance(from.position, to.position) < there_already) {
    Route route(see.memory);
    route.bends.push_back(to.position);
    set_out(see, route);
    return std::nullopt;
  }
  if (see.routes == nullptr) {
    Route route(see.memory);
    see.ground.route(from, to, route);
    set_out(see, route);
    return route_.empty() ? std::optional(no_route(see, to.position)) : std::nullopt;
  }
  asked_ = see.routes->ask(
      {.from = from, .to = to, .priority = see.route_priority, .time = see.time, .asker = see.who.slot});
  const bool done = !route_.empty() && glm::distance(route_.end(), from.position) < there_already;
  if (done || jumps_ != see.jumps) forget_route();  // it stands until the answer
  jumps_ = see.jumps;
  return std::nullopt;
}

/// Returns true if a route to the goal itself exists now.
bool RouteFollower::opened(const View& see) const {
  const Snap there = see.ground.snap(less_->goal, std::max(snap_reach, less_->within), see.body);
  return there && see.ground.reachable(see.spot(), there.spot);
}

/// Returns the distance from the end of the route that is within `radius` metres of the goal.
float RouteFollower::reach_of_end(float radius) const {
  return less_ && less_->off < radius ? std::max(min_reach, radius - less_->off) : radius;
}

void RouteFollower::forget_route() {
  route_.clear();
  turns_ = false;
}

/// Takes over the requested route if it is found.
void RouteFollower::take_answer(const View& see) {
  Route route(see.memory);
  if (asked_.found_none()) {
    found_none_ = true;
    forget_route();
  } else if (asked_.take(route)) {
    set_out(see, route);
  } else if (!route_.empty()) {
    asked_.start_from(see.spot());
  }
}

/// Starts to follow a new route. An empty one means that there is none.
void RouteFollower::set_out(const View& see, Route& route) {
  if (route.bends.empty()) return forget_route();
  if (see.gait.clearance > 0.f) keep_clear(see.ground, see.body, see.gait.clearance, route);
  bring_up_to_date(see);
  const float left = route_.empty() ? 0.f : route_.left(see.me.position);
  jam_.reset();
  is_detour_ = false;
  // An NPC off the ground, since a barrier was put around it, first walks to the nearest spot.
  const bool off = flat_distance(see.me.position, see.spot().position) > off_ground;
  const auto last = static_cast<std::uint32_t>(route.bends.size()) - 1;
  route_.assign(route, see.memory);
  set_next_bend(see, std::min(off || route_.crossing_at(0) != nullptr ? 0U : 1U, last));
  if (opening_.asked != 0) record_opening(see, left);
  if (less_) less_->retry.over(see);
}

/// Compares the new route with the previous one, of which `left` metres were left when ground opened.
void RouteFollower::record_opening(const View& see, float left) {
  opening_.asked = 0;
  // With terrain costs a better route may be longer. A longer one may also mean that the previous one is
  // blocked.
  const bool longer = length() > left;
  if (std::abs(left - length()) < worth(left)) {
    opening_.vain = std::min(opening_.vain + 1, 3) & 3;
  } else if (!longer || !blocked_) {
    opening_.vain = 0;
    see.tell({.event = Event::route_opened, .value = length(), .other = left, .where = see.me.position});
  }
  blocked_ = false;
  opening_.period = period(see) & 15U;
}

/// Returns the number, modulo 16, of the present period of 1, 4, 16 or 64 s. Periods start at different
/// moments for different NPCs, so that they do not plan in the same tick.
std::uint8_t RouteFollower::period(const View& see) const {
  const double seconds = static_cast<double>(1U << (2U * opening_.vain));
  const double off = 0.618 * static_cast<double>(see.who.slot % 1024);
  return static_cast<std::uint8_t>(std::fmod((see.time + off * seconds) / seconds, 16.0));
}

RouteFollower::Status RouteFollower::update(const View& see) {
  if (is_planning() && jumps_ == see.jumps) {
    take_answer(see);
    return found_none_ ? Status::must_plan : is_planning() ? Status::planning : Status::following;
  }
  if (is_stranded())
    return jumps_ != see.jumps || less_->retry.due(see) ? Status::must_plan : Status::stranded;
  if (asked_ && asked_.wish()->jam && jumps_ == see.jumps) take_detour(see);
  if (route_.empty() || jumps_ != see.jumps || strayed(see)) return Status::must_plan;
  return changed(see) ? Status::must_plan : Status::following;
}

/// Returns true if the ground has changed so that another route is needed, or a shorter one may exist.
bool RouteFollower::changed(const View& see) {
  if (ground_revision_ != see.ground_revision) {
    if (ends_elsewhere() && opened(see)) return true;
    const float all = left(see.me.position), max = all - worth(all);
    if (!is_detour_ && max > 0.f &&
        see.ground.may_shorten(see.me.position, route_.end(), max, see.body, ground_revision_))
      opening_.seen = 1;
    blocked_ = see.ground.changed_along(bends_ahead(), see.body, ground_revision_);
    if (blocked_) return true;
    ground_revision_ = see.ground_revision;
  }
  return opening_.seen != 0 && opening_.period != period(see);
}

/// Returns true if the NPC was pushed off its leg and an obstacle hides the next bend. An NPC that makes no
/// progress at an edge is tested, too, however little it was pushed.
bool RouteFollower::strayed(const View& see) {
  if (strayed_) return true;
  if (gives_way()) return false;  // it stands aside on purpose
  if (static_cast<float>(see.time) < next_look_ || route_.next() == 0 || crossing_ == Crossing::begun)
    return false;
  const vec2 now = flat(see.me.position), before = flat(route_.bend_before());
  const bool off = held_up(see) || glm::distance(now, nearest_on(before, bend_, now)) >= strayed_by;
  next_look_ = static_cast<float>(see.time) + (off ? look_every : glance_every);
  if (!off) return false;
  strayed_ = !see.ground.sight(see.spot(), see.spot_at(route_.next_bend()));
  return strayed_;
}

void RouteFollower::set_next_bend(const View& see, std::uint32_t bend) {
  route_.set_next_bend(bend);
  bend_ = flat(route_.next_bend());
  turns_ = false;
  if (jam_) jam_->gate = vec2(0.f);
  crossing_ = route_.crossing_at(bend) != nullptr ? Crossing::ahead : Crossing::none;
  bend_reach_ = crossing_ == Crossing::ahead ? crossing_reach : bend_radius;
  if (route_.on_last_leg()) return;
  const std::span bends = route_.bends();
  bend_speed_ = std::numeric_limits<float>::infinity();
  if (crossing_ == Crossing::none && bend > 0) {
    const vec2 in = direction(flat(bends[bend] - bends[bend - 1])),
               out = direction(flat(bends[bend + 1] - bends[bend]));
    const vec2 outwards = direction(in - out);
    const float swing = max_swing(see.gait, angle_between(in, out));
    const float room =
        outwards == vec2(0.f) ? 0.f : see.ground.straight(see.spot_at(bends[bend]), swing * outwards).metres;
    const Turn turn = turn_at(see.gait, bend, std::max(room, min_swing));
    bend_speed_ = speed_on(see.gait, turn);
    bend_ = turn.entry;
    bend_reach_ = std::clamp(0.5f * turn.radius * std::abs(turn.angle), min_reach, entry_reach);
  }
  // Braking considers several bends, since a later one may need a lower speed now.
  float later = std::numeric_limits<float>::infinity();
  const std::uint32_t end = static_cast<std::uint32_t>(bends.size()) - 1;
  for (std::uint32_t i = std::min(end, bend + looked_ahead); i-- > bend;) {
    const float leg = flat_distance(bends[i], bends[i + 1]);
    later = std::min(std::sqrt(later * later + 2.f * see.gait.braking * leg), speed_at(see, i));
  }
  bend_speed_ = std::min(bend_speed_, later);
}

/// Returns the maximum speed at bend `i`, which is not the last.
float RouteFollower::speed_at(const View& see, std::uint32_t i) const {
  const std::span bends = route_.bends();
  if (const CrossingLeg* leg = route_.crossing_at(i))
    return std::clamp(glm::length(arc_from(see, bends[i], *leg).velocity()), slowest_part * see.gait.speed,
                      see.gait.speed);
  if (i == 0) return see.gait.speed;  // on its way to the ground
  return speed_on(see.gait, turn_at(see.gait, i, any_room));
}

void RouteFollower::move_end(vec3 end) {
  if (route_.empty()) return;
  const std::size_t count = route_.bends().size();
  if (count > 1 && route_.crossing_at(count - 2) != nullptr) return;
  route_.move_end(end);
  if (route_.on_last_leg()) bend_ = flat(end);
}

/// Returns true if the NPC was pushed past the bend and can go straight on to the next one.
bool RouteFollower::passed_aside(const View& see) const {
  // First the tests that need no bends, since most NPCs are far from one.
  const vec2 past = flat(see.me.position) - bend_;
  if (glm::dot(past, past) >= aside * aside || crossing_ != Crossing::none || route_.next() == 0)
    return false;
  const vec2 before = flat(route_.bend_before()), after = flat(route_.bend_after());
  return glm::dot(past, after - bend_) > 0.f && glm::dot(past, bend_ - before) > 0.f &&
         see.ground.sight(see.spot(), see.spot_at(route_.bend_after()));
}

/// Advances to the first bend that is not passed yet.
void RouteFollower::pass_bends(const View& see) {
  const vec2 now = flat(see.me.position);
  if (crossing_ == Crossing::begun) {
    set_next_bend(see, route_.next() + 1);
    if (glm::distance(see.me.position, route_.next_bend()) > landed) jumps_ = ~see.jumps;  // not there
  }
  while (!route_.on_last_leg() && crossing_ != Crossing::reached) {
    const bool there = turns_ ? angle_left(now) <= turned_there
                              : came_by(see.was, now, bend_, bend_reach_) || missed_entry(now);
    if (!there && !passed_aside(see) && !passed_gate(see)) return;
    if (crossing_ == Crossing::ahead)
      crossing_ = Crossing::reached;
    else if (!turns_ && there && begin_turn(see))
      continue;
    else
      set_next_bend(see, route_.next() + 1);
  }
}

bool RouteFollower::at_end(const View& see, float radius) {
  if (route_.empty()) return false;
  pass_bends(see);
  if (!route_.on_last_leg() || is_planning()) return false;
  return came_by(see.was, flat(see.me.position), bend_, reach_of_end(radius)) || end_is_full(see);
}

bool RouteFollower::can_go_on(const View& see, float radius) {
  const bool walks = crossing_ == Crossing::none || crossing_ == Crossing::ahead;
  // In a crowd some steps query neighbours, which is sequential: after a gate, at intervals, and for room at
  // the end.
  const bool in_throng = held_up(see) || jam_;
  if (!walks || route_.empty() || asked_ ||
      ((in_throng || see.oncoming) && static_cast<float>(see.time) >= next_jam_check_) ||
      update(see) == Status::must_plan)
    return false;
  pass_bends(see);
  if (crossing_ == Crossing::reached) return false;
  return !route_.on_last_leg() ||
         (!in_throng && !came_by(see.was, flat(see.me.position), bend_, reach_of_end(radius)));
}

Outcome RouteFollower::arrival(const View& see, float radius) const {
  if (jam_ && jam_->short_of > 0.f)
    return {.ending = Ending::arrived,
            .cause = Cause::place_taken,
            .value = jam_->short_of,
            .where = route_.end()};
  if (!less_) return {.ending = Ending::arrived};
  const float off = metres_apart(less_->goal - see.me.position, see.body.height, snap_reach);
  if (!less_->instead && off <= radius + off_ground) return {.ending = Ending::arrived};
  return {.ending = Ending::arrived, .cause = Cause::nearest_instead, .value = off, .where = less_->goal};
}

/// Returns the movement over a crossing from the NPC's position.
Arc RouteFollower::arc_from(const View& see, vec3 from, const CrossingLeg& leg) const {
  const vec3 to = route_.bends()[leg.bend + std::size_t{1}];
  if (leg.kind == Passage::ladder) return Arc::climb(from, to, see.gait);
  if (leg.kind == Passage::door) return Arc::through(from, to, see.gait);
  return Arc::jump(from, to, leg.over, see.gait);
}

Intent RouteFollower::cross(const View& see) {
  const CrossingLeg& leg = *route_.crossing_at(route_.next());
  const vec3 from = see.me.position, to = route_.bend_after();
  see.arc = arc_from(see, from, leg);
  crossing_ = Crossing::begun;
  see.tell({.event = Event::crosses,
            .value = to.z - from.z,
            .other = flat_distance(from, to),
            .where = from,
            .errand = verb(leg.kind, to.z - from.z)});
  return {.crosses = true};
}

Intent RouteFollower::go_on(const View& see, float radius, float speed, float end_speed, float seconds) {
  if (route_.empty()) return {};
  if (crossing_ == Crossing::reached) return cross(see);
  if (static_cast<float>(see.time) >= next_jam_check_) watch_jam(see);
  const vec2 now = flat(see.me.position);
  const bool last = route_.on_last_leg();
  if (gives_way()) return at_narrow_place(see, speed);
  const vec2 beyond = course(now);
  if (turns_ && gate() == vec2(0.f)) {
    Intent intent = turn(see, speed, seconds);
    intent.course = beyond;
    return intent;
  }
  vec2 aim = bend_;
  if (gate() != vec2(0.f))
    aim = nearest_on(corner(), corner() + gate(), now) + 2.f * bend_radius * through_gate();
  const vec2 target = aim - now;
  const float left = glm::length(target), reach = reach_of_end(radius);
  if (is_planning() && last && left <= reach) return {};
  const float edge = last ? reach : bend_reach_;
  const Approach approach = last && end_speed <= 0.f
                                ? arrive(see.me, see.gait, target, left, edge, speed, seconds)
                                : pass_through(see.me, see.gait, target, left, edge, speed,
                                               last ? end_speed : bend_speed_, seconds);
  return {.velocity = approach.velocity,
          .course = beyond,
          .edge_centre = aim,
          .edge_radius = edge,
          .lasts = approach.lasts,
          .stop = approach.stop,
          .queue = last || has_lanes_ahead(see) ? 0.f : glm::distance(now, corner())};
}

/// Returns the direction to the point of the route a few metres ahead.
vec2 RouteFollower::course(vec2 now) const {
  if (route_.on_last_leg() || crossing_ != Crossing::none) return vec2(0.f);
  const vec2 bend = corner();
  const float further = course_sight - glm::distance(now, bend);
  if (further <= 0.f) return vec2(0.f);
  const vec2 leg = flat(route_.bend_after()) - bend;
  const float length = glm::length(leg);
  return direction(bend + (length > further ? further / length : 1.f) * leg - now);
}

float RouteFollower::left(vec3 position) const {
  const float left = route_.left(position);
  if (!turns_) return left;
  // Past the bend, but still on its arc.
  const vec3 bend = route_.next_bend(), after = route_.bend_after();
  return left - glm::distance(position, bend) - glm::distance(bend, after) + glm::distance(position, after);
}

Progress RouteFollower::progress(vec3 position) const {
  if (route_.empty()) return {};
  const float all = length(), gone = std::clamp(all - left(position), 0.f, all);
  return {.metres = gone, .of_metres = all, .fraction = all > 0.f ? gone / all : 1.f};
}

vec2 RouteFollower::end_direction() const {
  const std::span bends = route_.bends();
  return bends.size() < 2 ? vec2(0.f) : direction(flat(bends.back() - bends[bends.size() - 2]));
}

}  // namespace ambulon
