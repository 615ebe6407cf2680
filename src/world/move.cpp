// Locomotion: carries out intents on the ground, over crossings and on decks, or turns them into advice.

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/geometry.hpp"
#include "ground/slide.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr float moving = 0.02f;       // metres per second
constexpr float room_horizon = 1.5f;  // seconds of motion for which free space is searched
constexpr float look_again = 0.1f;    // fraction of that after which it is searched again
constexpr float on_shore = 0.05f;     // metres from the ground that count as on it
constexpr float fine = 1e-3f;         // fraction of a tick's displacement that rounding may be
constexpr float gangway = 0.25f;      // metres between a deck and a floor that are stepped over

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

/// As `advance`, for positions far from the origin. There a tick's displacement is only a few float steps,
/// and equal rounding in each tick would make the NPC too fast, too slow, or stand.
float advance_far(Motion& motion, const Gait& gait, Intent intent, float seconds, double dither) {
  const vec3 from = motion.position;
  motion.position = {0.f, 0.f, from.z};
  intent.edge_centre -= flat(from);
  const float used = advance(motion, gait, intent, seconds);
  motion.position.x = added(from.x, motion.position.x, dither);
  motion.position.y = added(from.y, motion.position.y, dither);
  return used;
}

}  // namespace

/// Carries out the intent of an NPC for as long as it lasts within the tick. Changes only this NPC, so
/// several threads may call it.
void World::Impl::carry_out(std::uint32_t slot) {
  if (movers_[slot].drive == Drive::reported)
    movers_[slot].left = 0.f;
  else if (movers_[slot].drive == Drive::advised)
    advise(slot);
  else if (movers_[slot].crossing)
    cross(slot);
  else
    walk(slot);
  if (avoid_) note_distance(slot);
}

void World::Impl::walk(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  const vec3 from = mover.motion.position;
  const vec2 faced = mover.motion.facing;
  const Gait& gait = mover.traits->gait;
  const float size = std::max(std::abs(from.x), std::abs(from.y)) * std::numeric_limits<float>::epsilon();
  const bool far = size > fine * gait.speed * mover.left;
  const float used = far ? advance_far(mover.motion, gait, mover.intent, mover.left, dither(ticks_ + slot))
                         : advance(mover.motion, gait, mover.intent, mover.left);
  // NPCs that steer freely are kept on the ground, and NPCs that swing out at a bend near corners.
  const bool on_way = mover.intent.edge_radius >= 0.f && convex_ && !avoid_;
  if (mover.aboard)
    keep_on_deck(mover, from);
  else if (!on_way && (!mover.intent.direct || mover.pushed))
    keep_on_ground(slot, from);
  count_steps(mover, from, faced, used);
  mover.left -= used;
  mover.intent.lasts -= used;
}

/// Advances along an arc, to its end if the tick is long enough. An arc is always completed, even if the
/// order ends.
void World::Impl::cross(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  Flight& flight = of(flights_, slot);
  const Arc& arc = flight.arc;
  const vec3 from = mover.motion.position;
  const vec2 faced = mover.motion.facing, ahead = direction(arc.velocity());
  const float used = std::min(mover.left, arc.seconds - flight.gone);
  flight.gone += used;
  mover.crossing = flight.gone < arc.seconds;
  mover.motion.position = arc.at(flight.gone);
  mover.motion.velocity = std::min(glm::length(arc.velocity()), mover.traits->gait.speed) * ahead;
  if (ahead != vec2(0.f)) mover.motion.facing = turned(faced, ahead, mover.traits->gait.turn_rate * used);
  mover.was = flat(mover.motion.position);
  mover.room = {};  // it may land on another floor
  count_steps(mover, from, faced, used);
  if (mover.crossing && arc.stance != Stance::walking) mover.motion.stance = arc.stance;
  mover.left -= used;
}

