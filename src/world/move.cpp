// Carrying out what an NPC is to do: along the ground, over crossings, on decks, or as advice to the game.

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/geometry.hpp"
#include "ground/slide.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr float moving = 0.02f;       // metres per second
constexpr float room_horizon = 1.5f;  // seconds of its way over which one looks for edges of the ground
constexpr float look_again = 0.1f;    // part of that, gone since one has looked
constexpr float on_shore = 0.05f;     // metres from the ground that count as on it
constexpr float fine = 1e-3f;         // part of a tick's way that rounding of positions may be
constexpr float gangway = 0.25f;      // metres between a deck and a floor that are simply stepped over

/// `at + way`, rounded up or down so that over many ticks nothing is lost. `dither`: evenly from -0.5 to 0.5.
float added(float at, float way, double dither) {
  if (way == 0.f) return at;
  const float size = std::abs(at);
  const double step = std::nextafter(size, std::numeric_limits<float>::infinity()) - size;
  return static_cast<float>(static_cast<double>(at) + static_cast<double>(way) + dither * step);
}

/// Multiples of the golden ratio, from -0.499 to 0.499: they are spread more evenly than random numbers.
double dither(std::uint64_t number) {
  const double turns = 0.6180339887 * static_cast<double>(number);
  return 0.998 * (turns - std::floor(turns) - 0.5);
}

/// As `advance`, far from the origin: there a tick's way is only a few times as long as neighbouring
/// positions are apart, and by rounding alike in each tick an NPC would go too fast, too slowly, or not at
/// all.
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

/// Carries out the NPC's intent, for as much of the tick as it lasts. Touches nobody else, so that all can be
/// at it at once.
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
  const Gait& gait = mover.like->gait;
  const float size = std::max(std::abs(from.x), std::abs(from.y)) * std::numeric_limits<float>::epsilon();
  const bool far = size > fine * gait.speed * mover.left;
  const float used = far ? advance_far(mover.motion, gait, mover.intent, mover.left, dither(ticks_ + slot))
                         : advance(mover.motion, gait, mover.intent, mover.left);
  // An NPC that steers freely is held to the ground; so is one that swings wide at a bend where there are
  // corners.
  const bool on_way = mover.intent.edge_radius >= 0.f && convex_ && !avoid_;
  if (mover.aboard)
    keep_on_deck(mover, from);
  else if (!on_way && !mover.intent.direct)
    keep_on_ground(slot, from);
  stride(mover, from, faced, used);
  mover.left -= used;
  mover.intent.lasts -= used;
}

/// Goes on along an arc, to its end if there is time for that. Whatever becomes of the order, nobody stays in
/// the air.
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
  mover.motion.velocity = std::min(glm::length(arc.velocity()), mover.like->gait.speed) * ahead;
  if (ahead != vec2(0.f)) mover.motion.facing = turned(faced, ahead, mover.like->gait.turn_rate * used);
  mover.was = flat(mover.motion.position);
  mover.room = {};  // it may land on another floor
  stride(mover, from, faced, used);
  if (mover.crossing && arc.stance != Stance::walking) mover.motion.stance = arc.stance;
  mover.left -= used;
}

/// Works out what the game's body should do, on a copy of its motion.
void World::Impl::advise(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  Advised& body = of(advised_, slot);
  if (mover.crossing) {  // to where it should be at the end of the tick
    Flight& flight = of(flights_, slot);
    flight.gone += mover.left;
    mover.crossing = flight.gone < flight.arc.seconds;
    body.velocity = flight.arc.velocity();
    body.advice.velocity = (flight.arc.at(flight.gone) - mover.motion.position) / mover.left;
    mover.left = 0.f;
    return;
  }
  Motion ghost = seen_motion(slot);
  const float used = advance(ghost, mover.like->gait, mover.intent, mover.left);
  mover.motion.facing = ghost.facing;
  // Advice holds for the whole tick; where the way ends earlier, it is spread over it.
  const vec3 way = ghost.position - mover.motion.position;
  body.velocity = ghost.velocity;
  body.advice = {.velocity = way / std::max(used, mover.left), .facing = ghost.facing};
  mover.left = 0.f;
}

