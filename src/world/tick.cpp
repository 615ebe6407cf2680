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

using Clock = std::chrono::steady_clock;
double seconds_of(Clock::duration time) { return std::chrono::duration<double>(time).count(); }

constexpr float max_seconds = 3600.f, longest_tick = 1.f;  // longer times are divided into ticks
// metres per second above which a reported body faces its direction of travel
constexpr float turns_above = 0.1f;
constexpr float no_time = 1e-6f;     // seconds: a shorter rest of a tick is dropped
constexpr int orders_in_a_tick = 8;  // a script whose orders take no time continues in the next tick

/// Errands are scattered over the pool: prefetched for the next NPCs.
constexpr std::uint32_t errands_ahead = 8;

}  // namespace

Expected<double> World::Impl::tick(float seconds) {
  if (ticking_) return problem("World::tick was called from within a tick; call it from the game's own loop");
  if (seconds <= 0.f || !Range{0.f, max_seconds}.holds(seconds))
    return problem(fmt::format("a tick of {} s; it must be above 0 and at most {}", seconds, max_seconds));
  const float ticks = std::ceil(seconds / longest_tick);
  for (float i = 0; i < ticks; ++i) tick_once(seconds / ticks);
  return time_;
}

void World::Impl::tick_once(float seconds) {
  ticking_ = true;
  now_ = time_;
  tick_noted_ = journal_.next();
  routes_.begin(route_work_);
  tick_end_ = time_ + seconds;
  tick_seconds_ = seconds;
  std::swap(heard_, raised_);
  raised_.clear();
  const Clock::time_point begin = Clock::now();
  sense();
  const Clock::time_point sensed = Clock::now();
  decide();
  const Clock::time_point decided = Clock::now();
  find_routes();
  const Clock::time_point routed = Clock::now();
  avoid();
  const Clock::time_point avoided = Clock::now();
  move();
  const Clock::time_point moved = Clock::now();
  separate();
  carry();
  const Clock::time_point parted = Clock::now();
  time_ = tick_end_;
  notify();
  carry();
  // A deck that stopped elsewhere allows other routes.
  now_ = time_;
  decks_.end_tick([this](NpcId who) {
    if (knows(who)) ++movers_[who.slot].jumps;
  });
  ticking_ = false;
  clean_up();
  journal_.sort_from(tick_noted_);
  ++ticks_;
  last_seconds_ = seconds;
  profile_.sense += seconds_of(sensed - begin);
  profile_.decide += seconds_of(decided - sensed);
  profile_.route += seconds_of(routed - decided);
  profile_.avoid += seconds_of(avoided - routed);
  profile_.move += seconds_of(moved - avoided);
  profile_.separate += seconds_of(parted - moved);
  profile_.notify += seconds_of(Clock::now() - parted);
  profile_.ticks = ticks_;
}

/// Reads the reports of game-driven bodies, and takes the snapshot of all NPCs.
void World::Impl::sense() {
  const std::uint64_t before = std::exchange(ground_revision_, ground_->revision());
  if (before != ground_revision_)
    for (Mover& mover : movers_) mover.room = {};
  take_reports();
  surroundings_.begin_tick();
  find_contacts();
  if (avoid_) {
    surroundings_.index();
    wake_the_pushed();
  }
  watch_walkers();
}

void World::Impl::take_reports() {
  if (last_seconds_ == 0.f) return;
  for (auto& [slot, body] : advised_) {
    Mover& mover = movers_[slot];
    const vec3 from = mover.motion.position;
    if (body.has_report) mover.motion.position = body.reported;
    const vec2 gone = flat(mover.motion.position - from);
    const vec2 advised = last_seconds_ * flat(body.advice.velocity);
    const vec2 faced = mover.motion.facing;
    const bool advises = mover.drive == Drive::advised;
    mover.motion.velocity = flat(body.report.velocity.value_or(lift(gone / last_seconds_)));
    if (body.report.heading)
      mover.motion.facing = unit(*body.report.heading);
    else if (!advises && mover.motion.speed() > turns_above)
      mover.motion.facing = direction(mover.motion.velocity);
    body.report = {};
    count_steps(mover, from, faced, last_seconds_);
    const bool reported = std::exchange(body.has_report, false);
    if (!advises) continue;
    if (auto note = body.watch.see(advised, gone, reported, last_seconds_)) {
      note->who = {slot, mover.generation};
      note->where = mover.motion.position;
      note->time = time_;
      take(*note);
    }
    if (body.watch.held_for() > 0.f) npc_states_[slot].held_seconds += last_seconds_;
    if (mover.errand) watch_headway(slot, advised, gone);
  }
}

