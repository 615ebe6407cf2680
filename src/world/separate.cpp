// Separation: moves overlapping bodies apart.

#include <algorithm>
#include <atomic>

#include "base/geometry.hpp"
#include "base/in_parts.hpp"
#include "base/prefetch.hpp"
#include "ground/slide.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr float reach = 0.2f;   // metres: maximum displacement of overlapping bodies in a tick
constexpr int max_rounds = 16;  // in a tick
constexpr float touch = 0.01f;  // of the radius: overlap that is tolerated
// of the speed towards others, lost in each round; a larger loss makes them tremble
constexpr float loss = 0.1f;
constexpr std::size_t max_part = 4;  // expected maximum: one in that many overlaps others
constexpr std::size_t soon = 4;      // NPCs whose data is prefetched
// The state of a body: settled, still overlapping, or overlapped by a body that moved.
constexpr auto relaxed = std::memory_order_relaxed;
constexpr std::uint8_t settled = 0, unsettled = 1, called = 2;

/// Several threads may call it for the same body.
void call(std::uint8_t& other) {
  const std::atomic_ref state(other);
  if (state.load(relaxed) == settled) state.store(called, relaxed);
}

/// Reduces the speed against other bodies; those behind use it.
void lose_speed_against(vec2& velocity, vec2 apart) {
  const vec2 away = direction(apart);
  velocity -= loss * std::min(0.f, glm::dot(velocity, away)) * away;
}

}  // namespace

/// Velocities do not change at once, so bodies may overlap. They move apart, each by half of the overlap,
/// from the positions at the start of the round, so the order does not matter. Bodies that moved, and those
/// that they now overlap, take part in the next round.
void World::Impl::separate() {
  if (!avoid_) return;
  find_overlaps();
  for (int round = 0; round < max_rounds && !overlapping_.empty(); ++round) {
    separations_.resize(overlapping_.size());
    in_parts(jobs_, overlapping_.size(),
             [this](std::size_t i) { separations_[i] = separation_of(overlapping_[i]); });
    in_parts(jobs_, overlapping_.size(), [this](std::size_t i) {
      Mover& mover = movers_[surroundings_.slot(overlapping_[i])];
      if (separations_[i] == vec2(0.f)) return;
      lose_speed_against(mover.motion.velocity, separations_[i]);
      if (const Snap here = find_spot(mover, 0.05f))
        mover.motion.position = slide(*ground_, here.spot, separations_[i]).end.position;
    });
    update_overlaps();
  }
}

/// Removes settled bodies, and adds those that others now overlap.
void World::Impl::update_overlaps() {
  const std::uint32_t first = surroundings_.first_awake();
  std::size_t left = 0;
  for (std::size_t i = 0; i < overlapping_.size(); ++i)
    if (separations_[i] != vec2(0.f))
      overlapping_[left++] = overlapping_[i];
    else
      marks_[overlapping_[i] - first] = settled;
  overlapping_.resize(left);
  for (auto at = marks_.begin(); (at = std::find(at, marks_.end(), called)) != marks_.end(); ++at) {
    *at = unsettled;
    overlapping_.push_back(first + static_cast<std::uint32_t>(at - marks_.begin()));
  }
}

/// Updates the maximum displacement. Several threads may call it.
void World::Impl::note_distance(std::uint32_t slot) {
  const vec2 gone = flat(movers_[slot].motion.position - surroundings_.seen_at(slot));
  const float square = glm::dot(gone, gone);
  const std::atomic_ref furthest(furthest_);
  float known = furthest.load(relaxed);
  while (square > known && !furthest.compare_exchange_weak(known, square, relaxed)) {
  }
}

/// Finds overlapping bodies, which are few. Sleeping ones wake before they are moved.
void World::Impl::find_overlaps() {
  const std::uint32_t first = surroundings_.first_awake();
  const std::size_t awake = surroundings_.neighbour_states().size() - first;
  marks_.assign(awake, settled);
  // NPCs that were alone cannot overlap, unless one moved unusually far.
  const bool all = 4.f * furthest_ >= alone_within * alone_within;
  furthest_ = 0.f;
  in_parts(jobs_, awake, [this, all](std::size_t i) {
    const std::uint32_t place = surroundings_.first_awake() + static_cast<std::uint32_t>(i);
    if (place + soon < surroundings_.neighbour_states().size())
      prefetch<sizeof(Mover)>(&movers_[surroundings_.slot(place + soon)]);
    if (!all && movers_[surroundings_.slot(place)].alone) return;
    if (separation_of(place) != vec2(0.f)) std::atomic_ref(marks_[i]).store(unsettled, relaxed);
  });
  overlapping_.clear();
  // Reserves for the densest crowd, so that later ticks allocate nothing.
  overlapping_.reserve(awake / max_part);
  separations_.reserve(awake / max_part);
  for (std::uint32_t i = 0; i < awake; ++i)
    if (marks_[i] != settled) {
      marks_[i] = unsettled;
      overlapping_.push_back(first + i);
      wake_in_the_way(surroundings_.slot(first + i));
    }
}

/// Returns true if others may move it; sleeping ones are not moved.
bool World::Impl::gives_way(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  return mover.alive && !surroundings_.asleep(slot) && mover.drive == Drive::own &&
         mover.traits->avoidance.takes_part && !mover.crossing && !mover.aboard && !mover.intent.direct;
}

/// Returns the displacement away from all overlapping bodies, and marks those.
vec2 World::Impl::separation_of(std::uint32_t place) {
  const auto neighbour_states = surroundings_.neighbour_states();
  const float radius = surroundings_.velocities().radius[place];
  const std::uint32_t mine = surroundings_.slot(place);
  const vec3 here = movers_[mine].motion.position;
  vec2 step(0.f);
  if (!gives_way(mine)) return step;
  surroundings_.each_near(flat(here), radius + reach, [&](std::uint32_t other, vec2, std::uint32_t slot) {
    if (other == place) return;
    const vec3 there = movers_[slot].motion.position;
    const vec2 off = flat(here - there);
    const float overlap = radius + surroundings_.velocities().radius[other] - glm::length(off);
    if (overlap <= touch * radius ||
        !share_height(there.z - here.z, neighbour_states[place].height, neighbour_states[other].height) ||
        !movers_[slot].alive || passes(movers_[mine].traits->body, slot))
      return;
    if (other >= surroundings_.first_awake()) call(marks_[other - surroundings_.first_awake()]);
    // At the same position, each takes a different direction.
    const vec2 way = direction(off, unit(static_cast<float>(mine)));
    step += (gives_way(slot) ? 0.5f : 1.f) * overlap * way;
  });
  const float far = glm::length(step), max = 0.25f * radius;
  return far > max ? max / far * step : step;
}

}  // namespace ambulon
