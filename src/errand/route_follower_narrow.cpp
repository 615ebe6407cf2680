// `RouteFollower` before a narrow place to which NPCs come from both sides.

#include <algorithm>
#include <cmath>

#include "base/geometry.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {
namespace {

constexpr float look_ahead = 8.f;         // metres along the route within which narrow places count
constexpr float forget_beyond = 3.f;      // metres further than that
constexpr std::uint8_t search_every = 4;  // checks of NPCs in the way
constexpr float gather = 4.f;             // metres from a narrow place within which oncoming NPCs count
constexpr float against = 0.3f;           // minus the cosine between two courses: more counts as oncoming
constexpr float going = 0.4f;             // metres per second: faster ones are on their way through
constexpr float elbow_room = 1.15f;       // times the diameter: width that a body takes
constexpr float few_bodies = 4.f, many_bodies = 5.5f;  // abreast
constexpr float pair = 2.f;                            // bodies abreast that can pass each other
constexpr int few = 3;               // oncoming NPCs: fewer pass where two bodies can pass each other
constexpr float doorway = 2.f;       // metres: longer places have lanes if two bodies can pass each other
constexpr double turn_seconds = 40;  // in which one side passes
constexpr float patience = 60.f;     // seconds of waiting after which an NPC goes anyway
constexpr float line = 0.4f;         // metres between the entry and a body that waits
constexpr float committed = 0.5f;    // metres before the entry at which a body goes on
constexpr float cleared = 1.2f;      // metres before the entry to which a body backs off
constexpr float beside = 0.3f;       // metres between the way out and bodies that wait
constexpr float near_enough = 3.f;   // metres from the first place in the queue
constexpr float close_up = 0.5f;     // metres between bodies in the queue
constexpr float undecided = 0.3f;    // metres from the middle of the way: it waits on its own side
constexpr float before_lane = 0.7f;  // metres before the entry at which NPCs change to their own side
constexpr float lane_ahead = 1.5f;   // metres
constexpr float asked_again = 0.1f;  // seconds
// The side whose turn it is alternates. Directions at multiples of 45 degrees are far from the limit between
// both.
const vec2 first_side(0.9238795f, 0.3826834f);

/// Returns true if the place has room for both directions at once.
bool has_lanes(const NarrowPlace& place, float radius) {
  const float abreast = place.width / (2.f * elbow_room * radius);
  return abreast > few_bodies || (abreast > pair && place.length() > doorway);
}

/// Returns true if the place is behind an NPC at `here` (metres), or far off.
bool is_past(const NarrowPlace& place, vec3 here) {
  const float along = place.along(here), furthest = look_ahead + forget_beyond;
  return along > place.length() + committed || -along > furthest || std::abs(place.left(here)) > furthest;
}

}  // namespace

/// Keeps the next narrow place up to date, and decides what to do before it.
void RouteFollower::look_for_narrow_place(const View& see) {
  if (route_.next() == 0 || crossing_ != Crossing::none) return;
  if (jam_ && jam_->entrance && is_past(jam_->entrance->place, see.me.position)) leave_narrow_place(see);
  if (!jam_ || !jam_->entrance) find_narrow_place(see);
  if (!jam_ || !jam_->entrance) return;
  const auto now = static_cast<float>(see.time);
  Entrance& entrance = *jam_->entrance;
  entrance.conduct = entrance.impatient ? Conduct::goes : conduct_before(see, entrance);
  if (entrance.conduct != Conduct::waits) {
    entrance.waits_since = now;
    return;
  }
  entrance.impatient = now - entrance.waits_since > patience;
  entrance.in_queue = queues_behind_others(see, entrance);
  if (entrance.gave_way >= 0.f) return;
  entrance.gave_way = now;
  see.tell({.event = Event::gives_way, .value = entrance.place.width, .where = see.me.position});
}

/// Searches for a narrow place ahead, if others come or hold the NPC up.
void RouteFollower::find_narrow_place(const View& see) {
  if (unsearched_ > 0) --unsearched_;
  if (unsearched_ > 0 || (!see.oncoming && !held_up(see))) return;
  unsearched_ = search_every;
  const auto place = narrow_place_ahead(see.ground, see.body, see.me.position, bends_ahead().subspan(1),
                                        look_ahead, 2.f * many_bodies * elbow_room * see.body.radius);
  const float side = see.keeps_left ? 1.f : -1.f;
  if (place && has_room_beside(see, *place, side))
    jam(see).entrance.make(see.memory, Entrance{.place = *place,
                                                .waits_since = static_cast<float>(see.time),
                                                .both_sides = has_room_beside(see, *place, -side)});
}

void RouteFollower::leave_narrow_place(const View& see) {
  const auto now = static_cast<float>(see.time);
  if (const float since = jam_->entrance->gave_way; since >= 0.f)
    see.tell({.event = Event::goes_on, .value = now - since, .where = see.me.position});
  jam_->entrance.reset();
  unsearched_ = search_every;
}

