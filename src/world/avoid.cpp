// Avoidance: replaces the preferred velocity of an order by the nearest one that is free of collisions.

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "base/geometry.hpp"
#include "base/in_parts.hpp"
#include "base/prefetch.hpp"
#include "crowd/encounters.hpp"
#include "crowd/neighbour_index.hpp"
#include "world/crowd.hpp"

namespace ambulon {
namespace {

constexpr float standing = 0.05f;  // metres per second: slower counts as standing
constexpr float held_up = 0.2f;    // metres per second: an NPC that wants to go on and is slower is held up
constexpr float margin = 1.15f;    // of the radius, since velocities do not change at once
constexpr float slow_margin = 1.03f;       // for slow NPCs beside others that stand or go the same way
constexpr float on_ground = 0.05f;         // metres: maximum distance from it
constexpr float wall_horizon = 0.5f;       // seconds
constexpr float min_horizon = 0.25f;       // of the horizon, for a standing NPC; at full speed all of it
constexpr float asking_distance = 0.3f;    // metres between bodies: standing NPCs make room for nearer ones
constexpr float beside_cosine = 0.2f;      // NPCs that stand beside the one that wants through make room, too
constexpr float elbow_room = 0.15f;        // metres between bodies after making room
constexpr float held_part = 0.1f;          // of the wanted speed: slower counts as held up
constexpr float step_aside = 0.3f;         // seconds that it takes
constexpr float back_within = 0.05f;       // metres from where it stood that count as there
constexpr float passing_distance = 1.f;    // metres within which others that go somewhere pass it
constexpr float makes_up_its_mind = 0.3f;  // seconds: time constant of the wish to make room
constexpr float polite = 1.5f;             // seconds of being held up before others make room
constexpr float jammed = 0.3f;             // metres per second: slower NPCs in a jam hardly turn,
constexpr float jammed_turn = radians(20.f);        // per second,
constexpr float jammed_part = 0.25f;                // and slower than this part of their speed
constexpr float settling = 0.06f;                   // seconds: time constant of the velocity of slow NPCs
constexpr float side_settling = 0.3f;               // seconds: of the direction of NPCs that go with others
constexpr float facing_settling = 0.25f;            // seconds: of the facing
constexpr float queue_from = 5.5f;                  // radii from a place within which a crowd presses on,
constexpr float queue_to = 27.f;                    // and within which it queues
constexpr float pace_in_queue = 0.5f;               // of the gait's speed, at most
constexpr float step_in_queue = 0.36f;              // of the gait's speed: slower ones stand
constexpr float aside_in_queue = 0.5f;              // part of steps to the side that are taken
constexpr double press_every = 8, press_for = 0.8;  // seconds
constexpr float small_turn = radians(15.f);         // larger ones settle faster
constexpr float walking = 0.3f;                     // of the speed: faster ones walk
constexpr std::size_t soon = 4;                     // NPCs whose data is prefetched
constexpr std::size_t few_at_a_time = 16;           // NPCs in a batch, since each takes long

/// The feasible velocities: a set of half-planes for neighbours and edges.
class Permitted {
 public:
  void keep(const HalfPlane& plane) { planes_[count_++] = plane; }
  /// `others`: all half-planes so far.
  void keep_clear(const Encounters& others, vec2 velocity, float horizon) {
    others.keep_clear(velocity, horizon, planes_);
    count_ = others.count();
  }
  /// True when only edges can be added.
  bool full() const { return count_ == Encounters::max; }
  std::span<const HalfPlane> planes() const { return std::span(planes_).first(count_); }

