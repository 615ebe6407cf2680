#include "ambulon/errand/way.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "ambulon/base/circle.hpp"
#include "ambulon/motion/steering.hpp"
#include "ambulon/route/shape.hpp"
#include "ambulon/route/walk.hpp"

namespace ambulon {
namespace {

constexpr float bend_radius = 0.15f;     // metres from a bend that count as round it
constexpr float least_reach = 0.02f;     // and from one before a short leg, at the least
constexpr float crossing_reach = 0.05f;  // and from one at which a crossing begins
constexpr float landed = 0.3f;           // metres from the end of a crossing that count as there
constexpr float slowest_part = 0.25f;    // of the speed, at which it comes to a crossing at the least
constexpr float snap_reach = 0.5f;       // metres a goal may be off the ground
constexpr float off_ground = 0.05f;      // metres
constexpr float aside = 3.f;             // metres from a bend that may be passed so
constexpr float gate_width = 3.f;        // metres that it has at the most
constexpr float heed_radius = 2.5f;      // metres within which one looks who comes towards it
constexpr float gate_sight = 8.f;        // metres from a bend at which one thinks of going through its gate
constexpr float strayed_by = 0.4f;    // metres from a leg, from which on it is looked whether one has strayed
constexpr double look_every = 0.5;    // seconds
constexpr float arc_leg = 0.4f;       // metres: shorter legs are those of an arc
constexpr float slow_part = 0.5f;     // of its speed: who goes slower is held up
constexpr float standing = 0.05f;     // metres per second
constexpr float elbow_room = 0.15f;   // metres between bodies that stand in a throng
constexpr float full = 0.65f;         // part of the ground that bodies with elbow room take up
constexpr double looks_for_room = 1;  // seconds
constexpr std::uint32_t looked_ahead = 16;  // looked at for braking

}  // namespace

tl::expected<Spot, Outcome> spot_of_goal(const View& see, vec3 goal) {
  const Snap to = see.ground.snap(goal, snap_reach, see.body);
  if (to) return to.spot;
  return tl::unexpected(Outcome{.ending = Ending::off_ground,
                                .cause = Cause::goal_off_ground,
                                .value = to.off,
                                .where = to.spot.position});
}

Outcome no_way(const View& see, vec3 goal) {
  return {.ending = Ending::no_way,
          .cause = Cause::no_route,
          .value = see.ground.nearest_reachable(see.spot(), goal).off,
          .where = goal};
}

std::optional<Outcome> Way::lay(const View& see, vec3 goal) {
  withdraw();
  strayed_ = false;
  const bool known = std::exchange(found_none_, false) && goal == goal_;
  goal_ = goal;
  if (known) return no_way(see, goal);
  const auto to = spot_of_goal(see, goal);
  if (!to) {
    route_.clear();
    return to.error();
  }
  if (see.routes == nullptr) {
    see.ground.route(see.spot(), *to, route_);
    if (route_.bends.empty()) return no_way(see, goal);
    set_out(see);
    return std::nullopt;
  }
  ticket_ = see.routes->ask({.from = see.spot(),
                             .to = *to,
                             .priority = see.route_priority,
                             .time = see.time,
                             .asker = see.who.slot});
  service_ = see.routes;
  waits_ = true;
  if (jumps_ != see.jumps) route_.clear();  // it stands until then
  jumps_ = see.jumps;
  return std::nullopt;
}

void Way::withdraw() {
  if (waits_) service_->withdraw(ticket_);
  waits_ = false;
}

/// Takes up the way that was asked for, if it is there.
void Way::fetch(const View& see) {
  if (!service_->take(ticket_, route_)) {
    if (!route_.bends.empty()) service_->start_from(ticket_, see.spot());
    return;
  }
  waits_ = false;
  found_none_ = route_.bends.empty();
  if (!found_none_) set_out(see);
}

/// Begins to walk along a new way.
void Way::set_out(const View& see) {
  if (see.gait.clearance > 0.f) keep_clear(see.ground, see.body, see.gait.clearance, route_);
  if (see.gait.rounding > 0.f) round_bends(see.ground, see.body, see.gait.rounding, route_);
  ground_revision_ = see.ground_revision;
  jumps_ = see.jumps;
  short_of_ = 0.f;
  // Who is off the ground, because it was shut up in something, gets out of there first.
  const bool off = flat_distance(see.me.position, see.spot().position) > off_ground;
  const auto last = static_cast<std::uint32_t>(route_.bends.size()) - 1;
  head_for(see, std::min(off || route_.crossing_at(0) != nullptr ? 0U : 1U, last));
}

bool Way::outdated(const View& see) {
  if (waits_ && jumps_ == see.jumps) {
    fetch(see);
    return found_none_;
  }
  if (route_.bends.empty() || jumps_ != see.jumps || strayed(see)) return true;
  if (ground_revision_ == see.ground_revision) return false;
  if (see.ground.changed_along(bends_ahead(), see.body, ground_revision_)) return true;
  ground_revision_ = see.ground_revision;
  return false;
}

/// True for who was pushed off its leg, to where something stands between it and the bend; who does not get
/// on at an edge may have been pushed there by little.
bool Way::strayed(const View& see) {
  if (strayed_) return true;
  if (see.time < next_look_ || next_ == 0 || crossing_ == Crossing::begun) return false;
  const vec2 now = flat(see.me.position), before = flat(route_.bends[next_ - std::size_t{1}]);
  if (!held_up(see) && glm::distance(now, nearest_on(before, bend_, now)) < strayed_by) return false;
  next_look_ = see.time + look_every;
  strayed_ = !see.ground.sight(see.spot(), see.spot_at(route_.bends[next_]));
  return strayed_;
}

/// True for who keeps out of others' way, and goes slowly.
bool Way::held_up(const View& see) { return see.avoids && see.me.speed() <= slow_part * see.gait.speed; }

void Way::head_for(const View& see, std::uint32_t bend) {
  next_ = bend;
  last_ = bend + 1 == route_.bends.size();
  bend_ = flat(route_.bends[bend]);
  gate_ = vec2(0.f);
  crossing_ = route_.crossing_at(bend) != nullptr ? Crossing::ahead : Crossing::none;
  bend_reach_ = crossing_ == Crossing::ahead ? crossing_reach : bend_radius;
  if (last_) return;
  // Along an arc of short legs no bend is cut, or it would slide slowly along the edge behind the next one.
  const float next_leg = flat_distance(route_.bends[bend], route_.bends[bend + 1]);
  if (crossing_ == Crossing::none) bend_reach_ = std::clamp(0.5f * next_leg, least_reach, bend_radius);
  // Bends may follow so closely that one must brake for a later one before an earlier one.
  bend_speed_ = std::numeric_limits<float>::infinity();
  const std::uint32_t end = static_cast<std::uint32_t>(route_.bends.size()) - 1;
  for (std::uint32_t i = std::min(end, bend + looked_ahead); i-- > bend;) {
    const float leg = flat_distance(route_.bends[i], route_.bends[i + 1]);
    const float later = std::sqrt(bend_speed_ * bend_speed_ + 2.f * see.gait.braking * leg);
    bend_speed_ = std::min(later, speed_at(see, i));
  }
}

/// The speed at which bend `i`, which is not the last, may be taken.
float Way::speed_at(const View& see, std::uint32_t i) const {
  if (const CrossingLeg* leg = route_.crossing_at(i))
    return std::clamp(glm::length(arc_from(see, route_.bends[i], *leg).velocity()),
                      slowest_part * see.gait.speed, see.gait.speed);
  if (i == 0) return see.gait.speed;  // it is on its way to the ground
  const vec2 before = flat(route_.bends[i] - route_.bends[i - 1]),
             after = flat(route_.bends[i + 1] - route_.bends[i]);
  const vec2 in = direction(before), out = direction(after);
  const float change = std::min(see.gait.acceleration, see.gait.braking);
  const float alone = bend_speed(in, out, bend_radius, change);
  // Short legs are an arc, through which it has to be held all along.
  const float leg = std::min(glm::length(before), glm::length(after));
  const float turn = std::abs(angle_between(in, out));
  if (leg > arc_leg || turn < 1e-3f) return alone;
  return std::min(alone, std::sqrt(change * leg / (2.f * std::tan(0.5f * std::min(turn, 3.f)))));
}

void Way::move_end(vec3 end) {
  if (route_.bends.empty()) return;
  if (!route_.crossings.empty() && route_.crossings.back().bend + 2 == route_.bends.size()) return;
  route_.bends.back() = end;
  if (last_) bend_ = flat(end);
}

/// True for who was pushed aside and has the bend behind it: it may go straight on to the next one.
bool Way::passed_aside(const View& see) const {
  const vec2 now = flat(see.me.position), next = flat(route_.bends[next_ + std::size_t{1}]);
  if (crossing_ != Crossing::none || glm::dot(now - bend_, next - bend_) <= 0.f || next_ == 0) return false;
  if (glm::dot(now - bend_, bend_ - flat(route_.bends[next_ - std::size_t{1}])) <= 0.f) return false;
  return glm::distance(now, bend_) < aside &&
         see.ground.sight(see.spot(), see.spot_at(route_.bends[next_ + std::size_t{1}]));
}

/// The gate at the bend: the line from which both its legs go off evenly, from the bend outwards as far as
/// there is ground. Zero where there is none.
vec2 Way::gate_before(const View& see) const {
  if (!see.avoids || last_ || next_ == 0 || crossing_ != Crossing::none) return vec2(0.f);
  if (!held_up(see) || glm::distance(flat(see.me.position), bend_) > gate_sight) return vec2(0.f);
  const vec2 in = direction(bend_ - flat(route_.bends[next_ - std::size_t{1}])),
             out = direction(flat(route_.bends[next_ + std::size_t{1}]) - bend_);
  const vec2 outwards = direction(in - out);
  // Where others come towards it, each keeps to its side; but for some that turn about in the throng.
  int towards = 0, along = 0;
  for (const Neighbour& other : see.others.near(see.me.position, heed_radius, see.who, {}, see.body.passes)) {
    const Other* its = see.others.find(other.id);
    if (its == nullptr) continue;
    const bool against = std::min(glm::dot(its->facing, in), glm::dot(its->facing, out)) < -0.5f;
    (against ? towards : along) += 1;
  }
  if (4 * towards > along) return vec2(0.f);
  return see.ground.straight(see.spot_at(route_.bends[next_]), gate_width * outwards).metres * outwards;
}

/// The direction in which one goes through the gate.
vec2 Way::through_gate() const {
  const vec2 outwards = direction(gate_), onward(-outwards.y, outwards.x);
  return glm::dot(flat(route_.bends[next_ + std::size_t{1}]) - bend_, onward) > 0.f ? onward : -onward;
}

/// True for who came through the gate, from where it may go straight on. Where it may not, its way is
/// outdated.
bool Way::passed_gate(const View& see) {
  if (gate_ == vec2(0.f)) return false;
  const vec2 now = flat(see.me.position);
  if (glm::dot(now - bend_, through_gate()) <= 0.f ||
      glm::distance(now, nearest_on(bend_, bend_ + gate_, now)) > aside)
    return false;
  const bool on = see.ground.sight(see.spot(), see.spot_at(route_.bends[next_ + std::size_t{1}]));
  if (!on) jumps_ = ~see.jumps;
  return on;
}

bool Way::at_end(const View& see, float radius) {
  if (route_.bends.empty()) return false;
  const vec2 now = flat(see.me.position);
  if (crossing_ == Crossing::begun) {
    head_for(see, next_ + 1);
    if (glm::distance(see.me.position, route_.bends[next_]) > landed) jumps_ = ~see.jumps;  // not there
  }
  while (!last_ && crossing_ != Crossing::reached &&
         (came_by(see.was, now, bend_, bend_reach_) || passed_aside(see) || passed_gate(see)))
    if (crossing_ == Crossing::ahead)
      crossing_ = Crossing::reached;
    else
      head_for(see, next_ + 1);
  return last_ && !waits_ && (came_by(see.was, now, bend_, radius) || taken(see));
}

/// True where those who stand around the end leave no room nearer to it: none in a circle that is as full as
/// people stand, or none that it finds within a while in one that is half as full.
bool Way::taken(const View& see) {
  const vec2 way = bend_ - flat(see.me.position);
  const float left = glm::length(way);
  if (!held_up(see)) {
    nearest_ = std::numeric_limits<float>::infinity();
    return false;
  }
  const auto stands = [&](const Neighbour& other) {
    const Other* its = see.others.find(other.id);
    return glm::length(other.velocity) < standing && its != nullptr &&
           share_height(its->position.z - see.me.position.z, see.body.height, its->height);
  };
  const auto before_it =
      see.others.near(see.me.position, see.body.radius + elbow_room, see.who, {}, see.body.passes);
  if (std::ranges::none_of(before_it, [&](const Neighbour& other) {
        return stands(other) && glm::dot(other.offset, way) > 0.5f * glm::length(other.offset) * left;
      }))
    return false;
  float square = 0.f;  // metres squared, over pi, that bodies take up
  const auto take_up = [&](float radius) {
    square += (radius + 0.5f * elbow_room) * (radius + 0.5f * elbow_room);
  };
  take_up(see.body.radius);
  for (const Neighbour& other : see.others.near(route_.bends.back(), left, see.who, {}, see.body.passes))
    if (stands(other)) take_up(other.radius);
  if (left < nearest_ - 0.5f * elbow_room) {
    nearest_ = left;
    nearer_at_ = see.time;
  }
  const bool gives_up = see.time - nearer_at_ > looks_for_room;
  if (left * left * (gives_up ? 0.5f * full : full) > square) return false;
  short_of_ = left;
  return true;
}

bool Way::is_open(const View& see, float radius) {
  const bool walks = crossing_ == Crossing::none || crossing_ == Crossing::ahead;
  return walks && !waits_ && !held_up(see) && gate_ == vec2(0.f) && !outdated(see) && !at_end(see, radius) &&
         crossing_ != Crossing::reached;
}

Outcome Way::arrival() const {
  if (short_of_ <= 0.f) return {.ending = Ending::arrived};
  return {.ending = Ending::arrived,
          .cause = Cause::place_taken,
          .value = short_of_,
          .where = route_.bends.back()};
}

/// Over a crossing, from where it stands.
Arc Way::arc_from(const View& see, vec3 from, const CrossingLeg& leg) const {
  const vec3 to = route_.bends[leg.bend + std::size_t{1}];
  if (leg.kind == Passage::ladder) return Arc::climb(from, to, see.gait);
  if (leg.kind == Passage::door) return Arc::through(from, to, see.gait);
  return Arc::jump(from, to, leg.over, see.gait);
}

Intent Way::cross(const View& see) {
  const CrossingLeg& leg = *route_.crossing_at(next_);
  const vec3 from = see.me.position, to = route_.bends[next_ + std::size_t{1}];
  see.arc = arc_from(see, from, leg);
  crossing_ = Crossing::begun;
  see.tell({.event = Event::crosses,
            .value = to.z - from.z,
            .other = flat_distance(from, to),
            .where = from,
            .errand = verb(leg.kind, to.z - from.z)});
  return {.arc = &see.arc};
}

Intent Way::go_on(const View& see, float radius, float speed, float end_speed, float seconds) {
  if (route_.bends.empty()) return {};
  if (crossing_ == Crossing::reached) return cross(see);
  // In a throng not all go round the corner itself, but abreast.
  if (see.time >= next_gate_look_) {
    next_gate_look_ = see.time + look_every;
    gate_ = gate_before(see);
  }
  const vec2 now = flat(see.me.position);
  vec2 aim = bend_;
  if (gate_ != vec2(0.f)) aim = nearest_on(bend_, bend_ + gate_, now) + 2.f * bend_radius * through_gate();
  const vec2 target = aim - now;
  const float left = glm::length(target);
  if (waits_ && last_ && left <= radius) return {};
  const float edge = last_ ? radius : bend_reach_;
  const Approach approach = last_ && end_speed <= 0.f
                                ? arrive(see.me, see.gait, target, left, edge, speed, seconds)
                                : pass_through(see.me, see.gait, target, left, edge, speed,
                                               last_ ? end_speed : bend_speed_, seconds);
  return {.velocity = approach.velocity, .edge_centre = aim, .edge_radius = edge, .lasts = approach.lasts};
}

float Way::left(vec3 position) const { return metres_left(route_, next_, position); }

Progress Way::progress(vec3 position) const {
  if (route_.bends.empty()) return {};
  const float all = length(), gone = std::clamp(all - left(position), 0.f, all);
  return {.metres = gone, .of_metres = all, .fraction = all > 0.f ? gone / all : 1.f};
}

vec2 Way::end_direction() const {
  const std::size_t count = route_.bends.size();
  return count < 2 ? vec2(0.f) : direction(flat(route_.bends[count - 1] - route_.bends[count - 2]));
}

}  // namespace ambulon