/// Asks each errand for an intent: first, in parallel, those that may simply continue, then the others in
/// order. No NPC moves in this phase, so the order does not matter.
void World::Impl::decide() {
  const auto awake = surroundings_.awake();
  update_near_distance();
  marks_.resize(awake.size());
  in_parts(jobs_, awake.size(), [&](std::size_t i) {
    if (i + errands_ahead < awake.size()) prefetch<192>(movers_[awake[i + errands_ahead]].errand);
    marks_[i] = static_cast<std::uint8_t>(try_keep_on(awake[i]));
  });
  deciding_ = 0;
  for (std::size_t i = 0; i < awake.size(); ++i) {
    const auto asked = static_cast<Asked>(marks_[i]);
    if (asked == Asked::no) continue;
    ++deciding_;
    const std::uint32_t slot = awake[i];
    if (asked == Asked::keeps_on) continue;
    Mover& mover = movers_[slot];
    if (mover.pushed && !mover.errand) carry_push(slot);
    mover.waits = mover.errand && !mover.crossing && !ask(slot, until_asked(slot));
    if (mover.waits) unfinished_.push_back(slot);
  }
}

/// Moves the NPC with the velocity of its push, or ends the push. Then it plans its route again.
void World::Impl::carry_push(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  const Push& push = of(pushes_, slot);
  const auto left = static_cast<float>(push.until - moment(slot));
  if (left > no_time) {
    mover.intent = {.velocity = push.velocity, .facing = mover.motion.facing, .lasts = left, .direct = true};
    mover.was = flat(mover.motion.position);
    return;
  }
  pushes_.erase(slot);
  mover.pushed = false;
  ++mover.jumps;
  mover.intent = {};
  mover.motion.velocity =
      std::min(1.f, mover.traits->gait.speed / std::max(mover.motion.speed(), 1e-6f)) * mover.motion.velocity;
}

/// Begins the tick of an NPC, and asks whether its errand simply continues. Changes only this NPC.
World::Impl::Asked World::Impl::try_keep_on(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  mover.left = tick_seconds_;
  mover.waits = mover.alone = false;
  mover.asked = mover.fresh || mover.ask_at <= ticks_ || mover.intent.direct || mover.drive != Drive::own ||
                !heard_.empty();  // all listen, in the tick of the signal
  if (!mover.asked) return Asked::no;
  const bool keeps_on = !mover.fresh && !mover.suspended && !mover.pushed && mover.drive == Drive::own &&
                        mover.errand && !mover.crossing;
  mover.fresh = false;
  mover.ask_at = static_cast<std::uint32_t>(ticks_) + ticks_between(slot);
  mover.intent = {.direct = mover.intent.direct};  // direct motion stops at once
  mover.wanted = vec2(0.f);
  const float left = time_left(slot);
  if (!keeps_on || left <= no_time) return Asked::next;
  const auto intent = mover.errand->keep_on(view_of(slot, mover.motion), until_asked(slot));
  if (!intent) return Asked::next;
  set_intent(mover, *intent, left);
  return Asked::keeps_on;
}

/// Returns the seconds of this tick until its next decision.
float World::Impl::until_asked(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  const auto later = static_cast<std::uint32_t>(ticks_) + 1 < mover.ask_at
                         ? mover.ask_at - static_cast<std::uint32_t>(ticks_) - 1
                         : 0U;
  return mover.left + static_cast<float>(later) * tick_seconds_;
}

/// Answers route requests, and asks the errands that got a route.
void World::Impl::find_routes() {
  for (int round = 0; round < orders_in_a_tick; ++round) {
    const auto found = routes_.serve(*ground_, time_, jobs_);
    if (found.empty()) break;
    for (const std::uint32_t slot : found) {
      Mover& mover = movers_[slot];
      if (!mover.alive || !mover.errand || mover.crossing) continue;
      mover.asked = true;
      mover.waits = !ask(slot, until_asked(slot));
      if (mover.waits) unfinished_.push_back(slot);
    }
  }
  std::ranges::sort(unfinished_);
}