 private:
  static constexpr std::size_t max_edges = 3;
  std::array<HalfPlane, Encounters::max + max_edges> planes_;
  std::size_t count_ = 0;
};

/// Returns the speed as a part of the gait's, at most 1.
float pace_of(const Motion& me, const Gait& gait) { return std::min(1.f, me.speed() / gait.speed); }

/// Returns the time horizon, seconds. It shrinks with the speed: in a slow crowd, NPCs come closer and
/// squeeze through between standing ones.
float horizon_of(const Avoidance& how, float pace) { return how.horizon * std::max(min_horizon, pace); }

bool slower(vec2 velocity, float speed) { return glm::dot(velocity, velocity) < speed * speed; }
bool stands(vec2 velocity) { return slower(velocity, standing); }

/// Returns the share of the avoidance that an NPC takes over, 0 to 1. If the other is expected to change its
/// velocity, `other` is updated.
float share_of(const Motion& me, const Surroundings::AvoidanceState& mine, std::uint32_t slot,
               Neighbour& other, const Surroundings::AvoidanceState& its, std::uint32_t others_slot) {
  if (its.rank == Surroundings::never_yields || stands(its.wanted)) return 1.f;
  if (mine.rank != its.rank) return mine.rank < its.rank ? 1.f : 0.f;
  // Of two that go the same way, only the one behind avoids. Without branches, since the order is
  // unpredictable.
  const bool same_way = glm::dot(vec2(mine.course), vec2(its.course)) > 0.f;
  const bool before_me = glm::dot(other.offset, mine.wanted) > 0.f,
             behind_it = glm::dot(other.offset, its.wanted) > 0.f;
  const bool one_behind = same_way & (before_me == behind_it);
  // Of two that block each other, the one with the longer way left yields, as if the other went on.
  if (slower(me.velocity, held_up) && !one_behind && slower(other.velocity, held_up)) {
    const bool first = mine.to_go != its.to_go ? mine.to_go < its.to_go : slot < others_slot;
    if (!first) {
      other.velocity = its.wanted;
      return 1.f;
    }
  }
  constexpr std::array shares{0.5f, 0.5f, 0.f, 1.f};
  return shares[(one_behind ? 2U : 0U) + (before_me ? 1U : 0U)];
}

/// The directions of the NPCs in front of an NPC.
class Before {
 public:
  /// `heeded`: false for an NPC that does not count; `close`: true if the bodies nearly touch.
  void add(bool heeded, bool close, vec2 offset, vec2 wanted, vec2 its_wanted) {
    const float ahead = glm::dot(offset, wanted), alike = glm::dot(its_wanted, wanted);
    const float quarter = 0.25f * glm::dot(wanted, wanted);  // the cosine of 60 degrees is a half
    const bool before = heeded & (ahead > 0.f), goes = before & !stands(its_wanted);
    met_ |= before & (alike <= 0.f);
    const bool against = (alike < 0.f) & (alike * alike > quarter * glm::dot(its_wanted, its_wanted));
    blocked_ |= before & close & (ahead * ahead > quarter * glm::dot(offset, offset));
    towards_ += (goes & against) ? 1 : 0;
    onwards_ += (goes & !against) ? 1 : 0;
  }
  /// Returns true if there are some, and all go the same way.
  bool company() const { return onwards_ > 0 && !met_; }
  /// Returns true if one stands close before it, within 60 degrees of its way.
  bool blocked() const { return blocked_; }
  /// Returns true if several come towards the NPC.
  bool oncoming() const { return towards_ >= several; }
  /// Returns the factor by which to widen the turn to the side. It is 0 if all go the same way. It is larger
  /// if the NPC is slow and some come towards it: otherwise opposite streams would not form lanes.
  float turn(float pace) const {
    if (towards_ == 0) return met_ ? 1.f : 0.f;
    const float part = static_cast<float>(towards_) / static_cast<float>(towards_ + onwards_);
    return 1.f + max_more * std::min(1.f, few * part) * (1.f - pace);
  }

