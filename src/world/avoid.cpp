// Keeping out of each other's way: what an order wants becomes the nearest to it that touches nobody.

#include <algorithm>
#include <array>

#include "ambulon/base/fetch.hpp"
#include "ambulon/world/world.hpp"

namespace ambulon {
namespace {

constexpr std::size_t most_avoided = 16;  // of those in sight, the nearest
constexpr float standing = 0.05f;         // metres per second
constexpr float margin = 1.15f;           // of the radius, since nobody can change its velocity at once
constexpr float wall_horizon = 0.5f;      // seconds
constexpr std::size_t soon = 4;           // NPCs that are called into the cache before their turn
constexpr float reach = 0.2f;             // metres: nobody goes further in a tick, of those who overlap

/// Those seen of whom heed is taken: the nearest. Told apart by rings of the same area, so that nothing is
/// sorted.
class Heeded {
 public:
  explicit Heeded(float sight) : rings_per_square_(static_cast<float>(rings) / (sight * sight)) {}

  /// `place`: among the surroundings; `square`: of its distance.
  void add(std::uint32_t place, float square) {
    if (count_ == seen_.size()) thin_out();
    seen_[count_++] = {place, square};
  }

  struct Seen {
    std::uint32_t place;
    float square;
  };
  std::span<const Seen> all() {
    if (count_ > most_avoided) thin_out();
    return std::span(seen_).first(count_);
  }

 private:
  static constexpr std::size_t rings = 32;

  std::size_t ring_of(const Seen& seen) const {
    return std::min(rings - 1, static_cast<std::size_t>(seen.square * rings_per_square_));
  }
  void thin_out() {
    std::array<std::uint32_t, rings> in_ring{};
    for (const Seen& seen : std::span(seen_).first(count_)) ++in_ring[ring_of(seen)];
    std::size_t last = 0, room = most_avoided;  // the ring of which only some are kept
    while (in_ring[last] <= room) room -= in_ring[last++];
    std::size_t kept = 0;
    for (std::size_t i = 0; i < count_; ++i) {
      const std::size_t ring = ring_of(seen_[i]);
      if (ring < last || (ring == last && room > 0)) {
        room -= ring == last ? 1U : 0U;
        seen_[kept++] = seen_[i];
      }
    }
    count_ = kept;
  }

  float rings_per_square_;
  std::array<Seen, 256> seen_;
  std::size_t count_ = 0;
};

/// The velocities that neighbours and edges leave.
class Permitted {
 public:
  void keep(const HalfPlane& plane) { planes_[count_++] = plane; }
  std::span<const HalfPlane> planes() const { return std::span(planes_).first(count_); }