/// Carries out the intents: first, in parallel, those of the decide phase, then, in order, those of NPCs
/// whose intent has run out. An NPC whose order just ended waits, since it may get a new one in this tick.
void World::Impl::move() {
  const auto awake = surroundings_.awake();
  marks_.resize(awake.size());
  static constexpr auto goes_on = [](const Mover& mover) { return mover.left > no_time && mover.errand; };
  in_parts(jobs_, awake.size(), [&](std::size_t i) {
    Mover& mover = movers_[awake[i]];
    bool more = mover.scripted;
    if (!mover.waits) {
      carry_out(awake[i]);
      more = goes_on(mover) || count_held(awake[i]) || more;
      if (!goes_on(mover)) mover.left = 0.f;
    }
    marks_[i] = more ? 1 : 0;
  });
  scripted_.clear();
  for (std::size_t i = 0; i < awake.size(); ++i) {
    if (marks_[i] == 0) continue;
    const std::uint32_t slot = awake[i];
    if (movers_[slot].scripted) scripted_.push_back(slot);
    if (movers_[slot].waits) continue;
    if (goes_on(movers_[slot])) {
      go_on(slot);
      (void)count_held(slot);
    }
    report_jam(slot);
  }
  // Scripts of sleeping NPCs run, too, all in the order of slots.
  const auto awake_scripts = static_cast<std::ptrdiff_t>(scripted_.size());
  if (sleeping() > 0)
    for (const auto& [slot, script] : scripts_)
      if (surroundings_.asleep(slot)) scripted_.push_back(slot);
  std::inplace_merge(scripted_.begin(), scripted_.begin() + awake_scripts, scripted_.end());
  for (const std::uint32_t slot : waking_) mark_fresh(slot);
  waking_.clear();
}

/// Returns the time up to which the NPC has moved: the end of the tick minus its unused time.
double World::Impl::moment(std::uint32_t slot) const {
  return ticking_ ? tick_end_ - static_cast<double>(movers_[slot].left) : time_;
}

/// Returns the seconds until the time limit of its order.
float World::Impl::time_left(std::uint32_t slot) const {
  if (!movers_[slot].limited) return std::numeric_limits<float>::infinity();
  return static_cast<float>(of(time_limits_, slot).deadline - moment(slot));
}

/// Returns the seconds without progress after which its order ends as stuck.
float World::Impl::patience(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  if (mover.patient) return of(patiences_, slot);
  return mover.traits->gait.patience > 0.f ? mover.traits->gait.patience : patience_;
}

/// Returns the motion that errands see. For a game-driven body its velocity is the advised one. With the real
/// velocity a blocked body would be advised to accelerate gently for ever.
Motion World::Impl::seen_motion(std::uint32_t slot) const {
  Motion motion = movers_[slot].motion;
  if (movers_[slot].drive == Drive::advised) motion.velocity = of(advised_, slot).velocity;
  return motion;
}

View World::Impl::view_of(std::uint32_t slot, const Motion& me) {
  Mover& mover = movers_[slot];
  return {.who = {slot, mover.generation},
          .me = me,
          .was = mover.was,
          .body = mover.traits->body,
          .gait = mover.traits->gait,
          .ground = *ground_,
          .ground_revision = ground_revision_,
          .jumps = mover.jumps,
          .others = surroundings_,
          .heard = heard_,
          .random = npc_states_[slot].random,
          .arc = arc_,
          .notes = *this,
          .memory = &pool_,
          .time = moment(slot),
          .avoids = avoid_ && mover.traits->avoidance.takes_part && mover.drive == Drive::own,
          .held = mover.held,
          .patience = patience(slot),
          .routes = &routes_,
          .route_priority = mover.route_priority};
}

/// Sets the intent for as long as it lasts, at most `left` seconds.
void World::Impl::set_intent(Mover& mover, const Intent& intent, float left) {
  mover.was = flat(mover.motion.position);
  mover.intent = intent;
  mover.intent.lasts = std::min(mover.intent.lasts, left);
  mover.wanted = mover.intent.velocity;
}

/// Asks the errand for an intent for the next seconds. Returns false if the order ended.
bool World::Impl::ask(std::uint32_t slot, float seconds) {
  Mover& mover = movers_[slot];
  const float left = time_left(slot);
  if (left <= no_time) {
    finish(slot,
           {.ending = Ending::timed_out, .cause = Cause::time_up, .value = of(time_limits_, slot).seconds});
    return false;
  }
  if (mover.pushed) carry_push(slot);
  if (mover.pushed) return true;
  if (mover.suspended) {
    mover.intent = {.facing = mover.motion.facing, .lasts = left, .direct = mover.intent.direct};
    return true;
  }
  if (mover.drive == Drive::advised && time_ < of(advised_, slot).side_step_until) {
    mover.intent = {.velocity = of(advised_, slot).side_step};
    return true;
  }
  const Step step = mover.drive == Drive::own ? mover.errand->step(view_of(slot, mover.motion), seconds)
                                              : mover.errand->step(view_of(slot, seen_motion(slot)), seconds);
  set_intent(mover, step.intent, left);
  if (mover.intent.crosses) {
    flights_[slot] = {.arc = arc_};
    mover.crossing = true;
  }
  if (!step.ended) return true;
  finish(slot, *step.ended);
  return false;
}

/// Asks in the middle of a tick: a requested route is searched at once if the budget allows.
bool World::Impl::ask_with_routes(std::uint32_t slot, float seconds) {
  if (!ask(slot, seconds)) return false;
  return routes_.serve(*ground_, moment(slot)).empty() || ask(slot, seconds);
}

