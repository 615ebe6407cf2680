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
      patience_(Range{0.1f, durations.most}.holds(options.patience) ? options.patience
                                                                    : WorldOptions{}.patience),
      journal_(options.journal, options.memory),
      surroundings_(options.memory),
      decks_(options.memory),
      movers_(options.memory),
      cards_(options.memory),
      free_(options.memory),
      removed_(options.memory),
      unfinished_(options.memory),
      next_unfinished_(options.memory),
      scripted_(options.memory),
      ended_(options.memory),
      telling_(options.memory),
      acts_(options.memory),
      telling_acts_(options.memory),
      dismissed_(options.memory),
      words_(options.memory),
      raised_(options.memory),
      heard_(options.memory),
      tags_(options.memory),
      ground_revision_(ground_->revision()) {}

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
  const auto spot = options.body.deck.x > 0.f && finite(options.at)
                        ? options.at
                        : spot_for(options.at, options.body.radius);
  if (!spot) return tl::unexpected(spot.error());

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
  mover.motion.position = *spot;
  mover.motion.facing = unit(options.heading);
  mover.was = flat(*spot);
  mover.run_speed = run_speed(options.body);
  mover.gait = options.gait;
  mover.drive = options.drive;
  mover.alive = true;
  ++alive_;
  if (mover.drive == Drive::advised) ++advised_;

  const NpcId id{slot, mover.generation};
  surroundings_.appear({.id = id,
                        .position = mover.motion.position,
                        .facing = mover.motion.facing,
                        .radius = options.body.radius,
                        .tags = options.tags});
  if (options.body.deck.x > 0.f && options.body.deck.y > 0.f) decks_.add(id, options.body.deck, mover.motion);
  take({.event = Event::appeared, .who = id, .where = mover.motion.position, .time = time_});
  return Npc(*this, id);
}

/// The spot for somebody who is put at `at`, at most `reach` metres off; or the problem.
Expected<vec3> World::spot_for(vec3 at, float reach) const {
  const Snap snap = ground_->snap(at, reach);
  if (!snap.found) return problem(fmt::format("({}, {}, {}) is no place on the ground", at.x, at.y, at.z));
  if (!snap)
    return problem(
        fmt::format("({:.2f}, {:.2f}) is off the ground; the nearest spot is ({:.2f}, {:.2f}), {:.2f} m off",
                    at.x, at.y, snap.spot.position.x, snap.spot.position.y, snap.off));
  return snap.spot.position;
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
  surroundings_.vanish(id);
  decks_.remove(id);
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
  mover.deadline = std::numeric_limits<double>::infinity();
  cards_[id.slot].on_act = nullptr;
  if (mover.errand->leader().generation != 0) surroundings_.join(mover.errand->leader(), id);
  const std::uint32_t serial = ++cards_[id.slot].serial;
  const auto goal = mover.errand->goal();
  take({.event = Event::ordered,
        .number = goal ? 1U : 0U,
        .who = id,
        .whom = mover.errand->target(),
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
  if (mover.errand->leader().generation != 0) surroundings_.leave(mover.errand->leader(), id);
  if (outcome.ending == Ending::arrived && mover.errand->name() != "patrol") ++card.arrivals;
  ++card.endings[static_cast<std::size_t>(outcome.ending)];
  card.ended = outcome;
  card.ended_serial = card.serial;
  if (card.on_end) ended_.push_back({Npc(*this, id), outcome, std::exchange(card.on_end, nullptr)});
  mover.errand.reset();
}

void World::take(const Note& note) {
  if (note.event == Event::reached || note.event == Event::visited) ++cards_[note.who.slot].arrivals;
  if ((note.event == Event::came_near || note.event == Event::went_apart) && cards_[note.who.slot].on_act)
    acts_.push_back({Npc(*this, note.who), Npc(*this, note.whom), note.event == Event::came_near});
  journal_.write(note);
}

void World::halt(std::uint32_t slot, bool halted) {
  Mover& mover = movers_[slot];
  if (mover.halted == halted) return;
  mover.halted = halted;
  take({.event = halted ? Event::halted : Event::resumed,
        .who = {slot, mover.generation},
        .where = mover.motion.position,
        .time = time_});
}

Expected<vec3> World::put(std::uint32_t slot, vec3 at) {
  Mover& mover = movers_[slot];
  const auto spot = spot_for(at, cards_[slot].body.radius);
  if (!spot) return tl::unexpected(spot.error());
  mover.motion.position = *spot;
  mover.motion.velocity = vec2(0.f);
  mover.was = flat(*spot);
  mover.intent = {};
  ++mover.jumps;
  cards_[slot].reported = *spot;
  cards_[slot].advised_velocity = vec2(0.f);
  cards_[slot].watch = {};
  take({.event = Event::put_elsewhere, .who = {slot, mover.generation}, .where = *spot, .time = time_});
  return spot;
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
  carry();
  time_ = tick_end_;
  tell();
  carry();
  ticking_ = false;
  tidy();
  ++ticks_;
  last_seconds_ = seconds;
  return time_;
}

/// Reads what the game reported of the bodies it moves, and looks where everybody is.
void World::sense() {
  ground_revision_ = ground_->revision();
  take_reports();
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot)
    if (movers_[slot].alive) surroundings_.see(slot, movers_[slot].motion);
  surroundings_.begin_tick();
}

void World::take_reports() {
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
    if (card.watch.held_for() > 0.f) card.held_seconds += last_seconds_;
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
    mover.intent = {.direct = mover.intent.direct};  // what was moved directly stands at once
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
          .revision = ground_revision_ + mover.jumps,
          .others = surroundings_,
          .heard = heard_,
          .random = cards_[slot].random,
          .notes = *this,
          .time = moment(slot),
          .patience = patience_,
          .held_for = mover.drive == Drive::advised ? cards_[slot].watch.held_for() : 0.f};
}