 private:
  static constexpr int several = 3;
  static constexpr float max_more = 2.5f;  // maximum factor
  static constexpr float few = 4.f;        // number of oncoming NPCs per ignored other one
  bool met_ = false;                       // an NPC goes another way
  bool blocked_ = false;
  int towards_ = 0, onwards_ = 0;  // oncoming NPCs, and other moving ones
};

/// Returns true if `other` is held up and close, and this NPC stands in its way.
bool wants_through(const Neighbour& other, const Surroundings::AvoidanceState& its, float radius) {
  const float distance = glm::length(other.offset);
  return its.held > polite && !stands(its.wanted) &&
         glm::dot(other.offset, its.wanted) < beside_cosine * distance * glm::length(its.wanted) &&
         distance < radius + other.radius + asking_distance;
}

/// Returns the shortest displacement out of the lane of an NPC that goes `ahead`; `wide` is the sum of both
/// half-widths, `offset` the position in the lane. If there is no ground on the nearer side, the other one is
/// used.
vec2 out_of_way(const Ground& ground, const Motion& me, const Body& body, vec2 offset, vec2 ahead,
                float wide) {
  const vec2 left(-ahead.y, ahead.x);
  const float off = glm::dot(offset, left), clear = wide + elbow_room;
  if (std::abs(off) >= clear) return vec2(0.f);
  const vec2 nearer = (clear - std::abs(off)) * (off > 0.f ? left : -left);
  const Snap here = ground.snap(me.position, on_ground, body);
  if (!here || ground.straight(here.spot, nearer).free) return nearer;
  return (clear + std::abs(off)) * (off > 0.f ? -left : left);
}

/// Adds half-planes so that no feasible velocity reaches an edge of the ground within the wall horizon.
void keep_from_edges(const Ground& ground, const Snap& here, float speed, vec2 aim, Permitted& permitted) {
  if (!here) return;
  const vec2 ahead = direction(aim), left(-ahead.y, ahead.x);
  for (const vec2 look : {ahead, left, -left}) {
    const Stretch stretch = ground.straight(here.spot, wall_horizon * speed * look);
    if (stretch.free) continue;
    const float off = stretch.metres * std::abs(glm::dot(look, stretch.inward));
    permitted.keep({-off / wall_horizon * stretch.inward, stretch.inward});
  }
}

/// Low-pass filters a velocity. In a slow crowd it changes slowly, since otherwise NPCs tremble, each one
/// tick after the other. At walking speed braking is not delayed. In `company`, where all go the same way,
/// only changes of direction are.
vec2 settled(const Motion& me, vec2 chosen, float pace, bool company, float seconds) {
  if (company && pace > walking && seconds < side_settling) {
    const vec2 ahead = direction(me.velocity), left(-ahead.y, ahead.x);
    chosen = glm::dot(chosen, ahead) * ahead + seconds / side_settling * glm::dot(chosen, left) * left;
  }
  const float over = settling * (1.f - pace);
  return seconds < over ? me.velocity + seconds / over * (chosen - me.velocity) : chosen;
}

/// Sets the facing of an NPC whose velocity was changed by avoidance. In a jam the velocity changes direction
/// all the time: an NPC that hardly moves turns slowly to where it wants to go. The faster it goes, the
/// faster it turns and the more it faces its velocity. At walking speed the facing is low-pass filtered,
/// since small changes of the velocity do not turn a body.
void settle_facing(Intent& intent, const Motion& me, const Gait& gait, vec2 wanted, float seconds) {
  const float speed = glm::length(intent.velocity), slow = std::min(jammed, jammed_part * gait.speed);
  if (speed < 2.f * slow && !slower(wanted, 2.f * speed)) {
    const float part = std::max(0.f, speed / slow - 1.f);
    const vec2 look = speed > 0.f ? glm::mix(direction(wanted), intent.velocity / speed, part) : wanted;
    intent.facing = direction(look, me.facing);
    intent.turn_rate = jammed_turn + 0.5f * part * part * gait.turn_rate;
    return;
  }
  const vec2 way = intent.velocity / speed, off = way - me.facing;
  if (seconds >= facing_settling || stands(intent.velocity) || stands(me.velocity) ||
      glm::dot(way, me.facing) < 0.f)
    return;
  // For such angles the chord replaces the angle.
  const float chord = glm::length(off), part = seconds / facing_settling * (1.f + chord / small_turn);
  intent.facing =
      direction(me.facing + std::min(std::min(1.f, part), gait.turn_rate * seconds / chord) * off);
}

/// Returns the velocity of an NPC that is held up in a queue. It stands until there is room for a real step,
/// takes no step back, and hardly any to the side: these would not bring it forward.
vec2 queued(vec2 chosen, vec2 wanted, float speed) {
  const vec2 onward = direction(wanted), left(-onward.y, onward.x);
  const vec2 step =
      std::max(0.f, glm::dot(chosen, onward)) * onward + aside_in_queue * glm::dot(chosen, left) * left;
  return slower(step, step_in_queue * speed) ? vec2(0.f) : step;
}

/// In a queue each presses on from time to time, but not all at once. This frees those that block each other.
bool presses_on(std::uint32_t slot, double time) {
  return std::fmod(time + 0.37 * slot, press_every) < press_for;
}

/// The neighbours that can be reached within `horizon` seconds at `speed`.
struct Reach {
  vec2 from;  // metres
  float sight, radius, horizon, speed;
};

/// The nearest neighbours within reach, as many as the solver takes.
class Heeded {
 public:
  /// `sight`: metres.
  explicit Heeded(float sight) : rings_per_square_(static_cast<float>(rings) / (sight * sight)) {}

