#include "ambulon/world/world.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace ambulon {
namespace {

constexpr float no_time = 1e-6f;     // seconds: a rest of a tick not worth going on with
constexpr int orders_in_a_tick = 8;  // a script whose orders take no time goes on in the next tick
constexpr float moving = 0.02f;      // metres per second

/// Errands lie anywhere in the pool, so they are called into the cache some NPCs before their turn.
constexpr std::uint32_t errands_ahead = 8;
void fetch(const Errand* errand) {
  if (errand == nullptr) return;
  const auto* place = reinterpret_cast<const char*>(errand);
  for (const std::ptrdiff_t line : {0, 64, 128}) __builtin_prefetch(place + line, 1);
}

}  // namespace

World::World(const WorldOptions& options)
    : pool_(options.memory),
      ground_(options.ground != nullptr ? options.ground : &open_),
      seed_(options.seed),
      patience_(options.patience),
      journal_(options.journal, options.memory),
      movers_(options.memory),
      cards_(options.memory),
      free_(options.memory),
      removed_(options.memory),
      unfinished_(options.memory),
      next_unfinished_(options.memory),
      scripted_(options.memory),
      ended_(options.memory),
      telling_(options.memory),
      dismissed_(options.memory),
      words_(options.memory),
      raised_(options.memory),
      heard_(options.memory) {}

World::~World() {
  // Scripts take back their orders as they go, so they go while everything else still stands.
  for (Card& card : cards_) card.script.reset();
  dismissed_.clear();
}

// --- NPCs come and go -------------------------------------------------------------------------

Expected<Npc> World::add(const NpcOptions& options) {
  if (auto body = checked(options.body); !body) return tl::unexpected(body.error());
  if (auto gait = checked(options.gait); !gait) return tl::unexpected(gait.error());
  if (!std::isfinite(options.heading)) return problem("the heading is not a finite number");
  const Snap snap = ground_->snap(options.at, options.body.radius);
  if (!snap.found)
    return problem(
        fmt::format("({}, {}, {}) is no place on the ground", options.at.x, options.at.y, options.at.z));
  if (!snap)
    return problem(
        fmt::format("({:.2f}, {:.2f}) is off the ground; the nearest spot is ({:.2f}, {:.2f}), {:.2f} m off",
                    options.at.x, options.at.y, snap.spot.position.x, snap.spot.position.y, snap.off));

  std::uint32_t slot = 0;
  if (free_.empty()) {
    slot = static_cast<std::uint32_t>(movers_.size());
    movers_.emplace_back();
    cards_.emplace_back(cards_.get_allocator().resource());
  } else {
    slot = free_.back();
    free_.pop_back();
    const std::uint32_t generation = movers_[slot].generation;
    movers_[slot] = Mover{};
    movers_[slot].generation = generation;
    cards_[slot] = Card(cards_.get_allocator().resource());
  }

  Mover& mover = movers_[slot];
  Card& card = cards_[slot];
  card.named_generation = ++mover.generation;
  card.name = options.name;
  card.random = Random(seed_, ++appeared_);

  card.body = options.body;
  mover.motion.position = snap.spot.position;
  mover.motion.facing = unit(options.heading);
  mover.was = flat(snap.spot.position);
  mover.run_speed = run_speed(options.body);
  mover.gait = options.gait;
  mover.drive = options.drive;
  mover.alive = true;
  ++alive_;
  if (mover.drive == Drive::advised) ++advised_;

  const NpcId id{slot, mover.generation};
  take({.event = Event::appeared, .who = id, .where = mover.motion.position, .time = time_});
  return Npc(*this, id);
}

void World::remove(NpcId id) {
  if (!knows(id)) return;
  const std::uint32_t slot = id.slot;
  if (movers_[slot].errand) finish(slot, {.ending = Ending::gone, .cause = Cause::npc_removed});
  take({.event = Event::removed, .who = id, .where = movers_[slot].motion.position, .time = time_});
  movers_[slot].alive = false;
  ++movers_[slot].generation;
  --alive_;
  if (movers_[slot].drive == Drive::advised) --advised_;
  dismiss_script(slot);
  removed_.push_back(slot);
  if (!ticking_) tidy();
}

