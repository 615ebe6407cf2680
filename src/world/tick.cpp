// A tick of the world, phase by phase.

#include <algorithm>
#include <chrono>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "base/in_parts.hpp"
#include "base/prefetch.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr float max_seconds = 3600.f, longest_tick = 1.f;  // longer times are divided into ticks
constexpr int orders_in_a_tick = 8;  // a script whose orders take no time continues in the next tick

/// Errands are scattered over the pool: prefetched for the next NPCs.
constexpr std::uint32_t errands_ahead = 8;

/// Measures the phases of a tick.
class Stopwatch {
 public:
  /// Adds the seconds since the last call to `sum`.
  void add_to(double& sum) {
    const auto now = std::chrono::steady_clock::now();
    sum += std::chrono::duration<double>(now - last_).count();
    last_ = now;
  }

 private:
  std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

}  // namespace

Expected<double> World::Impl::tick(float seconds) {
  if (state.clock.ticking)
    return problem("World::tick was called from within a tick; call it from the game's own loop");
  if (seconds <= 0.f || !Range{0.f, max_seconds}.holds(seconds))
    return problem(fmt::format("a tick of {} s; it must be above 0 and at most {}", seconds, max_seconds));
  const float ticks = std::ceil(seconds / longest_tick);
  for (float i = 0; i < ticks; ++i) tick_once(seconds / ticks);
  return state.clock.time;
}

void World::Impl::tick_once(float seconds) {
  Stopwatch watch;
  state.clock.begin_tick(seconds);
  tick_noted_ = state.journal.next();
  orders.begin_tick();
  state.signals.begin_tick();
  sense();
  watch.add_to(profile_.sense);
  decide();
  watch.add_to(profile_.decide);
  find_routes();
  watch.add_to(profile_.route);
  crowd.avoid();
  watch.add_to(profile_.avoid);
  move();
  watch.add_to(profile_.move);
  crowd.separate();
  locomotion.carry();
  watch.add_to(profile_.separate);
  state.clock.time = state.clock.tick_end;
  notify();
  locomotion.carry();
  locomotion.end_tick_of_decks();
  state.clock.ticking = false;
  clean_up();
  state.journal.sort_from(tick_noted_);
  state.clock.end_tick();
  watch.add_to(profile_.notify);
  profile_.ticks = state.clock.ticks;
}

/// Reads the reports of game-driven bodies, and takes the snapshot of all NPCs.
void World::Impl::sense() {
  const std::uint64_t before = std::exchange(state.ground_revision, state.ground.revision());
  if (before != state.ground_revision)
    for (Mover& mover : state.npcs.movers()) mover.room = {};
  locomotion.take_reports(
      [this](std::uint32_t slot, vec2 advised, vec2 gone) { headway.watch_body(slot, advised, gone); });
  state.surroundings.begin_tick();
  contacts.find();
  if (state.avoids) state.surroundings.index();
  crowd.wake_the_pushed();
  headway.watch_walkers();
}

/// Asks each errand for an intent: first, in parallel, those that may simply continue, then the others in
/// order. No NPC moves in this phase, so the order does not matter.
void World::Impl::decide() {
  const auto awake = state.surroundings.awake();
  detail.update_near_distance();
  state.marks.resize(awake.size());
  in_parts(state.jobs, awake.size(), [&](std::size_t i) {
    if (i + errands_ahead < awake.size()) prefetch<192>(state.npcs[awake[i + errands_ahead]].errand);
    state.marks[i] = static_cast<std::uint8_t>(orders.try_keep_on(awake[i]));
  });
  deciding_ = 0;
  for (std::size_t i = 0; i < awake.size(); ++i) {
    const auto asked = static_cast<Orders::Asked>(state.marks[i]);
    if (asked == Orders::Asked::no) continue;
    ++deciding_;
    const std::uint32_t slot = awake[i];
    if (asked == Orders::Asked::keeps_on) continue;
    Mover& mover = state.npcs[slot];
    if (mover.pushed && !mover.errand) locomotion.carry_push(slot);
    mover.waits = mover.errand && !mover.crossing && !orders.ask(slot);
    if (mover.waits) unfinished_.push_back(slot);
  }
}

