#include "world/headway.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float side_step_part = 0.2f;  // of the patience: duration of a side step
constexpr float look_part = 0.125f;     // of the patience: interval between two checks
constexpr float replan_part = 0.375f;   // of the patience without headway, before the route is planned again
constexpr float slow_part = 0.3f;       // of the wanted speed: slower NPCs are watched
constexpr float headway_part = 0.1f;    // of the wanted speed: less counts as no headway
constexpr float another_way = 0.5f;     // metres by which the rest must grow to count as another route
constexpr float another_goal = 0.25f;   // metres between two goals

/// Returns the side of `forward` with more free ground.
vec2 freer_side(const Ground& ground, vec3 position, const Body& body, vec2 forward) {
  const vec2 left(-forward.y, forward.x), look = 4.f * body.radius * left;
  const Spot here = ground.snap(position, std::numeric_limits<float>::infinity(), body).spot;
  return ground.straight(here, look).metres >= ground.straight(here, -look).metres ? left : -left;
}

}  // namespace

void Headway::watch_body(std::uint32_t slot, vec2 advised, vec2 gone) {
  Mover& mover = state_.npcs[slot];
  Advised& body = locomotion_.advised(slot);
  const vec2 forward = direction(mover.intent.velocity);  // of the previous tick, to which the report belongs
  const float meant = glm::dot(advised, forward);
  if (meant <= 0.f || state_.clock.time < body.side_step_until) return;
  const NpcId who{slot, mover.generation};
  float gained = glm::dot(gone, forward);
  const float before = std::exchange(body.left, mover.errand->left(orders_.view_of(slot, mover.motion))
                                                    .value_or(std::numeric_limits<float>::infinity()));
  if (std::isfinite(before) && std::isfinite(body.left) && before - body.left > -another_way)
    gained = before - body.left;
  const float patience = orders_.patience(slot);
  switch (body.progress.see(gained, meant, state_.clock.last_seconds, patience)) {
    case ProgressWatch::Verdict::fine:
      return;
    case ProgressWatch::Verdict::replan:
      ++mover.jumps;
      return state_.take({.event = Event::replans,
                          .who = who,
                          .value = body.progress.slow_for(patience),
                          .time = state_.clock.time});
    case ProgressWatch::Verdict::side_step:
      body.side_step = mover.traits->gait.speed *
                       freer_side(state_.ground, mover.motion.position, mover.traits->body, forward);
      body.side_step_until = state_.clock.time + side_step_part * patience;
      return state_.take({.event = Event::side_steps,
                          .who = who,
                          .value = body.progress.slow_for(patience),
                          .time = state_.clock.time});
    case ProgressWatch::Verdict::stuck:
      break;
  }
  body.progress = {};  // the next order starts with full patience
  end_as_stuck(slot, body.watch.held_for() > 0.f ? Cause::held_fast : Cause::no_progress);
}

void Headway::end_as_stuck(std::uint32_t slot, Cause cause) {
  Mover& mover = state_.npcs[slot];
  mover.left = static_cast<float>(state_.clock.tick_end - state_.clock.time);
  const Outcome why{.ending = Ending::stuck,
                    .cause = cause,
                    .value = orders_.patience(slot),
                    .where = mover.motion.position};
  if (!mover.errand->give_up(orders_.view_of(slot, mover.motion), why)) orders_.finish(slot, why);
}

void Headway::watch_walkers() {
  const auto ticks = static_cast<std::uint32_t>(
      std::clamp(std::lround(look_part * orders_.min_patience() / state_.clock.seconds), 1L, 1'000'000L));
  const auto turn = static_cast<std::uint32_t>(state_.clock.ticks % ticks);
  for (const std::uint32_t slot : state_.surroundings.awake())
    if (slot % ticks == turn) watch_walker(slot, static_cast<float>(ticks) * state_.clock.seconds);
}

/// Headway means that the rest of the route becomes shorter. Movement alone does not count, since a body may
/// slide along a wall. Without headway the route is planned again, and the order ends when the patience is
/// used up. While other NPCs are near, the order waits instead, and `report_jam` records it; on a moving deck
/// it waits, too.
void Headway::watch_walker(std::uint32_t slot, float every) {
  Mover& mover = state_.npcs[slot];
  const vec2 wanted = mover.wanted;
  const bool slow = mover.errand && mover.drive == Drive::own && !mover.suspended && !mover.crossing &&
                    !mover.intent.direct &&
                    glm::dot(mover.motion.velocity, wanted) < slow_part * glm::dot(wanted, wanted) &&
                    mover.errand->goal();
  const auto known = slow_.find(slot);
  const bool for_long = slow && mover.slow;  // at two checks in a row
  mover.slow = slow;
  if (!for_long) {
    if (known != slow_.end()) slow_.erase(known);
    if (!state_.avoids) go_on_from_deck(slot);
    return;
  }
  // For errands with a moving target, movement counts.
  const auto left = mover.errand->left(orders_.view_of(slot, mover.motion));
  const Slow now{.left = left.value_or(-static_cast<float>(mover.metres)),
                 .seconds = 0.f,
                 .order = state_.npcs.state(slot).serial,
                 .goal = *mover.errand->goal()};
  if (known == slow_.end() || known->second.order != now.order ||
      (left && glm::distance(known->second.goal, now.goal) > another_goal)) {
    slow_.insert_or_assign(slot, now);
    return;
  }
  Slow& headway = known->second;
  headway.seconds += every;
  const float gained = headway.left - now.left, before = headway.seconds - every;
  const float speed = glm::length(wanted);
  // The time to turn and to accelerate comes on top.
  const Gait& gait = mover.traits->gait;
  const float patience = orders_.patience(slot),
              setting_out = pi / gait.turn_rate + slow_part * speed / gait.acceleration;
  const auto deck = mover.aboard ? state_.decks.moving_deck(mover.motion.position) : std::nullopt;
  if (gained < -another_way || gained >= headway_part * speed * headway.seconds) {
    headway = now;
  } else if (state_.avoids && crowd_.crowded(slot)) {
    headway.seconds = before;
  } else if (deck) {
    hold_on_deck(slot, *deck, every);
  } else if (headway.seconds >= setting_out + patience) {
    slow_.erase(known);  // the next order starts with full patience
    end_as_stuck(slot, Cause::no_progress);
  } else if (const float replan = setting_out + replan_part * patience;
             headway.seconds >= replan && before < replan) {
    ++mover.jumps;
    state_.take({.event = Event::replans,
                 .who = {slot, mover.generation},
                 .value = headway.seconds,
                 .time = state_.clock.time});
  }
}

/// Records once that a deck holds up an NPC whose route leads off it. In worlds with avoidance `report_jam`
/// does.
void Headway::hold_on_deck(std::uint32_t slot, NpcId deck, float seconds) {
  Mover& mover = state_.npcs[slot];
  if (state_.avoids) return;
  mover.held += seconds;
  if (mover.told_held || mover.held < orders_.patience(slot)) return;
  mover.told_held = true;
  state_.take({.event = Event::held_up,
               .who = {slot, mover.generation},
               .whom = deck,
               .value = mover.held,
               .where = mover.motion.position,
               .time = state_.clock.time});
}

void Headway::go_on_from_deck(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  const float held = std::exchange(mover.held, 0.f);
  if (!mover.told_held) return;
  mover.told_held = false;
  state_.take({.event = Event::goes_on,
               .who = {slot, mover.generation},
               .value = held,
               .where = mover.motion.position,
               .time = state_.clock.time});
}

}  // namespace ambulon
