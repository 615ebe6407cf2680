// Detects orders without progress. The route is planned again, and if that does not help, the order ends as
// stuck.

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "base/geometry.hpp"
#include "world/world_impl.hpp"

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

/// Watches a game-driven body: plans its route again, then steps aside, then ends its order.
void World::Impl::watch_headway(std::uint32_t slot, vec2 advised, vec2 gone) {
  Mover& mover = movers_[slot];
  Advised& body = of(advised_, slot);
  const vec2 forward = direction(mover.intent.velocity);  // of the previous tick, to which the report belongs
  const float meant = glm::dot(advised, forward);
  if (meant <= 0.f || time_ < body.side_step_until) return;
  const NpcId who{slot, mover.generation};
  float gained = glm::dot(gone, forward);
  const float before = std::exchange(
      body.left,
      mover.errand->left(view_of(slot, mover.motion)).value_or(std::numeric_limits<float>::infinity()));
  if (std::isfinite(before) && std::isfinite(body.left) && before - body.left > -another_way)
    gained = before - body.left;
  const float patience = this->patience(slot);
  switch (body.progress.see(gained, meant, last_seconds_, patience)) {
    case ProgressWatch::Verdict::fine:
      return;
    case ProgressWatch::Verdict::replan:
      ++mover.jumps;
      return take(
          {.event = Event::replans, .who = who, .value = body.progress.slow_for(patience), .time = time_});
    case ProgressWatch::Verdict::side_step:
      body.side_step =
          mover.traits->gait.speed * freer_side(*ground_, mover.motion.position, mover.traits->body, forward);
      body.side_step_until = time_ + side_step_part * patience;
      return take(
          {.event = Event::side_steps, .who = who, .value = body.progress.slow_for(patience), .time = time_});
    case ProgressWatch::Verdict::stuck:
      break;
  }
  body.progress = {};  // the next order starts with full patience
  end_as_stuck(slot, body.watch.held_for() > 0.f ? Cause::held_fast : Cause::no_progress);
}

void World::Impl::end_as_stuck(std::uint32_t slot, Cause cause) {
  Mover& mover = movers_[slot];
  mover.left = static_cast<float>(tick_end_ - time_);
  const Outcome why{
      .ending = Ending::stuck, .cause = cause, .value = patience(slot), .where = mover.motion.position};
  if (!mover.errand->give_up(view_of(slot, mover.motion), why)) finish(slot, why);
}

/// Checks the NPCs that Ambulon moves, a part of them in each tick.
void World::Impl::watch_walkers() {
  const auto ticks = static_cast<std::uint32_t>(
      std::clamp(std::lround(look_part * min_patience_ / tick_seconds_), 1L, 1'000'000L));
  const auto turn = static_cast<std::uint32_t>(ticks_ % ticks);
  for (const std::uint32_t slot : surroundings_.awake())
    if (slot % ticks == turn) watch_walker(slot, static_cast<float>(ticks) * tick_seconds_);
}

/// Headway means that the rest of the route becomes shorter. Movement alone does not count, since a body may
/// slide along a wall. Without headway the route is planned again, and the order ends when the patience is
/// used up. While other NPCs are near, the order waits instead, and `report_jam` records it; on a moving deck
/// it waits, too.
void World::Impl::watch_walker(std::uint32_t slot, float every) {
  Mover& mover = movers_[slot];
  const vec2 wanted = mover.wanted;
  const bool slow = mover.errand && mover.drive == Drive::own && !mover.suspended && !mover.crossing &&
                    !mover.intent.direct &&
                    glm::dot(mover.motion.velocity, wanted) < slow_part * glm::dot(wanted, wanted) &&
                    mover.errand->goal();
  const auto known = headways_.find(slot);
  const bool for_long = slow && mover.slow;  // at two checks in a row
  mover.slow = slow;
  if (!for_long) {
    if (known != headways_.end()) headways_.erase(known);
    if (!avoid_) go_on_from_deck(slot);
    return;
  }
  // For errands with a moving target, movement counts.
  const auto left = mover.errand->left(view_of(slot, mover.motion));
  const Headway now{.left = left.value_or(-static_cast<float>(mover.metres)),
                    .seconds = 0.f,
                    .order = npc_states_[slot].serial,
                    .goal = *mover.errand->goal()};
  if (known == headways_.end() || known->second.order != now.order ||
      (left && glm::distance(known->second.goal, now.goal) > another_goal)) {
    headways_.insert_or_assign(slot, now);
    return;
  }
  Headway& headway = known->second;
  headway.seconds += every;
  const float gained = headway.left - now.left, before = headway.seconds - every;
  const float speed = glm::length(wanted);
  // Slow gaits get additional time to turn and to accelerate.
  const Gait& gait = mover.traits->gait;
  const float patience = this->patience(slot) + pi / gait.turn_rate + slow_part * speed / gait.acceleration;
  const auto deck = mover.aboard ? decks_.moving_deck(mover.motion.position) : std::nullopt;
  if (gained < -another_way || gained >= headway_part * speed * headway.seconds) {
    headway = now;
  } else if (avoid_ && crowded(slot)) {
    headway.seconds = before;
  } else if (deck) {
    hold_on_deck(slot, *deck, every);
  } else if (headway.seconds >= patience) {
    headways_.erase(known);  // the next order starts with full patience
    end_as_stuck(slot, Cause::no_progress);
  } else if (headway.seconds >= replan_part * patience && before < replan_part * patience) {
    ++mover.jumps;
    take({.event = Event::replans, .who = {slot, mover.generation}, .value = headway.seconds, .time = time_});
  }
}

/// Records once that a deck holds up an NPC whose route leads off it. In worlds with avoidance `report_jam`
/// does.
void World::Impl::hold_on_deck(std::uint32_t slot, NpcId deck, float seconds) {
  Mover& mover = movers_[slot];
  if (avoid_) return;
  mover.held += seconds;
  if (mover.told_held || mover.held < patience(slot)) return;
  mover.told_held = true;
  take({.event = Event::held_up,
        .who = {slot, mover.generation},
        .whom = deck,
        .value = mover.held,
        .where = mover.motion.position,
        .time = time_});
}

void World::Impl::go_on_from_deck(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  const float held = std::exchange(mover.held, 0.f);
  if (!mover.told_held) return;
  mover.told_held = false;
  take({.event = Event::goes_on,
        .who = {slot, mover.generation},
        .value = held,
        .where = mover.motion.position,
        .time = time_});
}

}  // namespace ambulon