 private:
  static constexpr std::size_t most_edges = 3;
  std::array<HalfPlane, most_avoided + most_edges> planes_;
  std::size_t count_ = 0;
};

/// How much of what must be done about both the one of `rank` does, of it and another one.
float share_of(int rank, const Surroundings::Passer& other) {
  if (other.rank == Surroundings::yields_to_nobody || glm::length(other.velocity) < standing) return 1.f;
  if (rank != other.rank) return rank < other.rank ? 1.f : 0.f;
  return 0.5f;
}

/// Nobody swerves into a wall: what is permitted comes no nearer to an edge of the ground ahead, or at its
/// sides, than to it in a while.
void keep_from_edges(const Ground& ground, const Motion& me, const Body& body, float speed, vec2 aim,
                     Permitted& permitted) {
  const Snap here = ground.snap(me.position, 0.05f, body);
  if (!here) return;
  const vec2 ahead = direction(aim), left(-ahead.y, ahead.x);
  for (const vec2 look : {ahead, left, -left}) {
    const Stretch stretch = ground.straight(here.spot, wall_horizon * speed * look);
    if (stretch.free) continue;
    const float off = stretch.metres * std::abs(glm::dot(look, stretch.inward));
    permitted.keep({-off / wall_horizon * stretch.inward, stretch.inward});
  }
}

/// True for who could be touched within `horizon` seconds if one went straight there at `speed`.
bool within_reach(vec2 offset, float square, const Surroundings::Passer& other, float radius, float horizon,
                  float speed) {
  const float distance = std::sqrt(square);
  const float closing = std::max(0.f, -glm::dot(offset, other.velocity));  // times the distance
  return (distance - margin * radius - other.radius - horizon * speed) * distance <= horizon * closing;
}

/// True where two bodies share a height, one of them `up` metres above the other.
bool level_with(float up, float height, float others) { return up < height && -up < others; }

}  // namespace

/// What others go by when they keep out of its way.
int World::rank_of(const Mover& mover) {
  const bool yields =
      mover.avoidance.takes_part && mover.drive == Drive::own && !mover.crossing && !mover.halted;
  return yields ? mover.avoidance.priority : Surroundings::yields_to_nobody;
}

void World::avoid() {
  if (!avoid_) return;
  const auto sorted = surroundings_.sorted();
  in_parts(sorted.size(), [&](std::size_t i) {
    if (i + soon < sorted.size()) {
      fetch<sizeof(Mover)>(&movers_[sorted[i + soon].name]);
      fetch<sizeof(Body)>(&cards_[sorted[i + soon].name].body);
    }
    avoid(sorted[i].name);
  });
}

void World::avoid(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  const Avoidance& how = mover.avoidance;
  const vec2 wanted = mover.intent.velocity;
  const float speed = glm::length(wanted);
  if (!avoid_ || !mover.alive || !how.takes_part || mover.drive != Drive::own || mover.crossing ||
      mover.intent.direct || speed < standing)
    return;

  const Body& body = cards_[slot].body;
  const vec3 here = mover.motion.position;
  const float fastest = std::max(speed, mover.gait.speed);
  const auto sorted = surroundings_.sorted();
  const auto passers = surroundings_.passers();
  Heeded heeded(how.sight);
  surroundings_.each_near(flat(here), how.sight, [&](std::uint32_t place, vec2 offset) {
    const Surroundings::Passer& other = passers[place];
    if (sorted[place].name == slot || !level_with(other.z - here.z, body.height, other.height) ||
        other.tags.meet(body.passes))
      return;
    const float square = glm::dot(offset, offset);
    if (within_reach(offset, square, other, body.radius, how.horizon, fastest)) heeded.add(place, square);
  });

  Permitted permitted;
  bool met = false;  // somebody is before it who does not go its way
  for (const Heeded::Seen& seen : heeded.all()) {
    const Surroundings::Passer& other = passers[seen.place];
    const float share = share_of(how.priority, other);
    if (share == 0.f) continue;  // it is let by
    const vec2 offset = sorted[seen.place].at - flat(here);
    met = met || (glm::dot(offset, wanted) > 0.f && glm::dot(other.velocity, wanted) < 0.9f * speed * speed);
    permitted.keep(keep_clear_of({.offset = offset, .velocity = other.velocity, .radius = other.radius},
                                 mover.motion.velocity, margin * body.radius, how.horizon, share));
  }
  if (permitted.planes().empty()) return;
  const vec2 right = unit(-how.side);
  const vec2 aim =
      met ? vec2(right.x * wanted.x - right.y * wanted.y, right.y * wanted.x + right.x * wanted.y) : wanted;
  if (!convex_) keep_from_edges(*ground_, mover.motion, body, mover.gait.speed, aim, permitted);
  mover.intent.velocity = nearest_permitted(permitted.planes(), aim, fastest);
}

/// Where bodies overlap all the same, since nobody can change its velocity at once, they step apart, each by
/// half; from where all are now, so that the order does not matter.
void World::part() {
  if (!avoid_) return;
  const auto sorted = surroundings_.sorted();
  apart_.assign(movers_.size(), vec2(0.f));
  in_parts(sorted.size(), [&](std::size_t i) {
    const std::uint32_t slot = sorted[i].name;
    if (i + soon < sorted.size()) fetch<sizeof(Mover)>(&movers_[sorted[i + soon].name]);
    if (gives_way(slot)) apart_[slot] = step_apart(static_cast<std::uint32_t>(i));
  });
  in_parts(sorted.size(), [&](std::size_t i) {
    const std::uint32_t slot = sorted[i].name;
    if (apart_[slot] == vec2(0.f)) return;
    vec3& at = movers_[slot].motion.position;
    const Snap here = ground_->snap(at, 0.05f, cards_[slot].body);
    if (here) at = ground_->straight(here.spot, apart_[slot]).end.position;
  });
}

/// True for who may be moved by others.
bool World::gives_way(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  return mover.alive && mover.drive == Drive::own && mover.avoidance.takes_part && !mover.crossing &&
         !mover.aboard && !mover.intent.direct;
}

vec2 World::step_apart(std::uint32_t place) const {
  const auto sorted = surroundings_.sorted();
  const auto passers = surroundings_.passers();
  const Surroundings::Passer& me = passers[place];
  const vec3 here = movers_[sorted[place].name].motion.position;
  vec2 step(0.f);
  surroundings_.each_near(flat(here), me.radius + reach, [&](std::uint32_t other, vec2) {
    if (other == place) return;
    const std::uint32_t slot = sorted[other].name;
    const vec3 there = movers_[slot].motion.position;
    const vec2 off = flat(here - there);
    const float overlap = me.radius + passers[other].radius - glm::length(off);
    if (overlap <= 0.f || !level_with(there.z - here.z, me.height, passers[other].height) ||
        !movers_[slot].alive || passers[other].tags.meet(cards_[sorted[place].name].body.passes))
      return;
    // From the very same place, each to another side.
    const vec2 way = direction(off, unit(static_cast<float>(sorted[place].name)));
    step += (gives_way(slot) ? 0.5f : 1.f) * overlap * way;
  });
  const float far = glm::length(step), most = 0.25f * me.radius;
  return far > most ? most / far * step : step;
}

}  // namespace ambulon