/// Where the ground ended on the way just gone, goes along its edge instead.
void World::Impl::keep_on_ground(std::uint32_t slot, vec3 from) {
  Mover& mover = movers_[slot];
  const vec2 way = flat(mover.motion.position - from);
  if (way == vec2(0.f)) return;
  if (has_room(slot, from, glm::length(way)) && mover.room.level) return;
  const Snap start = find_spot(mover, from, 0.01f);
  if (!start) return;  // it stands on something else
  const Stretch stretch = slide(*ground_, start.spot, way);
  if (stretch.free) {  // where the ground is uneven, it goes up and down with it
    mover.motion.position.z += stretch.end.position.z - start.spot.position.z;
    return;
  }
  vec2& velocity = mover.motion.velocity;
  mover.motion.position = stretch.end.position;
  velocity -= std::min(0.f, glm::dot(velocity, stretch.inward)) * stretch.inward;
}

/// From a deck one steps off only where there is a floor at its height: nobody walks on air from a lift that
/// is between two floors, or from a raft over the canal. The floor, unlike the ground, goes on for a body's
/// radius beyond where its middle can stand.
void World::Impl::keep_on_deck(Mover& mover, vec3 from) {
  const vec3 to = mover.motion.position;
  if (flat(to) == flat(from) || mover.intent.direct || decks_.hold(to) || !decks_.hold(from)) return;
  const Body& body = mover.like->body;
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

/// The deck on which somebody stood is gone: down to the ground, or up.
void World::Impl::put_ashore(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  mover.aboard = false;
  if (mover.drive != Drive::own) return;  // its body is the game's to move
  const Snap ashore =
      ground_->snap(mover.motion.position, std::numeric_limits<float>::infinity(), mover.like->body);
  if (!ashore.found) return;
  if (ashore.off > on_shore) ++mover.jumps;
  mover.motion.position = ashore.spot.position;
  mover.was = flat(ashore.spot.position);
  mover.room = {};
}

/// True when the ground has no edge within a distance (metres) of where the NPC is. Looks for it wide
/// around, so that it need not be looked for again before it has gone some way.
bool World::Impl::has_room(std::uint32_t slot, vec3 at, float metres) {
  Mover& mover = movers_[slot];
  Mover::Room& room = mover.room;
  const float gone = glm::distance(at, room.at), looked_for = room_horizon * mover.like->gait.speed;
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

/// The spot at a place where the NPC is, which mostly lies on the same piece of the ground as the one before.
Snap World::Impl::find_spot(Mover& mover, vec3 at, float reach) const {
  Mover::Room& room = mover.room;
  const Snap here =
      room.found ? ground_->snap_near({.piece = room.piece, .layer = room.layer}, at, reach, mover.like->body)
                 : ground_->snap(at, reach, mover.like->body);
  room.found = here.within;
  room.piece = here.spot.piece;
  room.layer = here.spot.layer;
  return here;
}

/// Takes along whoever stands on a deck that has moved.
void World::Impl::carry() {
  if (decks_.empty()) return;
  decks_.carry(
      surroundings_, [this](NpcId id) -> const Motion& { return movers_[id.slot].motion; },
      [this](NpcId who, const Decks::Ride& ride) {
        Mover& mover = movers_[who.slot];
        if (mover.drive != Drive::own) return;  // its body is the game's to move
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

/// Counts what was walked and keeps feet and stance in step with it.
void World::Impl::stride(Mover& mover, vec3 from, vec2 faced, float seconds) {
  const float metres = glm::length(mover.motion.position - from);
  const float speed = mover.motion.speed();
  if (metres > std::min(moving, 0.5f * mover.like->gait.speed) * seconds) {
    mover.metres += metres;
    mover.moving_seconds += seconds;
    mover.top_speed = std::max(mover.top_speed, speed);
  }
  take_stance(mover.motion, mover.like->gait, run_speed(mover.like->body), metres, speed,
              mover.motion.facing != faced);
}

}  // namespace ambulon
