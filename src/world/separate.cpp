// Separation: moves overlapping bodies apart.

#include <algorithm>
#include <atomic>

#include "base/geometry.hpp"
#include "base/in_parts.hpp"
#include "base/prefetch.hpp"
#include "ground/slide.hpp"
#include "world/crowd.hpp"

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

void Crowd::separate() {
  if (!state_.avoids) return;
  find_overlaps();
  for (int round = 0; round < max_rounds && !overlapping_.empty(); ++round) {
    separations_.resize(overlapping_.size());
    in_parts(state_.jobs, overlapping_.size(),
             [this](std::size_t i) { separations_[i] = separation_of(overlapping_[i]); });
    in_parts(state_.jobs, overlapping_.size(), [this](std::size_t i) {
      Mover& mover = state_.npcs[state_.surroundings.slot(overlapping_[i])];
      if (separations_[i] == vec2(0.f)) return;
      lose_speed_against(mover.motion.velocity, separations_[i]);
      if (const Snap here = locomotion_.find_spot(mover, 0.05f))
        mover.motion.position = slide(state_.ground, here.spot, separations_[i]).end.position;
    });
    update_overlaps();
  }
}

/// Removes settled bodies, and adds those that others now overlap.
void Crowd::update_overlaps() {
  const std::uint32_t first = state_.surroundings.first_awake();
  std::size_t left = 0;
  for (std::size_t i = 0; i < overlapping_.size(); ++i)
    if (separations_[i] != vec2(0.f))
      overlapping_[left++] = overlapping_[i];
    else
      state_.marks[overlapping_[i] - first] = settled;
  overlapping_.resize(left);
  for (auto at = state_.marks.begin(); (at = std::find(at, state_.marks.end(), called)) != state_.marks.end();
       ++at) {
    *at = unsettled;
    overlapping_.push_back(first + static_cast<std::uint32_t>(at - state_.marks.begin()));
  }
}

void Crowd::note_distance(std::uint32_t slot) {
  if (!state_.avoids) return;
  const vec2 gone = flat(state_.npcs[slot].motion.position - state_.surroundings.seen_at(slot));
  const float square = glm::dot(gone, gone);
  const std::atomic_ref furthest(furthest_);
  float known = furthest.load(relaxed);
  while (square > known && !furthest.compare_exchange_weak(known, square, relaxed)) {
  }
}

/// Finds overlapping bodies, which are few. Sleeping ones wake before they are moved.
void Crowd::find_overlaps() {
  const std::uint32_t first = state_.surroundings.first_awake();
  const std::size_t awake = state_.surroundings.neighbour_states().size() - first;
  state_.marks.assign(awake, settled);
  // NPCs that were alone cannot overlap, unless one moved unusually far.
  const bool all = 4.f * furthest_ >= alone_within * alone_within;
  furthest_ = 0.f;
  in_parts(state_.jobs, awake, [this, all](std::size_t i) {
    const std::uint32_t place = state_.surroundings.first_awake() + static_cast<std::uint32_t>(i);
    if (place + soon < state_.surroundings.neighbour_states().size())
      prefetch<sizeof(Mover)>(&state_.npcs[state_.surroundings.slot(place + soon)]);
    if (!all && state_.npcs[state_.surroundings.slot(place)].alone) return;
    if (separation_of(place) != vec2(0.f)) std::atomic_ref(state_.marks[i]).store(unsettled, relaxed);
  });
  overlapping_.clear();
  // Reserves for the densest crowd, so that later ticks allocate nothing.
  overlapping_.reserve(awake / max_part);
  separations_.reserve(awake / max_part);
  for (std::uint32_t i = 0; i < awake; ++i)
    if (state_.marks[i] != settled) {
      state_.marks[i] = unsettled;
      overlapping_.push_back(first + i);
      detail_.wake_in_the_way(state_.surroundings.slot(first + i), nudge);
    }
}

/// Returns true if others may move it; sleeping ones are not moved.
bool Crowd::gives_way(std::uint32_t slot) const {
  const Mover& mover = state_.npcs[slot];
  return mover.alive && !state_.surroundings.asleep(slot) && mover.drive == Drive::own &&
         mover.traits->avoidance.takes_part && !mover.crossing && !mover.aboard && !mover.intent.direct;
}

/// Returns the displacement away from all overlapping bodies, and marks those.
vec2 Crowd::separation_of(std::uint32_t place) {
  const auto neighbour_states = state_.surroundings.neighbour_states();
  const float radius = state_.surroundings.velocities().radius[place];
  const std::uint32_t mine = state_.surroundings.slot(place);
  const vec3 here = state_.npcs[mine].motion.position;
  vec2 step(0.f);
  if (!gives_way(mine)) return step;
  state_.surroundings.each_near(
      flat(here), radius + reach, [&](std::uint32_t other, vec2, std::uint32_t slot) {
        if (other == place) return;
        const vec3 there = state_.npcs[slot].motion.position;
        const vec2 off = flat(here - there);
        const float overlap = radius + state_.surroundings.velocities().radius[other] - glm::length(off);
        if (overlap <= touch * radius ||
            !share_height(there.z - here.z, neighbour_states[place].height, neighbour_states[other].height) ||
            !state_.npcs[slot].alive || state_.npcs.passes(state_.npcs[mine].traits->body, slot))
          return;
        if (other >= state_.surroundings.first_awake())
          call(state_.marks[other - state_.surroundings.first_awake()]);
        // At the same position, each takes a different direction.
        const vec2 way = direction(off, unit(static_cast<float>(mine)));
        step += (gives_way(slot) ? 0.5f : 1.f) * overlap * way;
      });
  const float far = glm::length(step), max = 0.25f * radius;
  return far > max ? max / far * step : step;
}

void Crowd::wake_the_pushed() {
  if (!state_.avoids || detail_.sleeping() == 0) return;
  for (const std::uint32_t slot : state_.surroundings.awake())
    if (!gives_way(slot) && state_.npcs[slot].motion.velocity != vec2(0.f))
      detail_.wake_in_the_way(slot, nudge);
  if (detail_.wake_up()) state_.surroundings.index();
}

}  // namespace ambulon
