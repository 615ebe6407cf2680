// Keeping out of each other's way: what an order wants becomes the nearest to it that touches nobody.

#include <algorithm>

#include "ambulon/world/world.hpp"

namespace ambulon {
namespace {

constexpr std::size_t most_avoided = 16;  // of those in sight, the nearest
constexpr float standing = 0.05f;         // metres per second
constexpr float margin = 1.15f;           // of the radius, since nobody can change its velocity at once
constexpr float wall_horizon = 0.5f;      // seconds

}  // namespace

/// How much of what must be done about both the one in `slot` does, of it and another one.
float World::share_of(std::uint32_t slot, NpcId other) const {
  const Mover& its = movers_[other.slot];
  const bool stands = glm::length(surroundings_.at(other.slot).velocity) < standing;
  const Avoidance& mine = cards_[slot].avoidance;
  const Avoidance& others = cards_[other.slot].avoidance;
  if (!others.takes_part || stands || its.drive != Drive::own || its.crossing || its.halted) return 1.f;
  if (mine.priority != others.priority) return mine.priority < others.priority ? 1.f : 0.f;
  return 0.5f;
}

void World::avoid(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  const Card& card = cards_[slot];
  const Avoidance& how = card.avoidance;
  const vec2 wanted = mover.intent.velocity;
  const float speed = glm::length(wanted);
  if (!how.takes_part || mover.drive != Drive::own || mover.crossing || mover.intent.direct ||
      speed < standing)
    return;

  const vec3 here = mover.motion.position;
  near_.clear();
  for (const Neighbour& other :
       surroundings_.near(here, how.sight, {slot, mover.generation}, {}, card.body.passes)) {
    const float up = surroundings_.at(other.id.slot).position.z - here.z;
    if (up < card.body.height && -up < cards_[other.id.slot].body.height) near_.push_back(other);
  }
  const auto nearer = [](const Neighbour& a, const Neighbour& b) {
    const float to_a = glm::dot(a.offset, a.offset), to_b = glm::dot(b.offset, b.offset);
    return to_a != to_b ? to_a < to_b : a.id.slot < b.id.slot;
  };
  const std::size_t count = std::min(most_avoided, near_.size());
  std::ranges::partial_sort(near_, near_.begin() + static_cast<std::ptrdiff_t>(count), nearer);

  planes_.clear();
  bool met = false;  // somebody is before it who does not go its way
  for (const Neighbour& other : std::span(near_).first(count)) {
    const float share = share_of(slot, other.id);
    if (share == 0.f) continue;  // it is let by
    met = met ||
          (glm::dot(other.offset, wanted) > 0.f && glm::dot(other.velocity, wanted) < 0.9f * speed * speed);
    planes_.push_back(
        keep_clear_of(other, mover.motion.velocity, margin * card.body.radius, how.horizon, share));
  }
  if (planes_.empty()) return;
  const vec2 right = unit(-how.side);
  const vec2 aim =
      met ? vec2(right.x * wanted.x - right.y * wanted.y, right.y * wanted.x + right.x * wanted.y) : wanted;
  if (!ground_->convex()) keep_from_edges(slot, aim);
  mover.intent.velocity = nearest_permitted(planes_, aim, std::max(speed, mover.gait.speed));
}

/// Nobody swerves into a wall: what is permitted comes no nearer to an edge of the ground ahead, or at its
/// sides, than to it in a while.
void World::keep_from_edges(std::uint32_t slot, vec2 aim) {
  const Mover& mover = movers_[slot];
  const Snap here = ground_->snap(mover.motion.position, 0.05f, cards_[slot].body);
  if (!here) return;
  const vec2 ahead = direction(aim), left(-ahead.y, ahead.x);
  for (const vec2 look : {ahead, left, -left}) {
    const float far = wall_horizon * mover.gait.speed;
    const Stretch stretch = ground_->straight(here.spot, far * look);
    if (stretch.free) continue;
    const float off = stretch.metres * std::abs(glm::dot(look, stretch.inward));
    planes_.push_back({-off / wall_horizon * stretch.inward, stretch.inward});
  }
}

/// Where bodies overlap all the same, since nobody can change its velocity at once, they step apart, each by
/// half; from where all are now, so that the order does not matter.
void World::part() {
  apart_.assign(movers_.size(), vec2(0.f));
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot)
    if (gives_way(slot)) apart_[slot] = step_apart(slot);
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot) {
    if (apart_[slot] == vec2(0.f)) continue;
    vec3& at = movers_[slot].motion.position;
    const Snap here = ground_->snap(at, 0.05f, cards_[slot].body);
    if (here) at = ground_->straight(here.spot, apart_[slot]).end.position;
  }
}

/// True for who may be moved by others.
bool World::gives_way(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  return mover.alive && mover.drive == Drive::own && cards_[slot].avoidance.takes_part && !mover.crossing &&
         !mover.aboard && !mover.intent.direct;
}

vec2 World::step_apart(std::uint32_t slot) const {
  const Card& card = cards_[slot];
  const vec3 here = movers_[slot].motion.position;
  const float mine = card.body.radius;
  vec2 step(0.f);
  for (const Neighbour& other :
       surroundings_.near(here, mine + 0.2f, {slot, movers_[slot].generation}, {}, card.body.passes)) {
    const Card& its = cards_[other.id.slot];
    const vec3 there = movers_[other.id.slot].motion.position;
    if (there.z - here.z >= card.body.height || here.z - there.z >= its.body.height) continue;
    const vec2 off = flat(here - there);
    const float overlap = mine + its.body.radius - glm::length(off);
    if (overlap <= 0.f) continue;
    // From the very same place, each to another side.
    const vec2 way = direction(off, unit(static_cast<float>(slot)));
    step += (gives_way(other.id.slot) ? 0.5f : 1.f) * overlap * way;
  }
  const float far = glm::length(step), most = 0.25f * mine;
  return far > most ? most / far * step : step;
}

}  // namespace ambulon