/// Asks again whenever an intent runs out before the tick does, and carries the intents out.
void World::Impl::go_on(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  for (int part = 1; part <= orders_in_a_tick && mover.left > no_time && mover.errand; ++part) {
    if (!ask_with_routes(slot, until_asked(slot))) {
      unfinished_.push_back(slot);
      return;
    }
    avoid(slot);
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
    for (const std::uint32_t slot : round == 0 ? scripted_ : next_unfinished_) proceed(slot);
    for (const std::uint32_t slot : next_unfinished_) {
      Mover& mover = movers_[slot];
      if (!mover.alive || mover.left <= no_time) continue;
      mover.intent = {};
      if (mover.errand && !ask_with_routes(slot, until_asked(slot))) {
        unfinished_.push_back(slot);
        continue;
      }
      avoid(slot);
      carry_out(slot);
      go_on(slot);
    }
    if (unfinished_.empty() && ended_.empty() && removed_npcs_.empty()) break;
  }
  unfinished_.clear();
}

/// Calls the callbacks of the orders that have ended.
void World::Impl::call_back() {
  std::swap(acts_, telling_acts_);
  for (const Act& act : telling_acts_) {
    now_ = act.npc.alive() ? moment(act.npc.id().slot) : tick_end_;
    call_back(act);
  }
  telling_acts_.clear();
  std::swap(contacts_, telling_contacts_);
  for (const Contact& contact : telling_contacts_) {
    now_ = contact.npc.alive() ? moment(contact.npc.id().slot) : tick_end_;
    call_back(contact);
  }
  telling_contacts_.clear();
  std::swap(removed_npcs_, telling_removed_);
  now_ = tick_end_;
  for (Removal& removal : telling_removed_) removal.then(removal.npc);
  telling_removed_.clear();
  std::swap(ended_, telling_);
  for (Ended& ended : telling_) {
    now_ = ended.npc.alive() ? moment(ended.npc.id().slot) : tick_end_;
    ended.on_end(ended.npc, ended.outcome);
  }
  telling_.clear();
}

void World::Impl::call_back(const Act& act) {
  if (!act.npc.alive()) return;
  const std::uint32_t slot = act.npc.id().slot, serial = npc_states_[slot].serial;
  const auto told = callbacks_.find(slot);
  if (told == callbacks_.end() || !told->second.on_act) return;
  // The callback may give another order, which would destroy it.
  auto on_act = std::exchange(told->second.on_act, nullptr);
  on_act(act.npc, act.whom, act.near);
  if (!act.npc.alive() || npc_states_[slot].serial != serial) return;
  if (auto& now = callbacks_[slot].on_act; !now) now = std::move(on_act);
}

void World::Impl::call_back(const Contact& contact) {
  if (!contact.npc.alive()) return;
  const std::uint32_t slot = contact.npc.id().slot;
  const auto told = touches_.find(slot);
  if (told == touches_.end() || !told->second.on_touch) return;
  // The callback may replace or remove itself.
  auto on_touch = std::exchange(told->second.on_touch, nullptr);
  on_touch(contact.npc, contact.whom, contact.speed);
  if (const auto now = touches_.find(slot);
      contact.npc.alive() && now != touches_.end() && !now->second.on_touch)
    now->second.on_touch = std::move(on_touch);
}

void World::Impl::proceed(std::uint32_t slot) {
  if (!movers_[slot].scripted) return;
  if (ticking_) now_ = moment(slot);
  const Script* script = of(scripts_, slot).get();
  if (!of(scripts_, slot)->proceed()) return;
  // The script may have been replaced while it ran.
  if (movers_[slot].scripted && of(scripts_, slot).get() == script) dismiss_script(slot);
}

/// Destroys what user code may have been running in, and frees the slots of removed NPCs.
void World::Impl::clean_up() {
  ++running_;  // destructors may remove NPCs
  if (std::exchange(callbacks_over_, false))
    for (auto next = callbacks_.begin(); next != callbacks_.end();) {
      const std::uint32_t slot = (next++)->first;
      if (movers_[slot].errand == nullptr) dismiss(callbacks_, slot, dismissed_callbacks_);
    }
  destroy_dismissed();
  while (!dismissed_.empty() || !removed_.empty()) {
    destroy_dismissed();
    for (std::size_t i = 0; i < removed_.size(); ++i) {
      const std::uint32_t slot = removed_[i];
      destroy_errand(movers_[slot]);
      traits_pool_.release(std::exchange(movers_[slot].traits, nullptr));
      free_.push_back(slot);
    }
    removed_.clear();
  }
  traits_pool_.clean_up();
  std::erase_if(flights_, [this](const auto& flight) { return !movers_[flight.first].crossing; });
  fall_asleep();
  --running_;
}

}  // namespace ambulon
