// `RouteFollower` among other NPCs: passes a bend through a gate instead of at the corner, ends beside NPCs
// that stand at the goal, and takes a detour around a jam if it is faster.

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

#include "base/geometry.hpp"
#include "errand/route_follower.hpp"
#include "ground/bottleneck.hpp"

namespace ambulon {
namespace {

constexpr float slow_part = 0.5f;     // of its speed: slower counts as held up
constexpr float aside = 3.f;          // metres from a gate within which it may be passed from the side
constexpr float gate_width = 3.f;     // metres, maximum
constexpr float heed_radius = 2.5f;   // metres within which oncoming NPCs count
constexpr float gate_sight = 8.f;     // metres from a bend within which its gate is used
constexpr float look_every = 0.25f;   // seconds
constexpr float standing = 0.05f;     // metres per second
constexpr float elbow_room = 0.15f;   // metres between bodies that stand in a crowd
constexpr float full = 0.65f;         // fraction of the area that bodies with elbow room cover
constexpr float middle = 3.f;         // metres from the end
constexpr double looks_for_room = 1;  // seconds of search for room
constexpr double waits_for_own = 4;   // seconds without getting nearer to its own place, which is free
constexpr float jam_sight = 12.f;     // metres along the route within which bottlenecks count
constexpr float narrow = 4.f;         // metres, for the centre of a body: wider places do not jam for long
// Capacity of a bottleneck in people per second and metre of its width: U. Weidmann,
// "Transporttechnik der Fussgaenger" (1993).
constexpr float flow = 1.225f;
constexpr float worth = 2.f;  // seconds that a detour must save

}  // namespace

/// Returns true if the NPC avoids others and is slow.
bool RouteFollower::held_up(const View& see) {
  return see.avoids && see.me.speed() <= slow_part * see.gait.speed;
}

/// Returns the gate at the next bend: along the bisector of both legs, from the bend outwards, as far as
/// there is ground. Zero if there is none.
vec2 RouteFollower::gate_before(const View& see) const {
  if (!see.avoids || route_.on_last_leg() || route_.next() == 0 || crossing_ != Crossing::none)
    return vec2(0.f);
  if (!held_up(see) || glm::distance(flat(see.me.position), corner()) > gate_sight) return vec2(0.f);
  const vec2 in = direction(corner() - flat(route_.bend_before())),
             out = direction(flat(route_.bend_after()) - corner());
  const vec2 outwards = direction(in - out);
  // If others come towards the gate, each side keeps to its right. Single NPCs that turn around in the crowd
  // do not count.
  int towards = 0, along = 0;
  for (const Neighbour& other : see.near(see.me.position, heed_radius)) {
    const auto its = see.others.find(other.id);
    if (!its) continue;
    const bool against = std::min(glm::dot(its->facing, in), glm::dot(its->facing, out)) < -0.5f;
    (against ? towards : along) += 1;
  }
  const bool own_turn = jam_ && jam_->entrance && !gives_way();
  if (4 * towards > along && !own_turn) return vec2(0.f);
  return see.ground.straight(see.spot_at(route_.next_bend()), gate_width * outwards).metres * outwards;
}

/// At intervals: decides about the gate at the next bend and about a detour.
void RouteFollower::watch_jam(const View& see) {
  next_jam_check_ = static_cast<float>(see.time) + look_every;
  look_for_narrow_place(see);
  look_for_gate(see);
  look_for_detour(see);
}

/// Decides again about the gate. The state of an NPC that is no longer held up is discarded.
void RouteFollower::look_for_gate(const View& see) {
  const vec2 gate = gate_before(see);
  if (gate != vec2(0.f))
    jam(see).gate = gate;
  else if (jam_ && jam_->stall.is_reset() && jam_->short_of <= 0.f && !jam_->entrance)
    jam_.reset();
  else if (jam_)
    jam_->gate = gate;
}

RouteFollower::Jam& RouteFollower::jam(const View& see) { return jam_ ? *jam_ : jam_.make(see.memory); }

/// Returns the direction through the gate.
vec2 RouteFollower::through_gate() const {
  const vec2 outwards = direction(gate()), onward(-outwards.y, outwards.x);
  return glm::dot(flat(route_.bend_after()) - corner(), onward) > 0.f ? onward : -onward;
}

/// Returns true if the NPC passed the gate and can go straight on. If it cannot, the route is outdated.
bool RouteFollower::passed_gate(const View& see) {
  if (gate() == vec2(0.f)) return false;
  const vec2 now = flat(see.me.position);
  if (glm::dot(now - corner(), through_gate()) <= 0.f ||
      glm::distance(now, nearest_on(corner(), corner() + gate(), now)) > aside)
    return false;
  const bool on = see.ground.sight(see.spot(), see.spot_at(route_.bend_after()));
  if (!on) jumps_ = ~see.jumps;
  return on;
}

/// Returns the metres between the walls at both sides of a body `here`, across `way`; infinite in the open.
float RouteFollower::lane_width(const View& see, const Spot& here, vec2 way) {
  const vec2 left = middle * direction(vec2(-way.y, way.x));
  const Stretch l = see.ground.straight(here, left), r = see.ground.straight(here, -left);
  return l.free || r.free ? std::numeric_limits<float>::infinity()
                          : l.metres + r.metres + 2.f * see.body.radius;
}

/// Returns true if NPCs that stand around the end leave no nearer room: the circle is full, or it is half
/// full and no room was found within a second.
bool RouteFollower::end_is_full(const View& see) {
  const vec2 way = bend_ - flat(see.me.position);
  const float left = glm::length(way);
  if (!held_up(see)) {
    if (jam_) jam_->stall.reset();
    return false;
  }
  const auto stands = [&](const Neighbour& other) { return glm::length(other.velocity) < standing; };
  const auto before_it = see.near(see.me.position, see.body.radius + elbow_room);
  if (std::ranges::none_of(before_it, [&](const Neighbour& other) {
        return stands(other) && glm::dot(other.offset, way) > 0.5f * glm::length(other.offset) * left;
      }))
    return false;
  Jam& here = jam(see);
  // Its own place is free: those before it make room.
  const double waits = here.stall.seconds(see.time, left);
  const auto on_end = see.near(route_.end(), see.body.radius);
  if (std::ranges::none_of(on_end, stands) && waits <= waits_for_own) return false;
  const bool gives_up = waits > looks_for_room;
  // If walls are near at the NPC and at the end, the circle is a strip.
  const float lane =
      std::max(lane_width(see, see.spot(), way), lane_width(see, see.spot_at(route_.end()), way)) / pi;
  const auto taken_up = [&](float radius) {  // the circle around the end
    float square = 0.f;                      // metres squared over pi that bodies cover
    const auto add_area = [&](float its) { square += (its + 0.5f * elbow_room) * (its + 0.5f * elbow_room); };
    add_area(see.body.radius);
    for (const Neighbour& other : see.near(route_.end(), radius))
      if (stands(other)) add_area(other.radius);
    return std::min(radius, lane) * radius * (gives_up ? 0.5f * full : full) <= square;
  };
  // The centre fills first: if it has room, no other NPC needs to be counted.
  if ((left > middle && !taken_up(middle)) || !taken_up(left)) return false;
  here.short_of = left;
  return true;
}

/// Returns the seconds until the NPCs within `radius` metres before a bottleneck have passed it.
float RouteFollower::seconds_through(const View& see, const Bottleneck& jam, float radius) {
  const vec2 along = jam.left - jam.right;
  int before_it = 0;
  for (const Neighbour& other : see.near(jam.middle.position, radius))
    if (ambulon::cross(along, other.offset) > 0.f) ++before_it;
  return static_cast<float>(before_it) / (flow * (glm::length(along) + 2.f * see.body.radius));
}

/// Requests a detour around a jam: after the NPC has been held up for its patience, then after twice that
/// time, and so on.
void RouteFollower::look_for_detour(const View& see) {
  if (asked_ || see.routes == nullptr || !held_up(see)) return;
  if (route_.next() == 0 || crossing_ != Crossing::none) return;
  const auto times = static_cast<std::uint32_t>(see.held / see.patience);
  const bool looks =
      std::has_single_bit(times) && see.held - static_cast<float>(times) * see.patience < look_every;
  if (!looks) return;
  const auto jam =
      bottleneck_ahead(see.ground, see.body, see.me.position, bends_ahead().subspan(1), jam_sight, narrow);
  if (!jam) return;
  // NPCs that are nearer to the bottleneck pass first.
  const float radius = flat_distance(see.me.position, jam->place.middle.position);
  const float spares = seconds_through(see, jam->place, radius) - jam->metres / see.gait.speed;
  if (spares < worth) return;
  asked_ = see.routes->ask({.from = see.spot(),
                            .to = see.spot_at(route_.end()),
                            .priority = see.route_priority,
                            .time = see.time,
                            .asker = see.who.slot,
                            .jam = jam->place,
                            .max = left(see.me.position) + spares * see.gait.speed});
}

/// Takes over a requested detour if it is found and still faster, counting the NPCs that wait on it.
/// Otherwise the route stays.
void RouteFollower::take_detour(const View& see) {
  if (crossing_ == Crossing::begun) return asked_.withdraw();  // the jam is behind it
  if (!asked_.ready()) return asked_.start_from(see.spot());
  const vec3 jam = asked_.wish()->jam->middle.position;
  const float max = asked_.wish()->max;
  Route route(see.memory);
  asked_.take(route);
  if (route.bends.empty()) return;
  const float further = max - left(see.me.position) + jam_sight;  // metres within which it turns off
  if (const auto next =
          bottleneck_ahead(see.ground, see.body, see.me.position, route.bends, further, narrow)) {
    const float wait = seconds_through(see, next->place, jam_sight) - next->metres / see.gait.speed;
    if (route.length_xy + std::max(0.f, wait) * see.gait.speed > max) return;
  }
  see.tell(
      {.event = Event::takes_detour, .value = route.length_xy, .other = left(see.me.position), .where = jam});
  opening_.seen = opening_.asked = 0;
  set_out(see, route);
  is_detour_ = true;
}

}  // namespace ambulon