bool World::knows(NpcId id) const {
  return id.slot < cards_.size() && movers_[id.slot].alive && movers_[id.slot].generation == id.generation;
}

Npc World::find(std::string_view name) {
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot)
    if (movers_[slot].alive && cards_[slot].name == name) return {*this, {slot, movers_[slot].generation}};
  return {};
}

// --- Orders begin and end ---------------------------------------------------------------------

Order World::start(NpcId id, ErrandPtr errand) {
  if (!knows(id)) return {this, id, 0};
  Mover& mover = movers_[id.slot];
  if (mover.errand)
    finish(id.slot, {.ending = Ending::replaced, .cause = Cause::new_order, .subject = errand->name()});
  mover.errand = std::move(errand);
  mover.was = flat(mover.motion.position);
  const std::uint32_t serial = ++cards_[id.slot].serial;
  const auto goal = mover.errand->goal();
  take({.event = Event::ordered,
        .number = goal ? 1U : 0U,
        .who = id,
        .where = goal.value_or(vec3(0.f)),
        .errand = mover.errand->name(),
        .time = moment(id.slot)});
  return {this, id, serial};
}

void World::finish(std::uint32_t slot, Outcome outcome) {
  Mover& mover = movers_[slot];
  Card& card = cards_[slot];
  const NpcId id{slot, mover.generation};
  take({.event = Event::ended,
        .who = id,
        .errand = mover.errand->name(),
        .outcome = outcome,
        .time = moment(slot)});
  if (outcome.ending == Ending::arrived && mover.errand->name() != "patrol") ++card.arrivals;
  ++card.endings[static_cast<std::size_t>(outcome.ending)];
  card.ended = outcome;
  card.ended_serial = card.serial;
  if (card.on_end) ended_.push_back({Npc(*this, id), outcome, std::exchange(card.on_end, nullptr)});
  mover.errand.reset();
}

void World::take(const Note& note) {
  if (note.event == Event::reached) ++cards_[note.who.slot].arrivals;
  journal_.write(note);
}

void World::dismiss_script(std::uint32_t slot) {
  // A script may be dismissed by what it does itself, so it is destroyed when it has returned.
  movers_[slot].scripted = false;
  if (cards_[slot].script) dismissed_.push_back(std::move(cards_[slot].script));
}

// --- The tick ---------------------------------------------------------------------------------

Expected<double> World::tick(float seconds) {
  if (ticking_) return problem("World::tick was called from within a tick; call it from the game's own loop");
  if (seconds <= 0.f || !Range{0.f, 1.f}.holds(seconds))
    return problem(fmt::format(
        "a tick of {} s; it must be above 0 and at most 1: cut longer times into more ticks", seconds));
  ticking_ = true;
  tick_end_ = time_ + seconds;
  std::swap(heard_, raised_);
  raised_.clear();
  sense();
  decide(seconds);
  move();
  time_ = tick_end_;
  tell();
  ticking_ = false;
  tidy();
  ++ticks_;
  last_seconds_ = seconds;
  return time_;
}