/// Computes the advice for a game-driven body, on a copy of its motion.
void World::Impl::advise(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  Advised& body = of(advised_, slot);
  if (mover.crossing) {  // towards its place at the end of the tick
    Flight& flight = of(flights_, slot);
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

/// Slides along the edge if the step left the ground.
void World::Impl::keep_on_ground(std::uint32_t slot, vec3 from) {
  Mover& mover = movers_[slot];
  const vec2 way = flat(mover.motion.position - from);
  if (way == vec2(0.f)) return;
  if (has_room(slot, from, glm::length(way)) && mover.room.level) return;
  const Snap start = find_spot(mover, from, 0.01f);
  if (!start) return;  // it stands on something else
  const Stretch stretch = slide(*ground_, start.spot, way);
  if (stretch.free) {  // on uneven ground the height follows
    mover.motion.position.z += stretch.end.position.z - start.spot.position.z;
    return;
  }
  vec2& velocity = mover.motion.velocity;
  mover.motion.position = stretch.end.position;
  velocity -= std::min(0.f, glm::dot(velocity, stretch.inward)) * stretch.inward;
}

/// An NPC leaves a deck only where a floor is at its height, so it never steps into the air from a lift or
/// into the canal from a raft. A floor extends a body's radius beyond the ground.
void World::Impl::keep_on_deck(Mover& mover, vec3 from) {
  const vec3 to = mover.motion.position;
  if (flat(to) == flat(from) || (mover.intent.direct && !mover.pushed) || decks_.hold(to) ||
      !decks_.hold(from))
    return;
  const Body& body = mover.traits->body;
  const float across = body.radius + gangway, up = body.step_up + on_shore;
  const Snap ashore = ground_->snap(to, across + up, body);
  const vec3 off = ashore.spot.position - to;
  if (ashore && glm::length(flat(off)) <= across && std::abs(off.z) <= up) {
    mover.motion.position.z += off.z;
    return;
  }
  mover.motion.position = from;
  mover.motion.velocity = vec2(0.f);
}

/// The deck that it stood on was removed: moves it to the nearest spot of the ground.
void World::Impl::leave_removed_deck(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  mover.aboard = false;
  if (mover.drive != Drive::own) return;  // the game moves it
  const Snap ashore =
      ground_->snap(mover.motion.position, std::numeric_limits<float>::infinity(), mover.traits->body);
  if (!ashore.found) return;
  if (ashore.off > on_shore) ++mover.jumps;
  mover.motion.position = ashore.spot.position;
  mover.was = flat(ashore.spot.position);
  mover.room = {};
}

/// Returns true if the ground has no edge within `metres`. It searches a larger area, so that the result
/// holds for several ticks.
bool World::Impl::has_room(std::uint32_t slot, vec3 at, float metres) {
  Mover& mover = movers_[slot];
  Mover::Room& room = mover.room;
  const float gone = glm::distance(at, room.at), looked_for = room_horizon * mover.traits->gait.speed;
  if (room.metres >= 0.f && gone + metres <= room.metres) return true;
  if (room.metres >= 0.f && gone < look_again * looked_for) return false;
  room.at = at;
  room.metres = 0.f;
  room.level = false;
  const Snap here = find_spot(mover, at, 0.01f);
  if (!here) return false;
  const Clearance clearance = ground_->clearance(here.spot, looked_for);
  room.metres = std::max(0.f, clearance.metres - here.off - 0.001f);  // for rounding
  room.level = clearance.level;
  return metres <= room.metres;
}

/// Returns the spot at a place; fast if it is on the same piece of the ground as the last one.
Snap World::Impl::find_spot(Mover& mover, vec3 at, float reach) const {
  Mover::Room& room = mover.room;
  const Snap here = room.found ? ground_->snap_near({.piece = room.piece, .layer = room.layer}, at, reach,
                                                    mover.traits->body)
                               : ground_->snap(at, reach, mover.traits->body);
  room.found = here.within;
  room.piece = here.spot.piece;
  room.layer = here.spot.layer;
  return here;
}

/// Moves the riders of moving decks.
void World::Impl::carry() {
  if (decks_.empty()) return;
  decks_.carry(
      surroundings_, [this](NpcId id) -> const Motion& { return movers_[id.slot].motion; },
      [this](NpcId who, const Decks::Ride& ride) {
        Mover& mover = movers_[who.slot];
        if (mover.drive != Drive::own) return;  // the game moves it
        mover.motion.position = ride.moved(mover.motion.position);
        mover.motion.facing = ride.turned(mover.motion.facing);
        mover.was = flat(ride.moved(lift(mover.was)));
      },
      [this](NpcId who, NpcId deck, bool on) {
        if (!knows(who)) return;
        movers_[who.slot].aboard = on;
        waking_.push_back(who.slot);
        take({.event = on ? Event::boarded : Event::left_deck, .who = who, .whom = deck, .time = time_});
      });
}

/// Updates distance, stride phase and stance.
void World::Impl::count_steps(Mover& mover, vec3 from, vec2 faced, float seconds) {
  const float metres = glm::length(mover.motion.position - from);
  const float speed = mover.motion.speed();
  if (metres > std::min(moving, 0.5f * mover.traits->gait.speed) * seconds) {
    mover.metres += metres;
    mover.moving_seconds += seconds;
    mover.top_speed = std::max(mover.top_speed, speed);
  }
  take_stance(mover.motion, mover.traits->gait, run_speed(mover.traits->body), metres, speed,
              mover.motion.facing != faced);
}

}  // namespace ambulon
