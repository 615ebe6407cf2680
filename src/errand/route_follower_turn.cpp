// How `RouteFollower` passes bends, and ends at which it does not stop: on arcs.

#include <algorithm>
#include <cmath>

#include "ambulon/motion/steering.hpp"

#include "base/geometry.hpp"
#include "base/trig.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {
namespace {

constexpr float beside = 0.5f;  // metres from the beginning of an arc within which it is begun beside it
constexpr float gentle_turn = 0.03f;   // radians, half the angle of a bend: gentler ones need no arc
constexpr float sharpest_turn = 1.5f;  // radians, half the angle: at sharper ones it turns on the spot
constexpr float inside = 0.95f;        // of the circle around its end: an arc there stays within that
constexpr float arc_part = 0.3f;       // radians of an arc in one step

}  // namespace

/// Returns how far an NPC swings out at a bend of that angle, metres.
float RouteFollower::max_swing(const Gait& gait, float angle) {
  return std::max(gait.bend_distance, gait.rounding * (1.f - cosine(0.5f * angle)));
}

/// Returns the arc of bend `i`, which has a leg before and after it. `room`: metres on the outer side.
RouteFollower::Turn RouteFollower::turn_at(const Gait& gait, std::uint32_t i, float room) const {
  const std::span bends = route_.bends();
  const vec2 before = flat(bends[i] - bends[i - 1]), after = flat(bends[i + 1] - bends[i]);
  const vec2 in = direction(before), out = direction(after), bend = flat(bends[i]);
  Turn turn{.centre = bend, .entry = bend, .radius = 0.f, .angle = angle_between(in, out)};
  const float half = 0.5f * std::abs(turn.angle);
  if (half < gentle_turn || half > sharpest_turn) return turn;
  const float change = std::min(gait.acceleration, gait.braking);
  // Beside a bend to the other side, half of the leg is left to change sides.
  const auto part = [&](vec2 leg, vec2 other, vec2 one) {
    return glm::length(leg) * (ambulon::cross(one, other) * turn.angle < 0.f ? 0.25f : 0.5f);
  };
  const float leg_before =
      i > 1 ? part(before, before, flat(bends[i - 1] - bends[i - 2])) : 0.5f * glm::length(before);
  const float leg_after = i + 2 < bends.size() ? part(after, flat(bends[i + 2] - bends[i + 1]), after)
                                               : 0.5f * glm::length(after);
  turn.radius = std::min({gait.speed * gait.speed / change,
                          std::min(room, max_swing(gait, turn.angle)) / (1.f - cosine(half)),
                          std::min(leg_before, leg_after) / tangent(half)});
  const vec2 middle = direction(in + out);
  turn.centre = bend + turn.side() * turn.radius * vec2(-middle.y, middle.x);
  turn.entry = turn.centre - turn.side() * turn.radius * vec2(-in.y, in.x);
  return turn;
}

/// Returns the angle in radians by which an NPC at `off` from the centre of an arc still has to turn to
/// `out`; at most 0 if it has turned. `side`: 1 to the left, -1 to the right.
float RouteFollower::angle_left(vec2 off, float side, vec2 out) {
  const vec2 outwards = direction(off);
  return side * angle_between(side * vec2(-outwards.y, outwards.x), out);
}

/// The same for the arc of the next bend.
float RouteFollower::angle_left(vec2 at) const {
  const vec2 in = corner() - flat(route_.bend_before()), out = flat(route_.bend_after()) - corner();
  return angle_left(at - bend_, ambulon::cross(in, out) > 0.f ? 1.f : -1.f, direction(out));
}

/// Returns the intent to go on along an arc, for a part of it. `off`: from its centre; `left`: radians.
Intent RouteFollower::along_arc(const View& see, vec2 off, float radius, float side, float left, float fast,
                                float seconds) {
  const float going = std::max(0.5f * (see.me.speed() + fast), 0.1f * see.gait.speed);
  const float part = std::min({left, arc_part, going * seconds / radius});
  const vec2 outwards = direction(off), along = side * vec2(-outwards.y, outwards.x);
  const float astray = std::clamp((glm::length(off) - radius) / radius, -0.5f, 0.5f);
  const vec2 way = direction(rotated(along, 0.5f * side * part) - astray * outwards);
  return {.velocity = fast * way, .lasts = std::max(part * radius / going, 1e-3f)};
}

/// Returns the intent to go on along the arc of the next bend.
Intent RouteFollower::turn(const View& see, float speed, float seconds) const {
  const vec2 now = flat(see.me.position);
  const vec2 in = corner() - flat(route_.bend_before()), out = flat(route_.bend_after()) - corner();
  const float side = ambulon::cross(in, out) > 0.f ? 1.f : -1.f;
  return along_arc(see, now - bend_, bend_reach_, side, angle_left(now), std::min(speed, bend_speed_),
                   seconds);
}

