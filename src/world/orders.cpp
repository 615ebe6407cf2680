#include "world/orders.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_names = 256;  // distinct names of errands

}  // namespace

Orders::Orders(WorldState& state, LevelOfDetail& detail, Locomotion& locomotion, std::uint64_t route_work)
    : state_(state),
      detail_(detail),
      locomotion_(locomotion),
      route_work_(route_work),
      routes_(state.memory),
      time_limits_(&state.pool),
      patiences_(&state.pool),
      min_patience_(state.patience),
      ends_(&state.pool),
      errand_names_(state.memory) {}

Order Orders::start(NpcId id, ErrandPtr errand) {
  if (!state_.npcs.knows(id)) return {state_.world, id, 0};
  Mover& mover = state_.npcs[id.slot];
  if (mover.errand)
    finish(id.slot,
           {.ending = Ending::replaced, .cause = Cause::new_order, .subject = lasting_name(errand->name())});
  mover.errand = errand.release();
  state_.mark_fresh(id.slot);
  mover.was = flat(mover.motion.position);
  mover.limited = mover.patient = mover.displaced = false;
  state_.callbacks.order_begins(id.slot);
  // An order given by another NPC's callback begins at that moment.
  if (state_.clock.ticking)
    mover.left = std::min(mover.left, static_cast<float>(state_.clock.tick_end - state_.clock.called_at));
  if (mover.drive == Drive::advised) {
    Advised& body = locomotion_.advised(id.slot);
    body.progress = {};
    body.side_step_until = 0;
  }
  if (mover.errand->leader().generation != 0) state_.surroundings.join(mover.errand->leader(), id);
  const std::uint32_t serial = ++state_.npcs.state(id.slot).serial;
  const auto goal = mover.errand->goal();
  state_.take({.event = Event::ordered,
               .number = goal ? 1U : 0U,
               .who = id,
               .whom = mover.errand->target(),
               .where = goal.value_or(vec3(0.f)),
               .errand = lasting_name(mover.errand->name()),
               .time = state_.moment(id.slot)});
  if (mover.drive == Drive::reported) finish(id.slot, refusal(Cause::takes_no_orders));
  return {state_.world, id, serial};
}

void Orders::finish(std::uint32_t slot, Outcome outcome) {
  Mover& mover = state_.npcs[slot];
  const NpcId id{slot, mover.generation};
  state_.take({.event = Event::ended,
               .who = id,
               .errand = lasting_name(mover.errand->name()),
               .outcome = outcome,
               .time = state_.moment(slot)});
  if (mover.errand->leader().generation != 0) state_.surroundings.leave(mover.errand->leader(), id);
  if (outcome.ending == Ending::arrived && mover.errand->name() != "patrol")
    ++state_.npcs.state(slot).arrivals;
  // Direct motion may be faster than the gait allows: the next order starts with at most the gait's speed.
  if (const float speed = mover.motion.speed(); mover.intent.direct && speed > mover.traits->gait.speed)
    mover.motion.velocity *= mover.traits->gait.speed / speed;
  Ends& ends = ends_[slot];
  ends.last = outcome;
  ends.serial = state_.npcs.state(slot).serial;
  ++ends.counts[static_cast<std::size_t>(outcome.ending)];
  state_.callbacks.order_ends(slot, outcome);
  destroy_errand(mover);
  mover.fresh = true;
}

void Orders::destroy_errand(Mover& mover) {
  if (mover.errand != nullptr) ErrandReturn{&state_.pool}(std::exchange(mover.errand, nullptr));
}

void Orders::suspend(std::uint32_t slot, bool suspended) {
  Mover& mover = state_.npcs[slot];
  if (mover.suspended == suspended) return;
  mover.suspended = suspended;
  state_.mark_fresh(slot);
  state_.take({.event = suspended ? Event::suspended : Event::resumed,
               .who = {slot, mover.generation},
               .where = mover.motion.position,
               .time = state_.clock.now()});
}

void Orders::remove(std::uint32_t slot) {
  time_limits_.erase(slot);
  patiences_.erase(slot);
  ends_.erase(slot);
}

const Orders::Ends* Orders::ends(std::uint32_t slot) const {
  const auto ends = ends_.find(slot);
  return ends != ends_.end() ? &ends->second : nullptr;
}

void Orders::set_time_limit(std::uint32_t slot, float seconds) {
  state_.npcs[slot].limited = true;
  time_limits_[slot] = {.deadline = state_.clock.time + seconds, .seconds = seconds};
}

void Orders::set_patience(std::uint32_t slot, float seconds) {
  state_.npcs[slot].patient = true;
  patiences_[slot] = seconds;
  heed_patience(seconds);
}

float Orders::patience(std::uint32_t slot) const {
  const Mover& mover = state_.npcs[slot];
  if (mover.patient) return value_of(patiences_, slot);
  return mover.traits->gait.patience > 0.f ? mover.traits->gait.patience : state_.patience;
}