  struct Seen {
    std::uint32_t place;  // in the surroundings
    float square;         // squared distance
  };

  /// Tests the places of a run, several at a time and without unpredictable branches. Keeps those for which
  /// `heeds(Seen)` is true.
  template <class Heeds>
  void look(const Reach& reach, const Surroundings::Velocities& all, Surroundings::Run run, Heeds&& heeds) {
    while (run.from < run.to) {
      if (count_ + at_a_time > seen_.size()) {
        keep(heeds);
        if (count_ + at_a_time > seen_.size()) thin_out();
      }
      run = look(reach, all, run);
    }
  }
  template <class Heeds>
  std::span<const Seen> all(Heeds&& heeds) {
    keep(heeds);
    if (count_ > Encounters::max) thin_out();
    return std::span(seen_).first(count_);
  }

 private:
  static constexpr std::uint32_t at_a_time = 64, lanes = NeighbourIndex::lanes;
  static constexpr std::size_t rings = 32;

  /// Tests the first batch of a run. Returns the rest.
  Surroundings::Run look(const Reach& reach, const Surroundings::Velocities& all, Surroundings::Run run) {
    const std::uint32_t count = std::min(at_a_time, run.to - run.from);
    const std::uint32_t rounded = (count + lanes - 1) / lanes * lanes;
    std::array<float, at_a_time> squares;
    std::array<std::uint32_t, at_a_time> near;
    const float *x = run.x, *y = run.y, *velocity_x = &all.velocity_x[run.from],
                *velocity_y = &all.velocity_y[run.from], *radius = &all.radius[run.from];
    for (std::uint32_t i = 0; i < rounded; ++i) {
      const float over = x[i] - reach.from.x, up = y[i] - reach.from.y;
      const float square = over * over + up * up, distance = std::sqrt(square);
      const float sight = reach.sight + radius[i];
      const float coming = -(over * velocity_x[i] + up * velocity_y[i]);  // times the distance
      const float closing = coming > 0.f ? coming : 0.f;
      const float gap = distance - reach.radius - radius[i] - reach.horizon * reach.speed;
      squares[i] = square;
      near[i] = (square <= sight * sight ? 1U : 0U) & (gap * distance <= reach.horizon * closing ? 1U : 0U);
    }
    for (std::uint32_t i = 0; i < count; ++i) {
      seen_[count_] = {run.from + i, squares[i]};
      count_ += near[i];
    }
    return {run.x + count, run.y + count, run.from + count, run.to};
  }
  /// Keeps those of the untested ones for which `heeds` is true.
  template <class Heeds>
  void keep(Heeds&& heeds) {
    std::size_t kept = heeded_;
    for (std::size_t i = heeded_; i < count_; ++i) {
      const Seen seen = seen_[i];
      seen_[kept] = seen;
      kept += heeds(seen) ? 1U : 0U;
    }
    count_ = heeded_ = kept;
  }
  /// Keeps the nearest. A histogram over rings of equal area replaces sorting.
  void thin_out() {
    const auto ring_of = [this](const Seen& seen) {
      return std::min(rings - 1, static_cast<std::size_t>(seen.square * rings_per_square_));
    };
    std::array<std::uint32_t, rings> in_ring{};
    for (const Seen& seen : std::span(seen_).first(count_)) ++in_ring[ring_of(seen)];
    std::size_t last = 0, room = Encounters::max;  // the ring of which only some are kept
    while (in_ring[last] <= room) room -= in_ring[last++];
    std::size_t kept = 0;
    for (std::size_t i = 0; i < count_; ++i) {
      const std::size_t ring = ring_of(seen_[i]);
      if (ring < last || (ring == last && room > 0)) {
        room -= ring == last ? 1U : 0U;
        seen_[kept++] = seen_[i];
      }
    }
    count_ = heeded_ = kept;
  }