/// Answers route requests, and asks the errands that got a route.
void World::Impl::find_routes() {
  for (int round = 0; round < orders_in_a_tick; ++round) {
    const auto found = orders.find_routes();
    if (found.empty()) break;
    for (const std::uint32_t slot : found) {
      Mover& mover = state.npcs[slot];
      if (!mover.alive || !mover.errand || mover.crossing) continue;
      mover.asked = true;
      mover.waits = !orders.ask(slot);
      if (mover.waits) unfinished_.push_back(slot);
    }
  }
  std::ranges::sort(unfinished_);
}

/// Carries out the intents: first, in parallel, those of the decide phase, then, in order, those of NPCs
/// whose intent has run out. An NPC whose order just ended waits, since it may get a new one in this tick.
void World::Impl::move() {
  const auto awake = state.surroundings.awake();
  state.marks.resize(awake.size());
  static constexpr auto goes_on = [](const Mover& mover) { return mover.left > no_time && mover.errand; };
  in_parts(state.jobs, awake.size(), [&](std::size_t i) {
    Mover& mover = state.npcs[awake[i]];
    bool more = mover.scripted;
    if (!mover.waits) {
      carry_out(awake[i]);
      more = goes_on(mover) || crowd.count_held(awake[i]) || more;
      if (!goes_on(mover)) mover.left = 0.f;
    }
    state.marks[i] = more ? 1 : 0;
  });
  scripts.clear_running();
  for (std::size_t i = 0; i < awake.size(); ++i) {
    if (state.marks[i] == 0) continue;
    const std::uint32_t slot = awake[i];
    if (state.npcs[slot].scripted) scripts.add_running(slot);
    if (state.npcs[slot].waits) continue;
    if (goes_on(state.npcs[slot])) {
      go_on(slot);
      (void)crowd.count_held(slot);
    }
    crowd.report_jam(slot);
  }
  if (detail.sleeping() > 0) scripts.add_sleeping();
  detail.wake_up();
}

void World::Impl::carry_out(std::uint32_t slot) {
  locomotion.carry_out(slot);
  crowd.note_distance(slot);
}

/// Asks again whenever an intent runs out before the tick does, and carries the intents out.
void World::Impl::go_on(std::uint32_t slot) {
  Mover& mover = state.npcs[slot];
  for (int part = 1; part <= orders_in_a_tick && mover.left > no_time && mover.errand; ++part) {
    if (!orders.ask_with_routes(slot)) {
      unfinished_.push_back(slot);
      return;
    }
    crowd.avoid(slot);
    // The last intent uses the rest of the tick, however short it is.
    if (part == orders_in_a_tick) mover.intent.lasts = mover.left;
    carry_out(slot);
  }
  mover.left = 0.f;
}

/// Runs callbacks and scripts, and then gives NPCs the rest of the tick that their ended orders left. Repeats
/// while orders end, at most `orders_in_a_tick` times.
void World::Impl::notify() {
  for (int round = 0; round < orders_in_a_tick; ++round) {
    std::swap(unfinished_, next_unfinished_);
    unfinished_.clear();
    call_back();
    for (const std::uint32_t slot : round == 0 ? scripts.running() : next_unfinished_) scripts.proceed(slot);
    for (const std::uint32_t slot : next_unfinished_) {
      Mover& mover = state.npcs[slot];
      if (!mover.alive || mover.left <= no_time) continue;
      mover.intent = {};
      if (mover.errand && !orders.ask_with_routes(slot)) {
        unfinished_.push_back(slot);
        continue;
      }
      crowd.avoid(slot);
      carry_out(slot);
      go_on(slot);
    }
    if (unfinished_.empty() && !state.callbacks.any_ends()) break;
  }
  unfinished_.clear();
}

void World::Impl::call_back() {
  state.callbacks.call_acts();
  contacts.call();
  state.callbacks.call_ends();
}

/// Destroys what user code may have been running in, and frees the slots of removed NPCs. Does nothing while
/// a tick or a script runs.
void World::Impl::clean_up() {
  if (state.clock.ticking || running_ > 0) return;
  ++running_;  // destructors may remove NPCs
  state.callbacks.clean_up();
  do {
    destroy_dismissed();
    state.npcs.free_removed([this](Mover& mover) { orders.destroy_errand(mover); });
  } while (scripts.any_dismissed() || state.npcs.any_removed());
  locomotion.forget_flights();
  detail.fall_asleep();
  --running_;
}

/// Destroys dismissed scripts and closures.
void World::Impl::destroy_dismissed() {
  state.callbacks.destroy_dismissed();
  contacts.destroy_dismissed();
  scripts.destroy_dismissed();
}

}  // namespace ambulon