/// Returns the seconds until the time limit of its order.
float Orders::time_left(std::uint32_t slot) const {
  if (!state_.npcs[slot].limited) return std::numeric_limits<float>::infinity();
  return static_cast<float>(value_of(time_limits_, slot).deadline - state_.moment(slot));
}

/// Returns the seconds of this tick until its next decision.
float Orders::until_asked(std::uint32_t slot) const {
  const Mover& mover = state_.npcs[slot];
  const auto later = static_cast<std::uint32_t>(state_.clock.ticks) + 1 < mover.ask_at
                         ? mover.ask_at - static_cast<std::uint32_t>(state_.clock.ticks) - 1
                         : 0U;
  return mover.left + static_cast<float>(later) * state_.clock.seconds;
}

Orders::Asked Orders::try_keep_on(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  mover.left = state_.clock.seconds;
  mover.waits = mover.alone = false;
  mover.asked = mover.fresh || mover.ask_at <= state_.clock.ticks || mover.intent.direct ||
                mover.drive != Drive::own ||
                !state_.signals.heard().empty();  // all listen, in the tick of the signal
  if (!mover.asked) return Asked::no;
  const bool keeps_on = !mover.fresh && !mover.suspended && !mover.pushed && mover.drive == Drive::own &&
                        mover.errand && !mover.crossing;
  mover.fresh = false;
  mover.ask_at = static_cast<std::uint32_t>(state_.clock.ticks) + detail_.ticks_between(slot);
  mover.intent = {.direct = mover.intent.direct};  // direct motion stops at once
  mover.wanted = vec2(0.f);
  const float left = time_left(slot);
  if (!keeps_on || left <= no_time) return Asked::next;
  const auto intent = mover.errand->keep_on(view_of(slot, mover.motion), until_asked(slot));
  if (!intent) return Asked::next;
  set_intent(mover, *intent, left);
  return Asked::keeps_on;
}

/// Sets the intent for as long as it lasts, at most `left` seconds.
void Orders::set_intent(Mover& mover, const Intent& intent, float left) {
  mover.was = flat(mover.motion.position);
  mover.intent = intent;
  mover.intent.lasts = std::min(mover.intent.lasts, left);
  mover.wanted = mover.intent.velocity;
}

bool Orders::ask(std::uint32_t slot) {
  Mover& mover = state_.npcs[slot];
  const float left = time_left(slot);
  if (left <= no_time) {
    finish(slot, {.ending = Ending::timed_out,
                  .cause = Cause::time_up,
                  .value = value_of(time_limits_, slot).seconds});
    return false;
  }
  if (mover.pushed) locomotion_.carry_push(slot);
  if (mover.pushed) return true;
  if (mover.suspended) {
    mover.intent = {.facing = mover.motion.facing, .lasts = left, .direct = mover.intent.direct};
    return true;
  }
  if (mover.drive == Drive::advised)
    if (const Advised& body = locomotion_.advised(slot); state_.clock.time < body.side_step_until) {
      mover.intent = {.velocity = body.side_step};
      return true;
    }
  const Motion me = mover.drive == Drive::own ? mover.motion : locomotion_.seen_motion(slot);
  const Step step = mover.errand->step(view_of(slot, me), until_asked(slot));
  set_intent(mover, step.intent, left);
  if (mover.intent.crosses) locomotion_.start_crossing(slot);
  if (!step.ended) return true;
  finish(slot, *step.ended);
  return false;
}

bool Orders::ask_with_routes(std::uint32_t slot) {
  if (!ask(slot)) return false;
  return routes_.serve(state_.ground, state_.moment(slot)).empty() || ask(slot);
}

View Orders::view_of(std::uint32_t slot, const Motion& me) {
  Mover& mover = state_.npcs[slot];
  const bool avoids = state_.avoids && mover.traits->avoidance.takes_part && mover.drive == Drive::own;
  return {.who = {slot, mover.generation},
          .me = me,
          .was = mover.was,
          .body = mover.traits->body,
          .gait = mover.traits->gait,
          .ground = state_.ground,
          .ground_revision = state_.ground_revision,
          .jumps = mover.jumps,
          .others = state_.surroundings,
          .heard = state_.signals.heard(),
          .random = state_.npcs.state(slot).random,
          .arc = locomotion_.planned_arc(),
          .notes = state_,
          .memory = &state_.pool,
          .time = state_.moment(slot),
          .avoids = avoids,
          .oncoming = avoids && mover.oncoming,
          .keeps_left = mover.traits->avoidance.side < 0.f,
          .held = mover.held,
          .patience = patience(slot),
          .routes = &routes_,
          .route_priority = mover.route_priority()};
}

/// Returns a copy of the name that lives as long as the world. The journal needs it, and an errand of the
/// game may own its name.
std::string_view Orders::lasting_name(std::string_view name) {
  if (const auto known = std::ranges::find(errand_names_, name); known != errand_names_.end()) return *known;
  if (errand_names_.size() >= max_names) return "errand";
  return errand_names_.emplace_back(name);
}

}  // namespace ambulon