/// Asks the errand what to do for the coming seconds; false when it ended instead.
bool World::ask(std::uint32_t slot, float seconds) {
  Mover& mover = movers_[slot];
  if (mover.halted) {
    mover.intent = {.facing = mover.motion.facing, .direct = mover.intent.direct};
    return true;
  }
  const auto left = static_cast<float>(mover.deadline - moment(slot));  // seconds
  if (left <= no_time) {
    finish(slot, {.ending = Ending::timed_out, .cause = Cause::time_up, .value = cards_[slot].time_limit});
    return false;
  }
  const Step step = mover.drive == Drive::own ? mover.errand->step(view_of(slot, mover.motion), seconds)
                                              : mover.errand->step(view_of(slot, seen_motion(slot)), seconds);
  mover.was = flat(mover.motion.position);
  mover.intent = step.intent;
  mover.intent.lasts = std::min(mover.intent.lasts, left);
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
    // A way keeps to the ground by itself; whoever steers freely is held to it.
    if (mover.intent.edge_radius < 0.f && !mover.intent.direct && !mover.aboard) keep_on_ground(mover, from);
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

/// Where the ground ended on the way just gone, goes along its edge instead.
void World::keep_on_ground(Mover& mover, vec3 from) const {
  const vec2 way = flat(mover.motion.position - from);
  if (way == vec2(0.f)) return;
  const Snap start = ground_->snap(from, 0.01f);
  if (!start) return;  // it stands on something else
  const Stretch stretch = ground_->straight(start.spot, way);
  if (stretch.free) return;
  const auto along_edge = [&](vec2 v) {
    return v - std::min(0.f, glm::dot(v, stretch.inward)) * stretch.inward;
  };
  const vec2 left = along_edge(way - flat(stretch.end.position - from));
  mover.motion.position = ground_->straight(stretch.end, left).end.position;
  mover.motion.velocity = along_edge(mover.motion.velocity);
}

/// Takes along whoever stands on a deck that has moved.
void World::carry() {
  if (decks_.empty()) return;
  decks_.carry(
      surroundings_, [this](NpcId id) -> const Motion& { return movers_[id.slot].motion; },
      [this](NpcId who, const Decks::Ride& ride) {
        Mover& mover = movers_[who.slot];
        if (mover.drive == Drive::advised) return;  // its body is the game's to move
        mover.motion.position = ride.moved(mover.motion.position);
        mover.motion.facing = ride.turned(mover.motion.facing);
        mover.was = flat(ride.moved(lift(mover.was)));
      },
      [this](NpcId who, NpcId deck, bool on) {
        if (!knows(who)) return;
        movers_[who.slot].aboard = on;
        take({.event = on ? Event::boarded : Event::left_deck, .who = who, .whom = deck, .time = time_});
      });
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
  std::swap(acts_, telling_acts_);
  for (const Act& act : telling_acts_) call_back(act);
  telling_acts_.clear();
  std::swap(ended_, telling_);
  for (Ended& ended : telling_) ended.on_end(ended.npc, ended.outcome);
  telling_.clear();
}

void World::call_back(const Act& act) {
  if (!act.npc.alive()) return;
  const std::uint32_t slot = act.npc.id().slot, serial = cards_[slot].serial;
  // It may give another order, and with it do away with itself.
  auto on_act = std::exchange(cards_[slot].on_act, nullptr);
  if (!on_act) return;
  on_act(act.npc, act.whom, act.near);
  if (act.npc.alive() && cards_[slot].serial == serial && !cards_[slot].on_act)
    cards_[slot].on_act = std::move(on_act);
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

Expected<Tags> World::tag(std::string_view word) {
  const auto known = std::ranges::find(tags_, word);
  const auto bit = static_cast<std::size_t>(known - tags_.begin());
  if (known == tags_.end()) {
    if (bit == 64)
      return problem(fmt::format("the tag \"{}\" would be the 65th; a world has 64 at the most", word));
    tags_.emplace_back(word);
  }
  return Tags{std::uint64_t{1} << bit};
}

std::string World::name_of(NpcId id) const {
  if (id.generation == 0) return {};
  if (id.slot < cards_.size() && cards_[id.slot].named_generation == id.generation &&
      !cards_[id.slot].name.empty())
    return std::string(cards_[id.slot].name);
  return fmt::format("npc {}.{}", id.slot, id.generation);
}

std::string World::sentence(const Note& note, std::string_view place) const {
  const std::string name = name_of(note.who), whom = name_of(note.whom);
  const bool nowhere = note.event == Event::ordered && note.number == 0;
  if (!place.empty() || nowhere) return ambulon::sentence(note, name, whom, nowhere ? "" : place);
  return ambulon::sentence(note, name, whom, fmt::format("({:.2f}, {:.2f})", note.where.x, note.where.y));
}

}  // namespace ambulon