/// Reads what the game reported of the bodies it moves.
void World::sense() {
  if (advised_ == 0) return;
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot) {
    Mover& mover = movers_[slot];
    if (!mover.alive || mover.drive != Drive::advised || last_seconds_ == 0.f) continue;
    Card& card = cards_[slot];
    const vec3 from = mover.motion.position;
    if (card.has_report) mover.motion.position = card.reported;
    const vec2 gone = flat(mover.motion.position - from);
    const vec2 advised = last_seconds_ * flat(card.advice.velocity);
    mover.motion.velocity = gone / last_seconds_;
    stride(mover, from, mover.motion.facing, last_seconds_);
    if (auto note = card.watch.see(advised, gone, card.has_report, last_seconds_)) {
      note->who = {slot, mover.generation};
      note->where = mover.motion.position;
      note->time = time_;
      take(*note);
    }
    card.has_report = false;
    if (mover.errand && card.watch.held_for() > patience_) {
      finish(slot, {.ending = Ending::stuck,
                    .cause = Cause::held_fast,
                    .value = card.watch.held_for(),
                    .where = mover.motion.position});
      card.watch = {};  // the next order gets as much patience
    }
  }
}

/// Asks each errand what it wants. Nobody moves meanwhile, so the order of asking does not matter.
void World::decide(float seconds) {
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot) {
    if (slot + errands_ahead < movers_.size()) fetch(movers_[slot + errands_ahead].errand.get());
    Mover& mover = movers_[slot];
    if (!mover.alive) continue;
    mover.left = seconds;
    mover.intent = {};
    mover.waits = mover.errand && !ask(slot, seconds);
    if (mover.waits) unfinished_.push_back(slot);
  }
}

/// Carries out the intents. Whose order has just ended waits: it may get a new one in this tick.
void World::move() {
  scripted_.clear();
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot) {
    if (movers_[slot].scripted) scripted_.push_back(slot);
    if (movers_[slot].alive && !movers_[slot].waits) run(slot);
  }
}

/// The time up to which the NPC has moved: the end of the tick, less what it has left of it.
double World::moment(std::uint32_t slot) const { return tick_end_ - movers_[slot].left; }

/// The motion an errand goes by. Of a body that the game moves it is the velocity that was advised:
/// by the real one, a body held fast would be advised to speed up gently for ever.
Motion World::seen_motion(std::uint32_t slot) const {
  Motion motion = movers_[slot].motion;
  if (movers_[slot].drive == Drive::advised) motion.velocity = cards_[slot].advised_velocity;
  return motion;
}

View World::view_of(std::uint32_t slot, const Motion& me) {
  Mover& mover = movers_[slot];
  return {.who = {slot, mover.generation},
          .me = me,
          .was = mover.was,
          .body = cards_[slot].body,
          .gait = mover.gait,
          .ground = *ground_,
          .heard = heard_,
          .random = cards_[slot].random,
          .notes = *this,
          .time = moment(slot)};
}

/// Asks the errand what to do for the coming seconds; false when it ended instead.
bool World::ask(std::uint32_t slot, float seconds) {
  Mover& mover = movers_[slot];
  const Step step = mover.drive == Drive::own ? mover.errand->step(view_of(slot, mover.motion), seconds)
                                              : mover.errand->step(view_of(slot, seen_motion(slot)), seconds);
  mover.was = flat(mover.motion.position);
  mover.intent = step.intent;
  if (!step.ended) return true;
  finish(slot, *step.ended);
  return false;
}

/// Carries out the NPC's intent, and asks again where it runs out before the tick does.
void World::run(std::uint32_t slot) {
  if (movers_[slot].drive == Drive::advised) return advise(slot);
  for (int part = 0;; ++part) {
    Mover& mover = movers_[slot];
    const vec3 from = mover.motion.position;
    const vec2 faced = mover.motion.facing;
    // However short-lived its intents are, the tick is used up.
    if (part == orders_in_a_tick) mover.intent.lasts = mover.left;
    const float used = advance(mover.motion, mover.gait, mover.intent, mover.left);
    stride(mover, from, faced, used);
    mover.left -= used;
    if (mover.left <= no_time || !mover.errand || part == orders_in_a_tick) break;
    if (!ask(slot, mover.left)) {
      unfinished_.push_back(slot);
      return;
    }
  }
  movers_[slot].left = 0.f;
}