  float rings_per_square_;
  std::array<Seen, 256> seen_;
  std::size_t count_ = 0, heeded_ = 0;  // how many were tested
};

}  // namespace

void Crowd::avoid() {
  if (!state_.avoids) return;
  const auto one = [this](std::size_t i) {
    const std::uint32_t place = state_.surroundings.first_awake() + static_cast<std::uint32_t>(i);
    if (place + soon < state_.surroundings.neighbour_states().size())
      prefetch<sizeof(Mover)>(&state_.npcs[state_.surroundings.slot(place + soon)]);
    const std::uint32_t slot = state_.surroundings.slot(place);
    if (state_.npcs[slot].asked) avoid(slot, state_.surroundings.neighbour_states()[place].manner);
  };
  in_parts(state_.jobs, state_.surroundings.neighbour_states().size() - state_.surroundings.first_awake(),
           one, few_at_a_time);
}

void Crowd::avoid(std::uint32_t slot) {
  if (!state_.avoids) return;
  state_.surroundings.index();
  avoid(slot, state_.surroundings.neighbour_states()[state_.surroundings.place(slot)].manner);
}

/// `mine`: its state as others see it.
void Crowd::avoid(std::uint32_t slot, const Surroundings::AvoidanceState& mine) {
  const Mover& mover = state_.npcs[slot];
  if (!state_.avoids || !mover.alive || !mover.traits->avoidance.takes_part || mover.drive != Drive::own ||
      mover.crossing || mover.suspended || mover.intent.direct)
    return;
  if (stands(mover.intent.velocity))
    make_room(slot, mine);
  else
    keep_clear(slot, mine);
}

/// Calls `visit(place, offset)` for each NPC within `radius` metres that it cannot pass through.
template <class Visit>
void Crowd::each_in_way(std::uint32_t slot, float radius, Visit&& visit) const {
  const Body& body = state_.npcs[slot].traits->body;
  const vec3 here = state_.npcs[slot].motion.position;
  const auto neighbour_states = state_.surroundings.neighbour_states();
  state_.surroundings.each_near(
      flat(here), radius, [&](std::uint32_t place, vec2 offset, std::uint32_t others) {
        const Surroundings::NeighbourState& other = neighbour_states[place];
        if (others != slot && share_height(other.z - here.z, body.height, other.height) &&
            !state_.npcs.passes(body, others))
          visit(place, offset);
      });
}

bool Crowd::crowded(std::uint32_t slot) const {
  bool found = false;
  each_in_way(slot, margin * state_.npcs[slot].traits->body.radius + alone_within,
              [&](std::uint32_t, vec2) { found = true; });
  return found;
}

bool Crowd::near_edges(std::uint32_t slot) {
  const Mover& mover = state_.npcs[slot];
  return !state_.convex &&
         !locomotion_.has_room(slot, mover.motion.position, wall_horizon * mover.traits->gait.speed);
}

/// Replaces the preferred velocity by a feasible one.
void Crowd::keep_clear(std::uint32_t slot, const Surroundings::AvoidanceState& mine) {
  Mover& mover = state_.npcs[slot];
  const Motion& me = mover.motion;
  const Avoidance& how = mover.traits->avoidance;
  const Gait& gait = mover.traits->gait;
  const Body& body = mover.traits->body;
  const vec2 wanted = mover.intent.velocity;
  const float speed = glm::length(wanted), fastest = std::max(speed, gait.speed);
  const float pace = pace_of(me, gait), horizon = horizon_of(how, pace);
  const float radius = margin * body.radius, narrow = std::lerp(slow_margin, margin, pace) * body.radius;

  const auto neighbour_states = state_.surroundings.neighbour_states();
  const Surroundings::Velocities& velocities = state_.surroundings.velocities();
  // NPCs beyond this distance cannot be reached, at any speed.
  const float sight =
      std::min(how.sight, radius + horizon * (fastest + state_.surroundings.fastest()) + 0.001f);
  const Reach reach{flat(me.position), sight, radius, horizon, fastest};
  const std::uint32_t place = state_.surroundings.place(slot);
  // NPCs within this distance are visible.
  bool alone = std::min(sight - radius, horizon * fastest) >= alone_within;
  const auto heeds = [&](const Heeded::Seen& seen) {
    const Surroundings::NeighbourState& other = neighbour_states[seen.place];
    const bool another = seen.place != place;
    const float touching = radius + velocities.radius[seen.place] + alone_within;
    alone &= !another | (seen.square > touching * touching);
    return another & share_height(other.z - me.position.z, body.height, other.height) &&
           (body.passes.empty() || !state_.npcs.passes(body, state_.surroundings.slot(seen.place)));
  };
  Heeded heeded(how.sight);
  state_.surroundings.each_run_near(
      reach.from, sight, [&](Surroundings::Run run) { heeded.look(reach, velocities, run, heeds); });
  const auto all = heeded.all(heeds);
  mover.alone = alone;

  const vec2 my_course = mine.course;
  Encounters encounters;
  Before before;
  for (const Heeded::Seen& seen : all) {
    const Surroundings::AvoidanceState& its = neighbour_states[seen.place].manner;
    const vec2 velocity = velocities.velocity(seen.place);
    Neighbour neighbour{.offset = state_.surroundings.position(seen.place) - flat(me.position),
                        .velocity = velocity,
                        .radius = velocities.radius[seen.place]};
    const vec2 course = its.course;
    const float share = share_of(me, mine, slot, neighbour, its, state_.surroundings.slot(seen.place));
    const float touching = radius + neighbour.radius + alone_within;
    before.add(share > 0.f, seen.square < touching * touching, neighbour.offset, my_course, course);
    const bool close = (stands(its.wanted) && stands(velocity)) || glm::dot(my_course, course) > 0.f;
    encounters.add(neighbour.offset, neighbour.velocity, (close ? narrow : radius) + neighbour.radius, share);
  }
  mover.oncoming = before.oncoming();
  if (encounters.count() > 0)
    choose_velocity(slot, encounters, before.turn(pace), before.company(), before.blocked());
}

/// Sets the velocity nearest to the preferred one that keeps clear of others and edges. `turn`: factor of the
/// turn to the side. `company`: others go the same way, and no others come; `blocked`: one is close before
/// it.
void Crowd::choose_velocity(std::uint32_t slot, const Encounters& encounters, float turn, bool company,
                            bool blocked) {
  Mover& mover = state_.npcs[slot];
  const Motion& me = mover.motion;
  const Gait& gait = mover.traits->gait;
  const Avoidance& how = mover.traits->avoidance;
  const vec2 wanted = mover.intent.velocity;
  const float pace = pace_of(me, gait);
  Permitted permitted;
  permitted.keep_clear(encounters, me.velocity, horizon_of(how, pace));
  const vec2 aim = turn > 0.f ? rotated(wanted, -turn * how.side) : wanted;
  if (near_edges(slot))
    keep_from_edges(state_.ground, locomotion_.find_spot(mover, on_ground), gait.speed, aim, permitted);
  const float fastest = std::max(glm::length(wanted), gait.speed), seconds = orders_.until_asked(slot);
  vec2 chosen = nearest_permitted(permitted.planes(), aim, fastest);
  const float queue = mover.intent.queue / mover.traits->body.radius;
  if (company && blocked && pace < pace_in_queue && queue > queue_from && queue < queue_to &&
      !presses_on(slot, state_.clock.time))
    chosen = queued(chosen, wanted, gait.speed);
  mover.intent.velocity = settled(me, chosen, pace, company, seconds);
  if (mover.intent.facing == vec2(0.f)) settle_facing(mover.intent, me, gait, wanted, seconds);
}

/// A standing NPC steps aside for others that it holds up. NPCs in its way then make room in turn. `mine`:
/// its state as others see it, with its previous wish to step aside.
void Crowd::make_room(std::uint32_t slot, const Surroundings::AvoidanceState& mine) {
  Mover& mover = state_.npcs[slot];
  const Gait& gait = mover.traits->gait;
  const Avoidance& avoidance = mover.traits->avoidance;
  const Body& body = mover.traits->body;
  const float radius = body.radius, fast = 0.5f * gait.speed;
  const auto neighbour_states = state_.surroundings.neighbour_states();
  const Surroundings::Velocities& velocities = state_.surroundings.velocities();
  Permitted permitted;
  vec2 aside(0.f);  // metres
  each_in_way(slot, radius + asking_distance, [&](std::uint32_t place, vec2 offset) {
    if (permitted.full()) return;
    const Neighbour other{
        .offset = offset, .velocity = velocities.velocity(place), .radius = velocities.radius[place]};
    const Surroundings::AvoidanceState& its = neighbour_states[place].manner;
    permitted.keep(keep_clear_of(other, mover.motion.velocity, radius, min_horizon * avoidance.horizon, 1.f));
    if (wants_through(other, its, radius) && its.rank >= avoidance.priority)
      aside += out_of_way(state_.ground, mover.motion, body, -offset, direction(its.wanted),
                          radius + other.radius);
  });
  if (aside != vec2(0.f)) {
    const float far = glm::length(aside);
    // Filtered: if many make room for each other, each displacement depends on those of the others.
    const vec2 wish = std::min(fast, far / step_aside) / far * aside;
    mover.wanted = mine.wanted + std::min(1.f, mover.left / makes_up_its_mind) * (wish - mine.wanted);
    if (!mover.errand && !mover.displaced) mover.was = flat(mover.motion.position);
    mover.displaced = !mover.errand;
  }
  // On its way back it wants nothing that others should make room for.
  const vec2 velocity = aside != vec2(0.f) ? mover.wanted : way_back(slot);
  if (velocity == vec2(0.f)) return;
  if (near_edges(slot))
    keep_from_edges(state_.ground, locomotion_.find_spot(mover, on_ground), gait.speed, velocity, permitted);
  mover.intent.velocity =
      settled(mover.motion, nearest_permitted(permitted.planes(), velocity, fast), 0.f, false, mover.left);
  mover.intent.facing = mover.motion.facing;
}

/// Returns the velocity with which a displaced NPC returns to where it stood; zero while others pass. If
/// another NPC stands there now, it stays.
vec2 Crowd::way_back(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  if (!mover.displaced) return vec2(0.f);
  const vec2 way = mover.was - flat(mover.motion.position);
  const float metres = glm::length(way), radius = mover.traits->body.radius;
  bool taken = false, others_pass = false;
  each_in_way(slot, metres + radius + passing_distance, [&](std::uint32_t place, vec2 offset) {
    const float apart = radius + state_.surroundings.velocities().radius[place];
    const bool still = stands(state_.surroundings.neighbour_states()[place].manner.wanted);
    taken = taken || (still && glm::distance(offset, way) < apart);
    others_pass = others_pass || !still;
  });
  mover.displaced = !taken && (others_pass || metres > back_within);
  if (!mover.displaced || others_pass) return vec2(0.f);
  return std::min(0.5f * mover.traits->gait.speed / metres, 1.f / step_aside) * way;
}

bool Crowd::count_held(std::uint32_t slot) {
  if (!state_.avoids) return false;
  Mover& mover = state_.npcs[slot];
  const float seconds = state_.clock.seconds;
  const float square = glm::dot(mover.wanted, mover.wanted);
  const bool held = !stands(mover.wanted) && mover.drive == Drive::own && !mover.intent.direct &&
                    glm::dot(mover.motion.velocity, mover.wanted) < held_part * square;
  mover.held = std::max(0.f, mover.held + (held ? seconds : -seconds));
  if (held) state_.npcs.state(slot).held_seconds += seconds;
  return mover.held > polite || mover.told_held != (mover.held >= orders_.patience(slot));
}

void Crowd::report_jam(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  if (mover.held > polite) detail_.wake_in_the_way(slot, asking_distance);
  const bool tells = mover.held >= orders_.patience(slot);
  if (mover.told_held == tells) return;
  mover.told_held = tells;
  if (held_since_.size() < state_.npcs.slots()) held_since_.resize(state_.npcs.slots());
  const auto now = static_cast<float>(state_.moment(slot));
  if (tells) held_since_[slot] = now - mover.held;
  state_.take({.event = tells ? Event::held_up : Event::goes_on,
               .who = {slot, mover.generation},
               .whom = tells ? nearest_in_way(slot) : NpcId(),
               .value = now - held_since_[slot],
               .where = mover.motion.position,
               .time = state_.moment(slot)});
}

/// Returns the nearest NPC in its direction.
NpcId Crowd::nearest_in_way(std::uint32_t slot) const {
  NpcId nearest;
  float min = std::numeric_limits<float>::infinity();
  each_in_way(slot, state_.npcs[slot].traits->body.radius + asking_distance,
              [&](std::uint32_t place, vec2 offset) {
                const float square = glm::dot(offset, offset);
                if (square >= min || glm::dot(offset, state_.npcs[slot].wanted) < 0.f) return;
                min = square;
                const std::uint32_t other = state_.surroundings.slot(place);
                nearest = {other, state_.npcs[other].generation};
              });
  return nearest;
}

}  // namespace ambulon