/// Returns true if the NPC is beside the place where the arc of the next bend begins: others pushed it, or it
/// comes from another arc.
bool RouteFollower::missed_entry(vec2 now) const {
  const vec2 off = now - bend_;
  if (glm::dot(off, off) > beside * beside || crossing_ != Crossing::none || route_.next() == 0) return false;
  const vec2 in = corner() - flat(route_.bend_before());
  return bend_ != corner() && glm::dot(off, in) >= 0.f;
}

/// The NPC is where the arc of the next bend begins. Returns false if that bend has none.
bool RouteFollower::begin_turn(const View& see) {
  if (route_.next() == 0 || gate() != vec2(0.f)) return false;
  const vec2 in = direction(corner() - flat(route_.bend_before()));
  const Turn turn = turn_at(see.gait, route_.next(), any_room);
  if (turn.radius <= 0.f) return false;
  // The arc that was planned, whose entry lies where the room on the outer side allowed.
  const float side = turn.side(), out = glm::dot(bend_ - corner(), -side * vec2(-in.y, in.x));
  const float radius = std::min(turn.radius, std::max(0.01f, out / (1.f - cosine(0.5f * turn.angle))));
  bend_ += side * radius * vec2(-in.y, in.x);
  bend_reach_ = radius;
  turns_ = true;
  return true;
}

/// Returns the arc at the end of the route, tangent to the last leg and to `onward`. Without an angle, or if
/// it would be a reversal, the radius is 0.
RouteFollower::Turn RouteFollower::turn_at_end(const Gait& gait, float radius, vec2 onward) const {
  const vec2 in = end_direction(), end = flat(route_.end());
  Turn turn{.centre = end, .entry = end, .radius = 0.f, .angle = angle_between(in, onward)};
  const float half = 0.5f * std::abs(turn.angle);
  if (in == vec2(0.f) || half < gentle_turn || half > sharpest_turn) return turn;
  const float change = std::min(gait.acceleration, gait.braking),
              leg = flat_distance(route_.bend_before(), route_.end());
  turn.radius =
      std::min(gait.speed * gait.speed / change, std::min(inside * radius, 0.5f * leg) / tangent(half));
  turn.entry = end - turn.radius * tangent(half) * in;
  turn.centre = turn.entry + turn.side() * turn.radius * vec2(-in.y, in.x);
  return turn;
}

float RouteFollower::passing_speed(const Gait& gait, float radius, float angle) {
  const float half = 0.5f * std::abs(angle), change = std::min(gait.acceleration, gait.braking);
  if (half < gentle_turn) return gait.speed;
  if (half > sharpest_turn) return slowest_part * gait.speed;
  return std::min(gait.speed, std::sqrt(change * inside * radius / tangent(half)));
}

Intent RouteFollower::pass_end(const View& see, float radius, float speed, vec2 onward, float seconds) {
  const float angle = angle_between(end_direction(), onward);
  const float passing = std::min(speed, passing_speed(see.gait, radius, angle));
  const bool last = route_.on_last_leg() && route_.next() > 0;
  const Turn turn = last ? turn_at_end(see.gait, radius, onward) : Turn();
  if (turn.radius <= 0.f) return go_on(see, radius, speed, passing, seconds);
  const float fast = std::min(speed, speed_on(see.gait, turn));
  const vec2 now = flat(see.me.position), to_entry = turn.entry - now;
  if (glm::dot(to_entry, end_direction()) > 1e-3f) {
    const Approach approach =
        pass_through(see.me, see.gait, to_entry, glm::length(to_entry), min_reach, speed, fast, seconds);
    return {.velocity = approach.velocity,
            .edge_centre = turn.entry,
            .edge_radius = min_reach,
            .lasts = approach.lasts};
  }
  const float left = angle_left(now - turn.centre, turn.side(), onward);
  // It was pushed aside and has turned without coming near the end.
  if (left <= turned_there) return go_on(see, radius, speed, fast, seconds);
  return along_arc(see, now - turn.centre, turn.radius, turn.side(), left, fast, seconds);
}

bool RouteFollower::passed_end(const View& see, float radius, vec2 onward) const {
  const Turn turn = turn_at_end(see.gait, radius, onward);
  if (turn.radius <= 0.f || see.me.speed() < slowest_part * see.gait.speed) return true;
  const vec2 off = flat(see.me.position) - turn.centre;
  return angle_left(off, turn.side(), onward) <= turned_there;
}

/// Returns the maximum speed on an arc: its acceleration to the side is within the gait's limits.
float RouteFollower::speed_on(const Gait& gait, const Turn& turn) {
  if (0.5f * std::abs(turn.angle) < gentle_turn) return gait.speed;
  return std::min(std::sqrt(std::min(gait.acceleration, gait.braking) * turn.radius),
                  gait.turn_rate * turn.radius);
}

}  // namespace ambulon
