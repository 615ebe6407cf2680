#include "world/locomotion.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "ground/slide.hpp"

namespace ambulon {
namespace {

constexpr float moving = 0.02f;          // metres per second
constexpr float room_horizon = 1.5f;     // seconds of motion for which free space is searched
constexpr float look_again = 0.1f;       // fraction of that after which it is searched again
constexpr float on_shore = 0.05f;        // metres from the ground that count as on it
constexpr float fine = 1e-3f;            // fraction of a tick's displacement that rounding may be
constexpr float few_steps = 8.f;         // of a float, in a tick: less is rounded like far from the origin
constexpr float gangway = 0.25f;         // metres between a deck and a floor that are stepped over
constexpr float longest_push = 60.f;     // seconds
constexpr float turns_above = 0.1f;      // metres per second above which a reported body faces its velocity
constexpr float height_window = 0.5f;    // metres over which heights are smoothed: up to two treads
constexpr float gradient_window = 0.5f;  // metres
constexpr float settling_speed = 0.1f;   // metres per second added, so that an NPC that stands settles

/// Returns `at + way`, rounded randomly up or down so that the error averages out over many ticks. `dither`:
/// uniform in -0.5 to 0.5.
float added(float at, float way, double dither) {
  if (way == 0.f) return at;
  const float size = std::abs(at);
  const double step = std::nextafter(size, std::numeric_limits<float>::infinity()) - size;
  return static_cast<float>(static_cast<double>(at) + static_cast<double>(way) + dither * step);
}

/// A low-discrepancy sequence in -0.499 to 0.499: multiples of the golden ratio.
double dither(std::uint64_t number) {
  const double turns = 0.6180339887 * static_cast<double>(number);
  return 0.998 * (turns - std::floor(turns) - 0.5);
}

/// As `advance`, for positions far from the origin, and for very slow NPCs. A tick's displacement is then
/// only a few float steps, and equal rounding in each tick would make the NPC too fast, too slow, or stand.
float advance_far(Motion& motion, const Gait& gait, Intent intent, float seconds, double dither) {
  const vec3 from = motion.position;
  motion.position = {0.f, 0.f, from.z};
  intent.edge_centre -= flat(from);
  const float used = advance(motion, gait, intent, seconds);
  motion.position.x = added(from.x, motion.position.x, dither);
  motion.position.y = added(from.y, motion.position.y, dither);
  return used;
}

/// Returns 1 - exp(-x) for x >= 0, the same bits on every machine: a rational approximation, within 1 %.
float part_after(float x) {
  const float quarter = 0.25f * std::min(x, 8.f), square = quarter * quarter / 12.f;
  const float left = (1.f - 0.5f * quarter + square) / (1.f + 0.5f * quarter + square);
  return 1.f - left * left * left * left;
}

/// Returns the part of its speed that a gait keeps on a slope.
float part_of_speed(const Gait& gait, float gradient) {
  const float at_45 = gradient > 0.f ? gait.uphill : gait.downhill;
  return 1.f - (1.f - at_45) * std::min(1.f, std::abs(gradient));
}

/// Returns the intent with `part` of its speed.
Intent slowed(Intent intent, float part) {
  intent.velocity *= part;
  return intent;
}

}  // namespace

void Locomotion::carry_out(std::uint32_t slot) {
  if (state_.npcs[slot].drive == Drive::reported)
    state_.npcs[slot].left = 0.f;
  else if (state_.npcs[slot].drive == Drive::advised)
    advise(slot);
  else if (state_.npcs[slot].crossing)
    cross(slot);
  else
    walk(slot);
}

void Locomotion::walk(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  const Motion was = mover.motion;
  const vec3 from = was.position, shown_from = mover.shown_position();
  const Gait& gait = mover.traits->gait;
  const bool slope = mover.gradient != 0.f && !mover.intent.direct;
  const Intent on_slope = slope ? slowed(mover.intent, part_of_speed(gait, mover.gradient)) : Intent();
  const Intent& intent = slope ? on_slope : mover.intent;
  const float size = std::max(std::abs(from.x), std::abs(from.y)) * std::numeric_limits<float>::epsilon();
  const float furthest = std::max(std::abs(intent.velocity.x), std::abs(intent.velocity.y)) * mover.left;
  const bool far = size > fine * gait.speed * mover.left || (furthest > 0.f && furthest < few_steps * size);
  const float used =
      far ? advance_far(mover.motion, gait, intent, mover.left, dither(state_.clock.ticks + slot))
          : advance(mover.motion, gait, intent, mover.left);
  // NPCs that steer freely are kept on the ground, and NPCs that swing out at a bend near corners.
  const bool on_way = mover.intent.edge_radius >= 0.f && state_.convex && !state_.avoids;
  const bool kept = !on_way && (!mover.intent.direct || mover.pushed);
  if (mover.aboard) keep_on_deck(mover, from);
  const float ahead = kept && !mover.aboard ? keep_on_ground(slot, from) : mover.motion.position.z;
  const float before = kept && !mover.aboard ? from.z : ahead;  // otherwise the order chose the height
  const float here = mover.motion.position.z;
  if (mover.off_ground != 0.f || mover.gradient != 0.f || ahead != here || here != before)
    smooth_height(mover, {from.x, from.y, before}, ahead, used);
  const float metres = count_steps(mover, was, shown_from, mover.intent, used);
  mover.intent.stop -= metres;
  mover.stairs.see(mover.motion, gait, metres, here - before);
  mover.left -= used;
  mover.intent.lasts -= used;
}

/// Advances along an arc, to its end if the tick is long enough. An arc is always completed, even if the
/// order ends.
void Locomotion::cross(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  Flight& flight = value_of(flights_, slot);
  const Arc& arc = flight.arc;
  const Motion was = mover.motion;
  const vec3 from = was.position, shown_from = mover.shown_position();
  const vec2 ahead = direction(arc.velocity());
  const float used = std::min(mover.left, arc.seconds - flight.gone);
  flight.gone += used;
  mover.crossing = flight.gone < arc.seconds;
  mover.motion.position = arc.at(flight.gone);
  mover.motion.velocity = std::min(glm::length(arc.velocity()), mover.traits->gait.speed) * ahead;
  if (ahead != vec2(0.f))
    mover.motion.facing = turned(was.facing, ahead, mover.traits->gait.turn_rate * used);
  mover.was = flat(mover.motion.position);
  mover.room = {};  // it may land on another floor
  smooth_height(mover, {from.x, from.y, mover.motion.position.z}, mover.motion.position.z, used);
  mover.stairs = {};
  count_steps(mover, was, shown_from, {.velocity = mover.motion.velocity}, used);
  if (mover.crossing && arc.stance != Stance::walking) {
    mover.motion.stance = arc.stance;
    mover.motion.turn = mover.motion.stop = 0.f;
  }
  mover.left -= used;
}

/// Computes the advice for a game-driven body, on a copy of its motion.
void Locomotion::advise(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  Advised& body = value_of(advised_, slot);
  if (mover.crossing) {  // towards its place at the end of the tick
    Flight& flight = value_of(flights_, slot);
    flight.gone += mover.left;
    mover.crossing = flight.gone < flight.arc.seconds;
    body.velocity = flight.arc.velocity();
    body.advice.velocity = (flight.arc.at(flight.gone) - mover.motion.position) / mover.left;
    mover.left = 0.f;
    return;
  }
  Motion ghost = seen_motion(slot);
  const float used = advance(ghost, mover.traits->gait, mover.intent, mover.left);
  mover.motion.facing = ghost.facing;
  // Advice holds for a whole tick: a movement that ends earlier is spread over it.
  const vec3 way = ghost.position - mover.motion.position;
  body.velocity = ghost.velocity;
  body.advice = {.velocity = way / std::max(used, mover.left), .facing = ghost.facing};
  mover.left = 0.f;
}

/// Slides along the edge if the step left the ground. Returns the height of the ground ahead.
float Locomotion::keep_on_ground(std::uint32_t slot, vec3 from) {
  Mover& mover = state_.npcs[slot];
  vec3& at = mover.motion.position;
  const vec2 way = flat(at - from);
  if (way == vec2(0.f)) return at.z;
  if (has_room(slot, from, glm::length(way)) && mover.room.level) return at.z;
  const Snap start = find_spot(mover, from, 0.01f);
  if (!start) return at.z;  // it stands on something else
  const Stretch stretch = slide(state_.ground, start.spot, way);
  if (stretch.free) {  // on uneven ground the height follows
    at.z += stretch.end.position.z - start.spot.position.z;
  } else {
    vec2& velocity = mover.motion.velocity;
    at = stretch.end.position;
    velocity -= std::min(0.f, glm::dot(velocity, stretch.inward)) * stretch.inward;
  }
  if (mover.room.level && at.z == from.z) return at.z;
  const Stretch ahead = state_.ground.straight(stretch.end, height_window * direction(way));
  return at.z + ahead.end.position.z - stretch.end.position.z;
}

/// Moves the smooth line over steps on. It tends to the mean of the ground here and `height_window` ahead,
/// over half of that distance, so that it does not lag on an even slope and passes no floor at its end. It
/// depends on the metres walked, not on the ticks.
void Locomotion::smooth_height(Mover& mover, vec3 from, float height_ahead, float seconds) {
  const float here = mover.motion.position.z;
  const float metres = std::max(glm::length(flat(mover.motion.position - from)), settling_speed * seconds);
  const float before = from.z + mover.off_ground, in_mid_step = 0.5f * (from.z + here);
  const float height = in_mid_step + 0.5f * (height_ahead - here);
  const float risen = part_after(metres / (0.5f * height_window)) * (height - before);
  mover.off_ground = before + risen - here;
  if (metres > 0.f)
    mover.gradient += part_after(metres / gradient_window) * (risen / metres - mover.gradient);
  if (height_ahead == here && here == from.z && std::abs(mover.off_ground) < 1e-4f)
    mover.off_ground = mover.gradient = 0.f;
}

/// An NPC leaves a deck only where a floor is at its height, so it never steps into the air from a lift or
/// into the canal from a raft. A floor extends a body's radius beyond the ground.
void Locomotion::keep_on_deck(Mover& mover, vec3 from) {
  const vec3 to = mover.motion.position;
  if (flat(to) == flat(from) || (mover.intent.direct && !mover.pushed) || state_.decks.hold(to) ||
      !state_.decks.hold(from))
    return;
  const Body& body = mover.traits->body;
  const float across = body.radius + gangway, up = body.step_up + on_shore;
  const Snap ashore = state_.ground.snap(to, across + up, body);
  const vec3 off = ashore.spot.position - to;
  if (ashore && glm::length(flat(off)) <= across && std::abs(off.z) <= up) {
    mover.motion.position.z += off.z;
    return;
  }
  mover.motion.position = from;
  mover.motion.velocity = vec2(0.f);
}

/// The deck that it stood on was removed: moves it to the nearest spot of the ground.
void Locomotion::leave_removed_deck(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  mover.aboard = false;
  if (mover.drive != Drive::own) return;  // the game moves it
  const Snap ashore =
      state_.ground.snap(mover.motion.position, std::numeric_limits<float>::infinity(), mover.traits->body);
  if (!ashore.found) return;
  if (ashore.off > on_shore) ++mover.jumps;
  mover.motion.position = ashore.spot.position;
  mover.was = flat(ashore.spot.position);
  mover.room = {};
}

bool Locomotion::has_room(std::uint32_t slot, vec3 at, float metres) {
  Mover& mover = state_.npcs[slot];
  Mover::Room& room = mover.room;
  const float gone = glm::distance(at, room.at), looked_for = room_horizon * mover.traits->gait.speed;
  if (room.metres >= 0.f && gone + metres <= room.metres) return true;
  if (room.metres >= 0.f && gone < look_again * looked_for) return false;
  room.at = at;
  room.metres = 0.f;
  room.level = false;
  const Snap here = find_spot(mover, at, 0.01f);
  if (!here) return false;
  const Clearance clearance = state_.ground.clearance(here.spot, looked_for);
  room.metres = std::max(0.f, clearance.metres - here.off - 0.001f);  // for rounding
  room.level = clearance.level;
  return metres <= room.metres;
}

Snap Locomotion::find_spot(Mover& mover, vec3 at, float reach) const {
  Mover::Room& room = mover.room;
  const Snap here = room.found ? state_.ground.snap_near({.piece = room.piece, .layer = room.layer}, at,
                                                         reach, mover.traits->body)
                               : state_.ground.snap(at, reach, mover.traits->body);
  room.found = here.within;
  room.piece = here.spot.piece;
  room.layer = here.spot.layer;
  return here;
}

void Locomotion::carry() {
  if (state_.decks.empty()) return;
  state_.decks.carry(
      state_.surroundings, [this](NpcId id) -> const Motion& { return state_.npcs[id.slot].motion; },
      [this](NpcId who, const Decks::Ride& ride) {
        Mover& mover = state_.npcs[who.slot];
        if (mover.drive != Drive::own) return;  // the game moves it
        mover.motion.position = ride.moved(mover.motion.position);
        mover.motion.facing = ride.turned(mover.motion.facing);
        mover.was = flat(ride.moved(lift(mover.was)));
      },
      [this](NpcId who, NpcId deck, bool on) {
        if (!state_.npcs.knows(who)) return;
        state_.npcs[who.slot].aboard = on;
        detail_.wake_later(who.slot);
        state_.take({.event = on ? Event::boarded : Event::left_deck,
                     .who = who,
                     .whom = deck,
                     .time = state_.clock.time});
      });
}

/// Updates distance, stride phase and stance. Returns the metres walked.
float Locomotion::count_steps(Mover& mover, const Motion& was, vec3 shown_from, const Intent& intent,
                              float seconds) {
  const float metres = glm::length(mover.shown_position() - shown_from);
  const float speed = mover.motion.speed();
  if (metres > std::min(moving, 0.5f * mover.traits->gait.speed) * seconds) {
    mover.metres += metres;
    mover.moving_seconds += seconds;
    mover.top_speed = std::max(mover.top_speed, speed);
  }
  const Gait& gait = mover.traits->gait;
  take_stance(mover.motion, was, gait, intent, mover.stairs.footing(mover.motion, gait),
              run_speed(mover.traits->body), metres);
  return metres;
}

void Locomotion::add(std::uint32_t slot) {
  if (state_.npcs[slot].drive != Drive::own) advised_[slot] = {};
}

void Locomotion::remove(NpcId id) {
  advised_.erase(id.slot);
  pushes_.erase(id.slot);
  for (const NpcId rider : state_.decks.riders(id))
    if (state_.npcs.knows(rider)) leave_removed_deck(rider.slot);
  state_.decks.remove(id);
}

/// Takes the report of a body, and judges it. Returns its displacement in metres.
vec2 Locomotion::take_report(std::uint32_t slot, Advised& body, vec2 advised) {
  Mover& mover = state_.npcs[slot];
  const Motion was = mover.motion;
  if (body.has_report) mover.motion.position = body.reported;
  const vec2 gone = flat(mover.motion.position - was.position);
  const bool advises = mover.drive == Drive::advised;
  mover.motion.velocity = flat(body.report.velocity.value_or(lift(gone / state_.clock.last_seconds)));
  if (body.report.heading)
    mover.motion.facing = unit(*body.report.heading);
  else if (!advises && mover.motion.speed() > turns_above)
    mover.motion.facing = direction(mover.motion.velocity);
  body.report = {};
  mover.off_ground = mover.gradient = 0.f;
  count_steps(mover, was, was.position, {.velocity = mover.motion.velocity}, state_.clock.last_seconds);
  const bool reported = std::exchange(body.has_report, false);
  if (!advises) return gone;
  if (auto note = body.watch.see(advised, gone, reported, state_.clock.last_seconds)) {
    note->who = {slot, mover.generation};
    note->where = mover.motion.position;
    note->time = state_.clock.time;
    state_.take(*note);
  }
  if (body.watch.held_for() > 0.f) state_.npcs.state(slot).held_seconds += state_.clock.last_seconds;
  return gone;
}

void Locomotion::report(std::uint32_t slot, vec3 position, const ReportOptions& options) {
  Advised& body = value_of(advised_, slot);
  body.reported = position;
  body.report = options;
  body.has_report = true;
}

Motion Locomotion::seen_motion(std::uint32_t slot) const {
  Motion motion = state_.npcs[slot].motion;
  if (state_.npcs[slot].drive == Drive::advised) motion.velocity = value_of(advised_, slot).velocity;
  return motion;
}

Expected<vec3> Locomotion::teleport(std::uint32_t slot, vec3 to) {
  Mover& mover = state_.npcs[slot];
  const bool anywhere = mover.drive == Drive::reported && finite(to);
  auto spot = anywhere ? to : state_.spot_for(to, mover.traits->body);
  if (!spot) return spot;
  mover.motion.position = *spot;
  mover.motion.velocity = vec2(0.f);
  mover.was = flat(*spot);
  mover.displaced = false;
  mover.off_ground = mover.gradient = 0.f;
  mover.intent = {};
  mover.crossing = false;
  mover.room = {};
  ++mover.jumps;
  if (jumped_at_.size() <= slot) jumped_at_.resize(state_.npcs.slots());
  jumped_at_[slot] = static_cast<std::uint32_t>(state_.clock.ticks) + (state_.clock.ticking ? 1U : 0U);
  end_push(slot);
  state_.mark_fresh(slot);
  if (mover.drive != Drive::own) {
    Advised& advised = value_of(advised_, slot);
    advised.reported = *spot;
    advised.velocity = vec2(0.f);
    advised.watch = {};
  }
  state_.take({.event = Event::teleported,
               .who = {slot, mover.generation},
               .where = *spot,
               .time = state_.clock.now()});
  return spot;
}

Expected<void> Locomotion::push(std::uint32_t slot, vec2 velocity, float seconds) {
  Mover& mover = state_.npcs[slot];
  if (!finite(lift(velocity)) || glm::length(velocity) > allowed::speeds.max)
    return problem(fmt::format("the push is ({:g}, {:g}) m/s; its length must lie between 0 and {:g}",
                               velocity.x, velocity.y, allowed::speeds.max));
  if (!(seconds > 0.f && seconds <= longest_push))
    return problem(
        fmt::format("the push lasts {:g} s; it must be above 0 and at most {:g}", seconds, longest_push));
  if (mover.drive != Drive::own) return problem("the game moves this body; push it there");
  if (mover.crossing) return problem("the NPC is on a crossing; push it when it has landed");
  pushes_[slot] = {velocity, state_.moment(slot) + static_cast<double>(seconds)};
  mover.pushed = true;
  state_.mark_fresh(slot);
  state_.take({.event = Event::knocked_back,
               .who = {slot, mover.generation},
               .value = glm::length(velocity),
               .other = seconds,
               .where = mover.motion.position,
               .time = state_.clock.now()});
  return {};
}

void Locomotion::carry_push(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  const Push& push = value_of(pushes_, slot);
  const auto left = static_cast<float>(push.until - state_.moment(slot));
  if (left > no_time) {
    mover.intent = {.velocity = push.velocity, .facing = mover.motion.facing, .lasts = left, .direct = true};
    mover.was = flat(mover.motion.position);
    return;
  }
  end_push(slot);
  ++mover.jumps;
  mover.intent = {};
  mover.motion.velocity =
      std::min(1.f, mover.traits->gait.speed / std::max(mover.motion.speed(), 1e-6f)) * mover.motion.velocity;
}

Expected<void> Locomotion::may_set_drive(std::uint32_t slot, Drive drive) const {
  const Mover& mover = state_.npcs[slot];
  if (mover.crossing) return problem("the NPC is on a crossing; change its drive when it has landed");
  if (drive == Drive::reported || mover.traits->body.deck.x > 0.f) return {};
  const auto spot = state_.spot_for(mover.motion.position, mover.traits->body);
  return spot ? Expected<void>() : tl::unexpected(spot.error());
}

void Locomotion::set_drive(std::uint32_t slot, Drive drive) {
  Mover& mover = state_.npcs[slot];
  end_push(slot);
  mover.drive = drive;
  advised_.erase(slot);
  if (drive != Drive::own)
    advised_[slot].velocity = mover.motion.velocity, advised_[slot].reported = mover.motion.position;
  mover.intent = {};
  mover.room = {};
  ++mover.jumps;
  state_.mark_fresh(slot);
}

void Locomotion::end_push(std::uint32_t slot) {
  pushes_.erase(slot);
  state_.npcs[slot].pushed = false;
}

void Locomotion::set_body(std::uint32_t slot, const Body& body) {
  Mover& mover = state_.npcs[slot];
  const NpcId id{slot, mover.generation};
  const vec2 deck = mover.traits->body.deck;
  Traits traits = *mover.traits;
  traits.body = body;
  state_.set_traits(slot, traits);
  ++mover.jumps;
  mover.room = {};
  state_.mark_fresh(slot);
  if (deck != body.deck) {
    state_.decks.remove(id);
    if (body.deck.x > 0.f && body.deck.y > 0.f) state_.decks.add(id, body, mover.motion);
  }
  state_.take({.event = Event::new_body,
               .who = id,
               .value = body.radius,
               .other = body.height,
               .time = state_.moment(slot)});
}

Pose Locomotion::pose(std::uint32_t slot, float alpha) const {
  const Motion& now = state_.npcs[slot].motion;
  const vec3 at = state_.npcs[slot].shown_position();
  const auto before = state_.surroundings.seen(slot);
  const bool jumped = slot < jumped_at_.size() && jumped_at_[slot] >= state_.clock.ticks;
  const float part = jumped || !(alpha >= 0.f) ? 1.f : std::min(alpha, 1.f);
  return {
      .position = glm::mix(before.position, at, part),
      .facing = part < 1.f ? direction(glm::mix(before.facing, now.facing, part), now.facing) : now.facing,
      .stance = now.stance,
      .stride_phase = now.stride_phase,
      .stride = now.stride,
      .turn = now.turn,
      .stop = now.stop};
}

void Locomotion::start_crossing(std::uint32_t slot) {
  flights_[slot] = {.arc = arc_};
  state_.npcs[slot].crossing = true;
}

void Locomotion::forget_flights() {
  std::erase_if(flights_, [this](const auto& flight) { return !state_.npcs[flight.first].crossing; });
}

void Locomotion::end_tick_of_decks() {
  // A deck that stopped elsewhere allows other routes.
  state_.decks.end_tick([this](NpcId who) {
    if (state_.npcs.knows(who)) ++state_.npcs[who.slot].jumps;
  });
}

}  // namespace ambulon