/// Works out what the game's body should do, on a copy of its motion.
void World::advise(std::uint32_t slot) {
  Mover& mover = movers_[slot];
  Motion ghost = seen_motion(slot);
  const float used = advance(ghost, mover.gait, mover.intent, mover.left);
  mover.motion.facing = ghost.facing;
  // Advice holds for the whole tick; where the way ends earlier, it is spread over it.
  const vec3 way = ghost.position - mover.motion.position;
  cards_[slot].advised_velocity = ghost.velocity;
  cards_[slot].advice = {.velocity = way / std::max(used, mover.left), .facing = ghost.facing};
  mover.left = 0.f;
}

/// Counts what was walked and keeps feet and stance in step with it.
void World::stride(Mover& mover, vec3 from, vec2 faced, float seconds) {
  const float metres = glm::length(mover.motion.position - from);
  const float speed = mover.motion.speed();
  if (metres > moving * seconds) {
    mover.metres += metres;
    mover.moving_seconds += seconds;
    mover.top_speed = std::max(mover.top_speed, speed);
  }
  take_stance(mover.motion, mover.gait, mover.run_speed, metres, speed, mover.motion.facing != faced);
}

/// Runs the game's callbacks and scripts, and then gives NPCs the rest of the tick that the end of
/// their order left them. Repeated while orders end, a few times at the most.
void World::tell() {
  for (int round = 0; round < orders_in_a_tick; ++round) {
    std::swap(unfinished_, next_unfinished_);
    unfinished_.clear();
    call_back();
    for (const std::uint32_t slot : round == 0 ? scripted_ : next_unfinished_) proceed(slot);
    for (const std::uint32_t slot : next_unfinished_) {
      Mover& mover = movers_[slot];
      if (!mover.alive || mover.left <= no_time) continue;
      mover.intent = {};
      if (mover.errand && !ask(slot, mover.left))
        unfinished_.push_back(slot);
      else
        run(slot);
    }
    if (unfinished_.empty() && ended_.empty()) break;
  }
  unfinished_.clear();
}

/// Tells whoever asked to be told of the orders that have ended by now.
void World::call_back() {
  std::swap(ended_, telling_);
  for (Ended& ended : telling_) ended.on_end(ended.npc, ended.outcome);
  telling_.clear();
}

void World::proceed(std::uint32_t slot) {
  Script* script = cards_[slot].script.get();
  if (script == nullptr || !script->proceed()) return;
  // It may have handed its NPC to another script before it ended.
  if (cards_[slot].script.get() == script) dismiss_script(slot);
}

/// Destroys what user code may have been standing in, and frees the slots of those removed.
void World::tidy() {
  dismissed_.clear();
  for (const std::uint32_t slot : removed_) {
    movers_[slot].errand.reset();
    free_.push_back(slot);
  }
  removed_.clear();
}

// --- Signals and words ------------------------------------------------------------------------

Signal World::signal_named(std::string_view word) {
  const auto known = std::ranges::find(words_, word);
  const auto number = static_cast<std::uint32_t>(known - words_.begin());
  if (known == words_.end()) words_.emplace_back(word);
  return Signal{number};
}

void World::signal(std::string_view word) {
  const Signal signal = signal_named(word);
  raised_.push_back(signal);
  take({.event = Event::signalled, .errand = words_[static_cast<std::size_t>(signal)], .time = time_});
}

std::string World::sentence(const Note& note, std::string_view place) const {
  const NpcId who = note.who;
  std::string name;
  if (who.slot < cards_.size() && cards_[who.slot].named_generation == who.generation)
    name = cards_[who.slot].name;
  if (name.empty()) name = fmt::format("npc {}.{}", who.slot, who.generation);
  const bool nowhere = note.event == Event::ordered && note.number == 0;
  if (!place.empty() || nowhere) return ambulon::sentence(note, name, nowhere ? "" : place);
  return ambulon::sentence(note, name, fmt::format("({:.2f}, {:.2f})", note.where.x, note.where.y));
}

}  // namespace ambulon
