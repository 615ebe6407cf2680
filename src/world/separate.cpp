// Bodies that overlap all the same step apart.

#include <algorithm>
#include <atomic>

#include "base/geometry.hpp"
#include "base/in_parts.hpp"
#include "base/prefetch.hpp"
#include "ground/slide.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr float reach = 0.2f;        // metres: nobody goes further in a tick, of those who overlap
constexpr int max_rounds = 16;       // a tick
constexpr float touch = 0.01f;       // of the radius: an overlap that is left
constexpr float loss = 0.1f;         // of its speed into others, in each round: more, and it trembles
constexpr std::size_t max_part = 4;  // at most one in that many overlaps others
constexpr std::size_t soon = 4;      // NPCs that are called into the cache before their turn
// Whether somebody has to step apart: not, as far as it is known; it does; or others have come onto it.
constexpr auto relaxed = std::memory_order_relaxed;
constexpr std::uint8_t settled = 0, unsettled = 1, called = 2;

/// Any number of threads may call the same one.
void call(std::uint8_t& other) {
  const std::atomic_ref state(other);
  if (state.load(relaxed) == settled) state.store(called, relaxed);
}

/// Limits the speed of NPCs that are pressed against others; those behind them use it.
void lose_speed_against(vec2& velocity, vec2 apart) {
  const vec2 away = direction(apart);
  velocity -= loss * std::min(0.f, glm::dot(velocity, away)) * away;
}

}  // namespace

/// Where bodies overlap all the same, since nobody can change its velocity at once, they step apart, each by
/// half; from where all are now, so that the order does not matter. Those who do so look again, and so do
/// those onto whom it brought them: else whoever is squeezed between two who see no overlap of their own
/// stays so.
void World::Impl::part() {
  if (!avoid_) return;
  find_overlaps();
  for (int round = 0; round < max_rounds && !parting_.empty(); ++round) {
    apart_.resize(parting_.size());
    in_parts(jobs_, parting_.size(), [this](std::size_t i) { apart_[i] = step_apart(parting_[i]); });
    in_parts(jobs_, parting_.size(), [this](std::size_t i) {
      Mover& mover = movers_[surroundings_.slot(parting_[i])];
      if (apart_[i] == vec2(0.f)) return;
      lose_speed_against(mover.motion.velocity, apart_[i]);
      if (const Snap here = find_spot(mover, 0.05f))
        mover.motion.position = slide(*ground_, here.spot, apart_[i]).end.position;
    });
    who_goes_on();
  }
}

/// Leaves those who overlap nobody any more, and takes in those onto whom others came.
void World::Impl::who_goes_on() {
  const std::uint32_t first = surroundings_.first_awake();
  std::size_t left = 0;
  for (std::size_t i = 0; i < parting_.size(); ++i)
    if (apart_[i] != vec2(0.f))
      parting_[left++] = parting_[i];
    else
      marks_[parting_[i] - first] = settled;
  parting_.resize(left);
  for (auto at = marks_.begin(); (at = std::find(at, marks_.end(), called)) != marks_.end(); ++at) {
    *at = unsettled;
    parting_.push_back(first + static_cast<std::uint32_t>(at - marks_.begin()));
  }
}

/// Any number of threads may note how far they went since the tick began.
void World::Impl::note_distance(std::uint32_t slot) {
  const vec2 gone = flat(movers_[slot].motion.position - surroundings_.seen_at(slot));
  const float square = glm::dot(gone, gone);
  const std::atomic_ref furthest(furthest_);
  float known = furthest.load(relaxed);
  while (square > known && !furthest.compare_exchange_weak(known, square, relaxed)) {
  }
}

/// Looks who overlaps others, which are few. Those who sleep beside them wake before they are touched, for
/// nobody is moved asleep.
void World::Impl::find_overlaps() {
  const std::uint32_t first = surroundings_.first_awake();
  const std::size_t awake = surroundings_.neighbour_states().size() - first;
  marks_.assign(awake, settled);
  // Nobody has come to who was alone, unless somebody was faster than people are.
  const bool all = 4.f * furthest_ >= alone_within * alone_within;
  furthest_ = 0.f;
  in_parts(jobs_, awake, [this, all](std::size_t i) {
    const std::uint32_t place = surroundings_.first_awake() + static_cast<std::uint32_t>(i);
    if (place + soon < surroundings_.neighbour_states().size())
      prefetch<sizeof(Mover)>(&movers_[surroundings_.slot(place + soon)]);
    if (!all && movers_[surroundings_.slot(place)].alone) return;
    if (step_apart(place) != vec2(0.f)) std::atomic_ref(marks_[i]).store(unsettled, relaxed);
  });
  parting_.clear();
  // More are not to be expected in a throng, however dense, so no later tick takes memory.
  parting_.reserve(awake / max_part);
  apart_.reserve(awake / max_part);
  for (std::uint32_t i = 0; i < awake; ++i)
    if (marks_[i] != settled) {
      marks_[i] = unsettled;
      parting_.push_back(first + i);
      wake_in_the_way(surroundings_.slot(first + i));
    }
}

/// True for who may be moved by others; nobody is moved asleep.
bool World::Impl::gives_way(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  return mover.alive && !surroundings_.asleep(slot) && mover.drive == Drive::own &&
         mover.like->avoidance.takes_part && !mover.crossing && !mover.aboard && !mover.intent.direct;
}

/// The step with which it parts from all that it overlaps, who are called to do the same.
vec2 World::Impl::step_apart(std::uint32_t place) {
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
        !movers_[slot].alive || passes(movers_[mine].like->body, slot))
      return;
    if (other >= surroundings_.first_awake()) call(marks_[other - surroundings_.first_awake()]);
    // From the very same place, each to another side.
    const vec2 way = direction(off, unit(static_cast<float>(mine)));
    step += (gives_way(slot) ? 0.5f : 1.f) * overlap * way;
  });
  const float far = glm::length(step), max = 0.25f * radius;
  return far > max ? max / far * step : step;
}

}  // namespace ambulon