/// Returns true if a body can wait beside the entry without blocking it. `side`: 1: on the left, -1: right.
bool RouteFollower::has_room_beside(const View& see, const NarrowPlace& place, float side) {
  const vec2 left(-place.through.y, place.through.x);
  const float radius = see.body.radius;
  const Spot spot = see.spot_at(place.entry - lift((radius + line) * place.through));
  return see.ground.straight(spot, side * (0.5f * place.width + 3.f * radius + beside) * left).free;
}

/// Returns what the NPC does before a narrow place:
///
/// 1. If no NPCs come from the other side, it goes. If there is room for two and fewer than three come, it
///    goes as well, and avoidance does the rest.
/// 2. Where there is room for both directions, each keeps to its own side.
/// 3. Elsewhere the sides take turns. A side begins when the last one of the other side is out. All NPCs know
///    whose turn it is from the direction and the clock.
RouteFollower::Conduct RouteFollower::conduct_before(const View& see, const Entrance& entrance) {
  const NarrowPlace& place = entrance.place;
  const vec3 here = see.me.position;
  const float along = place.along(here), half = 0.5f * place.width, radius = see.body.radius;
  const float length = place.length();
  const bool lanes = has_lanes(place, radius), waited = entrance.conduct == Conduct::waits;
  const bool goes_on = !waited && along > -radius - committed && std::abs(place.left(here)) < half;
  if (!lanes && (along > 0.f || goes_on)) return Conduct::goes;
  int oncoming = 0;
  bool taken = false;  // by one that is on its way through
  const vec3 middle = 0.5f * (place.entry + place.exit);
  for (const Neighbour& other : see.near(middle, gather + 0.5f * length)) {
    const auto its = see.others.find(other.id);
    if (!its || glm::dot(its->course, place.through) > -against) continue;
    const float at = place.along(its->position), reach = radius + committed;
    oncoming += at > 0.5f * length ? 1 : 0;
    const bool inside = at > -reach && at < length + reach && std::abs(place.left(its->position)) < half;
    taken = taken || (inside && (at < line || glm::dot(its->velocity, place.through) < -going));
  }
  const bool pass = oncoming < (place.width > 2.f * pair * elbow_room * radius ? few : 1);
  if (lanes) return pass ? Conduct::goes : Conduct::keeps_lane;
  if (pass && !(waited && taken)) return Conduct::goes;
  const bool first = glm::dot(flat(place.exit - place.entry) + place.through, first_side) > 0.f;
  const bool own_turn = first == (std::fmod(see.time, 2 * turn_seconds) < turn_seconds);
  return own_turn && !taken ? Conduct::goes : Conduct::waits;
}

bool RouteFollower::has_lanes_ahead(const View& see) const {
  return jam_ && jam_->entrance && has_lanes(jam_->entrance->place, see.body.radius);
}

/// Returns true if another one stands close before an NPC that waits, on its way to the entry.
bool RouteFollower::queues_behind_others(const View& see, const Entrance& entrance) {
  const vec2 way = direction(flat(entrance.place.entry - see.me.position));
  const auto near = see.near(see.me.position, see.body.radius + close_up);
  return std::ranges::any_of(near, [&](const Neighbour& other) {
    return glm::length(other.velocity) < going &&
           glm::dot(other.offset, way) > 0.5f * glm::length(other.offset);
  });
}

/// Returns the intent of an NPC that keeps its lane or waits.
Intent RouteFollower::at_narrow_place(const View& see, float speed) const {
  const NarrowPlace& place = jam_->entrance->place;
  const float side = see.keeps_left ? 1.f : -1.f, radius = see.body.radius, half = 0.5f * place.width;
  const vec3 here = see.me.position;
  const vec2 outwards = side * vec2(-place.through.y, place.through.x);
  // In metres, from the middle of the entry: along the way, and outwards on its own side.
  const float along = place.along(here), out = glm::dot(flat(here - place.entry), outwards);
  Intent intent{.course = place.through, .lasts = asked_again};
  if (jam_->entrance->conduct == Conduct::keeps_lane) {
    const float lane = std::clamp(out, 1.1f * radius, std::max(1.1f * radius, half - 1.1f * radius));
    vec2 to(0.f, lane);
    if (along > -line)
      to.x = std::min(along + lane_ahead, place.length() + committed);
    else if (out < radius)  // it crosses to its own side where it meets no one
      to = {-before_lane - 0.6f * (radius - out), 0.5f * half};
    intent.queue = std::max(0.f, -along);
    intent.velocity = speed * direction(to.x * place.through + to.y * outwards - flat(here - place.entry));
    return intent;
  }
  // It leaves the way out free, and stands in the queue beside it.
  const float clear = half + radius + beside;
  const float to_side = jam_->entrance->both_sides && out < -undecided ? -1.f : 1.f;
  const bool in_way = to_side * out < clear;
  const float onwards = in_way ? std::min(0.f, -radius - cleared - along) : -radius - line - along;
  const vec2 way = onwards * place.through + (to_side * clear - out) * outwards;
  const float metres = glm::length(way);
  if (in_way || (metres > near_enough && !jam_->entrance->in_queue))
    intent.velocity = std::min(speed, 2.f * metres) * direction(way);
  intent.facing = place.through;
  return intent;
}

}  // namespace ambulon
