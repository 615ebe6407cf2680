#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/assert.hpp"
#include "base/geometry.hpp"
#include "base/written.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_names = 256;  // distinct names of errands
constexpr float longest_push = 60.f;    // seconds

// blocks: larger chunks, or chunks that double, would leave much memory unused
constexpr std::size_t pool_chunk = 32;

}  // namespace

World::Impl::Impl(World& world, const WorldOptions& options)
    : world_(world),
      pool_({.max_blocks_per_chunk = pool_chunk, .largest_required_pool_block = 0}, options.memory),
      ground_(options.ground != nullptr ? options.ground : &open_),
      seed_(options.seed),
      patience_(allowed::patiences.holds(options.patience) ? options.patience : WorldOptions{}.patience),
      avoid_(options.avoid),
      jobs_(options.jobs),
      route_work_(options.route_work),
      journal_(options.journal, options.memory),
      routes_(options.memory),
      movers_(options.memory),
      surroundings_(movers_, jobs_, options.memory),
      decks_(options.memory),
      npc_states_(options.memory),
      traits_pool_(&pool_),
      names_(&pool_),
      advised_(&pool_),
      headways_(&pool_),
      flights_(&pool_),
      callbacks_(&pool_),
      touches_(&pool_),
      pushes_(&pool_),
      removals_(&pool_),
      user_data_(options.memory),
      jumped_at_(options.memory),
      earlier_(options.memory),
      held_since_(&pool_),
      time_limits_(&pool_),
      patiences_(&pool_),
      ends_(&pool_),
      scripts_(&pool_),
      free_(options.memory),
      removed_(options.memory),
      unfinished_(options.memory),
      next_unfinished_(options.memory),
      scripted_(options.memory),
      waking_(options.memory),
      tired_(options.memory),
      marks_(options.memory),
      viewers_(options.memory),
      ended_(options.memory),
      telling_(options.memory),
      acts_(options.memory),
      telling_acts_(options.memory),
      contacts_(options.memory),
      telling_contacts_(options.memory),
      removed_npcs_(options.memory),
      telling_removed_(options.memory),
      dismissed_(options.memory),
      dismissed_callbacks_(&pool_),
      dismissed_touches_(&pool_),
      dismissed_removals_(&pool_),
      signal_names_(options.memory),
      errand_names_(options.memory),
      raised_(options.memory),
      heard_(options.memory),
      tags_(options.memory),
      overlapping_(options.memory),
      separations_(options.memory),
      ground_revision_(ground_->revision()),
      convex_(ground_->convex()) {}

void World::Impl::close() {
  AMBULON_ASSERT(!ticking_ && running_ == 0, "a world must not be destroyed by what it calls");
  ++running_;  // destructors may remove NPCs
  // A script cancels its orders as it is destroyed, so scripts are destroyed one by one while the world is
  // complete.
  while (!scripts_.empty()) {
    movers_[scripts_.begin()->first].scripted = false;
    scripts_.extract(scripts_.begin());
  }
  destroy_dismissed();
  // The closures of the game may call the world as they are destroyed. It has no NPCs any more and adds none,
  // so a closure that sets another one comes to an end.
  closed_ = true;
  alive_ = 0;
  for (Mover& mover : movers_) mover.alive = false;
  while (!callbacks_.empty() || !touches_.empty() || !removals_.empty() || !ended_.empty() ||
         !removed_npcs_.empty()) {
    if (!ended_.empty()) {
      const Ended last = std::move(ended_.back());
      ended_.pop_back();
    }
    if (!removed_npcs_.empty()) {
      const Removal last = std::move(removed_npcs_.back());
      removed_npcs_.pop_back();
    }
    if (!removals_.empty()) dismiss(removals_, removals_.begin()->first, dismissed_removals_);
    if (!callbacks_.empty()) dismiss(callbacks_, callbacks_.begin()->first, dismissed_callbacks_);
    if (!touches_.empty()) dismiss(touches_, touches_.begin()->first, dismissed_touches_);
    destroy_dismissed();
  }
  for (Mover& mover : movers_) destroy_errand(mover);
}

// --- NPCs -------------------------------------------------------------------------------------

Expected<Npc> World::Impl::add(const NpcOptions& options) {
  if (closed_) return problem("the world is being destroyed; it takes no more NPCs");
  if (auto body = validate(options.body); !body) return tl::unexpected(body.error());
  if (auto gait = validate(options.gait); !gait) return tl::unexpected(gait.error());
  if (auto avoidance = validate(options.avoidance); !avoidance) return tl::unexpected(avoidance.error());
  if (auto priority = validate_route_priority(options.route_priority); !priority)
    return tl::unexpected(priority.error());
  if (!std::isfinite(options.heading)) return problem("the heading is not a finite number");
  const auto spot = (options.body.deck.x > 0.f || options.drive == Drive::reported) && finite(options.at)
                        ? options.at
                        : spot_for(options.at, options.body);
  if (!spot) return tl::unexpected(spot.error());

  std::uint32_t slot = 0;
  if (free_.empty()) {
    slot = static_cast<std::uint32_t>(movers_.size());
    movers_.emplace_back();
    npc_states_.emplace_back();
  } else {
    slot = free_.back();
    free_.pop_back();
    const std::uint32_t generation = movers_[slot].generation;
    movers_[slot] = Mover{};
    movers_[slot].generation = generation;
    npc_states_[slot] = NpcState{};
    names_.erase(slot);
  }

  Mover& mover = movers_[slot];
  ++mover.generation;
  if (!options.name.empty())
    names_.emplace(slot, Name{mover.generation, std::pmr::string(options.name, &pool_)});
  npc_states_[slot].random = Random(seed_, ++appeared_);
  set_user_data(slot, options.user_data);
  mover.route_priority = static_cast<std::int16_t>(options.route_priority);
  mover.traits = traits_pool_.acquire({options.gait, options.avoidance, options.body, options.tags});
  heed_patience(options.gait.patience);
  mover.motion.position = *spot;
  mover.motion.facing = unit(options.heading);
  mover.was = flat(*spot);
  mover.drive = options.drive;
  mover.alive = true;
  ++alive_;
  if (mover.drive != Drive::own) advised_[slot] = {};

  const NpcId id{slot, mover.generation};
  surroundings_.add(slot);
  if (options.body.deck.x > 0.f && options.body.deck.y > 0.f) decks_.add(id, options.body, mover.motion);
  take({.event = Event::appeared, .who = id, .where = mover.motion.position, .time = now()});
  return Npc(world_, id);
}

Expected<void> World::Impl::validate_route_priority(int priority) {
  if (priority >= -1000 && priority <= 1000) return {};
  return problem(fmt::format("the route priority is {}; it must lie between -1000 and 1000", priority));
}

void World::Impl::reserve(std::size_t npcs) {
  movers_.reserve(npcs);
  npc_states_.reserve(npcs);
  surroundings_.reserve(npcs);
}

/// Returns the spot for an NPC at `at`, at most its radius off; otherwise a problem.
Expected<vec3> World::Impl::spot_for(vec3 at, const Body& body) const {
  const Snap snap = ground_->snap(at, body.radius, body);
  if (!snap.found) return problem(fmt::format("({}, {}, {}) is no place on the ground", at.x, at.y, at.z));
  if (!snap)
    return problem(fmt::format("{} is off the ground; the nearest spot is {}, {:.2f} m off", written(at),
                               written(snap.spot.position), snap.off));
  return snap.spot.position;
}

void World::Impl::remove(NpcId id) {
  if (!knows(id)) return;
  const std::uint32_t slot = id.slot;
  if (movers_[slot].errand) finish(slot, {.ending = Ending::gone, .cause = Cause::npc_removed});
  take({.event = Event::removed, .who = id, .where = movers_[slot].motion.position, .time = now()});
  movers_[slot].alive = false;
  ++movers_[slot].generation;
  --alive_;
  advised_.erase(slot);
  dismiss(callbacks_, slot, dismissed_callbacks_);
  dismiss(touches_, slot, dismissed_touches_);
  if (auto removal = removals_.extract(slot))
    removed_npcs_.push_back({Npc(world_, id), std::move(removal.mapped())});
  pushes_.erase(slot);
  time_limits_.erase(slot);
  patiences_.erase(slot);
  headways_.erase(slot);
  ends_.erase(slot);
  movers_[slot].crossing = false;
  dismiss_script(slot);
  surroundings_.remove(slot);
  for (const NpcId rider : decks_.riders(id))
    if (knows(rider)) leave_removed_deck(rider.slot);
  decks_.remove(id);
  removed_.push_back(slot);
  clean_up_if_idle();
}

bool World::Impl::knows(NpcId id) const {
  return id.slot < npc_states_.size() && movers_[id.slot].alive &&
         movers_[id.slot].generation == id.generation;
}

Npc World::Impl::find(std::string_view name) {
  for (const auto& [slot, named] : names_)
    if (named.text == name && knows({slot, named.generation})) return {world_, {slot, named.generation}};
  return {};
}

// --- Orders -----------------------------------------------------------------------------------

Order World::Impl::start(NpcId id, ErrandPtr errand) {
  if (!knows(id)) return {world_, id, 0};
  Mover& mover = movers_[id.slot];
  if (mover.errand)
    finish(id.slot,
           {.ending = Ending::replaced, .cause = Cause::new_order, .subject = lasting_name(errand->name())});
  mover.errand = errand.release();
  mark_fresh(id.slot);
  mover.was = flat(mover.motion.position);
  mover.limited = mover.patient = false;
  dismiss(callbacks_, id.slot, dismissed_callbacks_);
  // An order given by another NPC's callback begins at that moment.
  if (ticking_) mover.left = std::min(mover.left, static_cast<float>(tick_end_ - now_));
  if (mover.drive == Drive::advised) {
    of(advised_, id.slot).progress = {};
    of(advised_, id.slot).side_step_until = 0;
  }
  if (mover.errand->leader().generation != 0) surroundings_.join(mover.errand->leader(), id);
  const std::uint32_t serial = ++npc_states_[id.slot].serial;
  const auto goal = mover.errand->goal();
  take({.event = Event::ordered,
        .number = goal ? 1U : 0U,
        .who = id,
        .whom = mover.errand->target(),
        .where = goal.value_or(vec3(0.f)),
        .errand = lasting_name(mover.errand->name()),
        .time = moment(id.slot)});
  if (mover.drive == Drive::reported) finish(id.slot, refusal(Cause::takes_no_orders));
  return {world_, id, serial};
}

void World::Impl::finish(std::uint32_t slot, Outcome outcome) {
  Mover& mover = movers_[slot];
  const NpcId id{slot, mover.generation};
  take({.event = Event::ended,
        .who = id,
        .errand = lasting_name(mover.errand->name()),
        .outcome = outcome,
        .time = moment(slot)});
  if (mover.errand->leader().generation != 0) surroundings_.leave(mover.errand->leader(), id);
  if (outcome.ending == Ending::arrived && mover.errand->name() != "patrol") ++npc_states_[slot].arrivals;
  // Direct motion may be faster than the gait allows: the next order starts with at most the gait's speed.
  if (const float speed = mover.motion.speed(); mover.intent.direct && speed > mover.traits->gait.speed)
    mover.motion.velocity *= mover.traits->gait.speed / speed;
  Ends& ends = ends_[slot];
  ends.last = outcome;
  ends.serial = npc_states_[slot].serial;
  ++ends.counts[static_cast<std::size_t>(outcome.ending)];
  if (const auto told = callbacks_.find(slot); told != callbacks_.end()) {
    if (told->second.on_end)
      ended_.push_back({Npc(world_, id), outcome, std::exchange(told->second.on_end, nullptr)});
    callbacks_over_ = true;
  }
  destroy_errand(mover);
  mover.fresh = true;
}

/// Destroys its errand.
void World::Impl::destroy_errand(Mover& mover) {
  if (mover.errand != nullptr) ErrandReturn{memory()}(std::exchange(mover.errand, nullptr));
}

/// Something happened to the NPC: it decides in the next tick, awake.
void World::Impl::mark_fresh(std::uint32_t slot) {
  movers_[slot].fresh = true;
  surroundings_.wake(slot);
}

void World::Impl::take(const Note& note) {
  if (note.event == Event::reached || note.event == Event::visited) ++npc_states_[note.who.slot].arrivals;
  if ((note.event == Event::came_near || note.event == Event::moved_away) &&
      callbacks_.contains(note.who.slot))
    acts_.push_back({Npc(world_, note.who), Npc(world_, note.whom), note.event == Event::came_near});
  journal_.write(note);
}

void World::Impl::tell(Note note) {
  if (!knows(note.who)) return;
  note.time = now();
  take(note);
}

/// Sets its traits.
void World::Impl::set_traits(std::uint32_t slot, const Traits& traits) {
  const Traits* before = std::exchange(movers_[slot].traits, traits_pool_.acquire(traits));
  traits_pool_.release(before);
  heed_patience(traits.gait.patience);
  surroundings_.include_radius(traits.body.radius);
}

void World::Impl::suspend(std::uint32_t slot, bool suspended) {
  Mover& mover = movers_[slot];
  if (mover.suspended == suspended) return;
  mover.suspended = suspended;
  mark_fresh(slot);
  take({.event = suspended ? Event::suspended : Event::resumed,
        .who = {slot, mover.generation},
        .where = mover.motion.position,
        .time = now()});
}

Expected<void> World::Impl::push(std::uint32_t slot, vec2 velocity, float seconds) {
  Mover& mover = movers_[slot];
  if (!finite(lift(velocity)) || glm::length(velocity) > allowed::speeds.max)
    return problem(fmt::format("the push is ({:g}, {:g}) m/s; its length must lie between 0 and {:g}",
                               velocity.x, velocity.y, allowed::speeds.max));
  if (!(seconds > 0.f && seconds <= longest_push))
    return problem(
        fmt::format("the push lasts {:g} s; it must be above 0 and at most {:g}", seconds, longest_push));
  if (mover.drive != Drive::own) return problem("the game moves this body; push it there");
  if (mover.crossing) return problem("the NPC is on a crossing; push it when it has landed");
  pushes_[slot] = {velocity, moment(slot) + static_cast<double>(seconds)};
  mover.pushed = true;
  mark_fresh(slot);
  take({.event = Event::knocked_back,
        .who = {slot, mover.generation},
        .value = glm::length(velocity),
        .other = seconds,
        .where = mover.motion.position,
        .time = now()});
  return {};
}

Expected<void> World::Impl::set_drive(std::uint32_t slot, Drive drive) {
  Mover& mover = movers_[slot];
  if (mover.drive == drive) return {};
  if (mover.crossing) return problem("the NPC is on a crossing; change its drive when it has landed");
  if (drive != Drive::reported && mover.traits->body.deck.x <= 0.f)
    if (const auto spot = spot_for(mover.motion.position, mover.traits->body); !spot)
      return tl::unexpected(spot.error());
  if (drive == Drive::reported && mover.errand) finish(slot, refusal(Cause::takes_no_orders));
  pushes_.erase(slot);
  mover.pushed = false;
  mover.drive = drive;
  advised_.erase(slot);
  if (drive != Drive::own)
    advised_[slot].velocity = mover.motion.velocity, advised_[slot].reported = mover.motion.position;
  mover.intent = {};
  mover.room = {};
  ++mover.jumps;
  mark_fresh(slot);
  return {};
}

void World::Impl::set_name(std::uint32_t slot, std::string_view name) {
  names_.erase(slot);
  if (!name.empty()) names_.emplace(slot, Name{movers_[slot].generation, std::pmr::string(name, &pool_)});
}

void World::Impl::set_user_data(std::uint32_t slot, std::uint64_t data) {
  if (data != 0 && user_data_.size() <= slot) user_data_.resize(movers_.size());
  if (slot < user_data_.size()) user_data_[slot] = data;
}

Pose World::Impl::pose(std::uint32_t slot, float alpha) const {
  const Motion& now = movers_[slot].motion;
  const auto before = surroundings_.seen(slot);
  const bool jumped = slot < jumped_at_.size() && jumped_at_[slot] >= ticks_;
  const float part = jumped || !(alpha >= 0.f) ? 1.f : std::min(alpha, 1.f);
  return {
      .position = glm::mix(before.position, now.position, part),
      .facing = part < 1.f ? direction(glm::mix(before.facing, now.facing, part), now.facing) : now.facing,
      .stance = now.stance,
      .stride_phase = now.stride_phase};
}

void World::Impl::set_body(std::uint32_t slot, const Body& body) {
  Mover& mover = movers_[slot];
  const NpcId id{slot, mover.generation};
  const vec2 deck = mover.traits->body.deck;
  Traits traits = *mover.traits;
  traits.body = body;
  set_traits(slot, traits);
  ++mover.jumps;
  mover.room = {};
  mark_fresh(slot);
  if (deck != body.deck) {
    decks_.remove(id);
    if (body.deck.x > 0.f && body.deck.y > 0.f) decks_.add(id, body, mover.motion);
  }
  take({.event = Event::new_body,
        .who = id,
        .value = body.radius,
        .other = body.height,
        .time = moment(slot)});
}

Expected<vec3> World::Impl::put(std::uint32_t slot, vec3 at) {
  Mover& mover = movers_[slot];
  const bool anywhere = mover.drive == Drive::reported && finite(at);
  auto spot = anywhere ? at : spot_for(at, mover.traits->body);
  if (!spot) return spot;
  mover.motion.position = *spot;
  mover.motion.velocity = vec2(0.f);
  mover.was = flat(*spot);
  mover.intent = {};
  mover.crossing = false;
  mover.room = {};
  ++mover.jumps;
  if (jumped_at_.size() <= slot) jumped_at_.resize(movers_.size());
  jumped_at_[slot] = static_cast<std::uint32_t>(ticks_) + (ticking_ ? 1U : 0U);
  pushes_.erase(slot);
  mover.pushed = false;
  mark_fresh(slot);
  if (mover.drive != Drive::own) {
    Advised& advised = of(advised_, slot);
    advised.reported = *spot;
    advised.velocity = vec2(0.f);
    advised.watch = {};
  }
  take({.event = Event::teleported, .who = {slot, mover.generation}, .where = *spot, .time = now()});
  return spot;
}

void World::Impl::dismiss_script(std::uint32_t slot) {
  // A script may end itself, so it is destroyed after it has returned.
  if (!movers_[slot].scripted) return;
  movers_[slot].scripted = false;
  dismissed_.push_back(std::move(of(scripts_, slot)));
  scripts_.erase(slot);
}

/// Destroys dismissed scripts and closures. Their destructors may call the world and dismiss others. Closures
/// among these are destroyed the next time, so that two of them cannot go on for ever.
void World::Impl::destroy_dismissed() {
  const auto destroy = [](auto& dismissed) {
    for (std::size_t count = dismissed.size(); count > 0; --count) {
      const auto node = dismissed.extract(dismissed.begin());
    }
  };
  destroy(dismissed_callbacks_);
  destroy(dismissed_touches_);
  destroy(dismissed_removals_);
  while (!dismissed_.empty()) {
    const std::unique_ptr<Script> script = std::move(dismissed_.back());
    dismissed_.pop_back();
  }
}

// --- Signals and names ------------------------------------------------------------------------

/// Returns a copy of the name that lives as long as the world. The journal needs it, and an errand of the
/// game may own its name.
std::string_view World::Impl::lasting_name(std::string_view name) {
  if (const auto known = std::ranges::find(errand_names_, name); known != errand_names_.end()) return *known;
  if (errand_names_.size() >= max_names) return "errand";
  return errand_names_.emplace_back(name);
}

Signal World::Impl::signal_named(std::string_view word) {
  const auto known = std::ranges::find(signal_names_, word);
  const auto number = static_cast<std::uint32_t>(known - signal_names_.begin());
  if (known == signal_names_.end()) signal_names_.emplace_back(word);
  return Signal{number};
}

void World::Impl::signal(std::string_view word) {
  const Signal signal = signal_named(word);
  raised_.push_back(signal);
  take({.event = Event::signalled, .errand = signal_names_[static_cast<std::size_t>(signal)], .time = now()});
}

Expected<Tags> World::Impl::tag(std::string_view word) {
  const auto known = std::ranges::find(tags_, word);
  const auto bit = static_cast<std::size_t>(known - tags_.begin());
  if (known == tags_.end()) {
    if (bit == 64)
      return problem(fmt::format("the tag \"{}\" would be the 65th; a world has at most 64", word));
    tags_.emplace_back(word);
  }
  return Tags{std::uint64_t{1} << bit};
}

std::string World::Impl::name_of(NpcId id) const {
  if (id.generation == 0) return {};
  if (const auto named = names_.find(id.slot);
      named != names_.end() && named->second.generation == id.generation)
    return std::string(named->second.text);
  return fmt::format("npc {}.{}", id.slot, id.generation);
}

std::string World::Impl::sentence(const Note& note, std::string_view place) const {
  const std::string name = name_of(note.who), whom = name_of(note.whom);
  const bool nowhere = note.event == Event::ordered && note.number == 0;
  if (!place.empty() || nowhere) return ambulon::sentence(note, name, whom, nowhere ? "" : place);
  return ambulon::sentence(note, name, whom, written(note.where));
}

// --- The public functions ---------------------------------------------------------------------

World::World(const WorldOptions& options) : impl_(std::make_unique<Impl>(*this, options)) {}

World::~World() { impl_->close(); }

Expected<Npc> World::add(const NpcOptions& options) { return impl_->add(options); }

void World::reserve(std::size_t npcs) { impl_->reserve(npcs); }

Expected<double> World::tick(float seconds) { return impl_->tick(seconds); }

Expected<void> World::set_viewers(std::span<const vec3> viewers, const Detail& detail) {
  return impl_->set_viewers(viewers, detail);
}

std::size_t World::sleeping() const { return impl_->sleeping(); }

std::size_t World::deciding() const { return impl_->deciding_; }

void World::signal(std::string_view word) { impl_->signal(word); }

Signal World::signal_named(std::string_view word) { return impl_->signal_named(word); }

std::span<const Signal> World::heard() const { return impl_->heard_; }

Expected<Tags> World::tag(std::string_view word) { return impl_->tag(word); }

const Others& World::others() const { return impl_->surroundings_; }

void World::tell(Note note) { impl_->tell(note); }

double World::time() const { return impl_->time_; }

std::uint64_t World::ticks() const { return impl_->ticks_; }

std::size_t World::size() const { return impl_->alive_; }

const Ground& World::ground() const { return *impl_->ground_; }

const Journal& World::journal() const { return impl_->journal_; }

EventRange World::events(EventCursor& cursor) const {
  const Journal& journal = impl_->journal_;
  const std::uint64_t first = std::max(cursor.next, journal.first());
  const std::uint64_t end = std::max(first, impl_->ticking_ ? impl_->tick_noted_ : journal.next());
  cursor.lost += first - cursor.next;
  cursor.next = end;
  return {journal, cursor, first, end};
}

std::size_t World::poses(const PoseSpans& arrays, float alpha) const {
  std::size_t count = 0;
  const auto write = [&count](auto span, const auto& value) {
    if (count < span.size()) span[count] = value;
  };
  for (std::uint32_t slot = 0; slot < impl_->movers_.size(); ++slot) {
    const Mover& mover = impl_->movers_[slot];
    if (!mover.alive) continue;
    const Pose pose = impl_->pose(slot, alpha);
    write(arrays.ids, NpcId{slot, mover.generation});
    write(arrays.user_data, impl_->user_data(slot));
    write(arrays.positions, pose.position);
    write(arrays.facings, pose.facing);
    write(arrays.stances, pose.stance);
    ++count;
  }
  return count;
}

const Profile& World::profile() const { return impl_->profile_; }

const RouteFigures& World::route_figures() const { return impl_->routes_.figures(); }

std::pmr::memory_resource* World::memory() { return &impl_->pool_; }

Npc World::find(std::string_view name) { return impl_->find(name); }

Npc World::first_from(std::uint32_t slot) {
  for (; slot < impl_->movers_.size(); ++slot)
    if (const Mover& mover = impl_->movers_[slot]; mover.alive) return {*this, {slot, mover.generation}};
  return {};
}

std::string World::sentence(const Note& note, std::string_view place) const {
  return impl_->sentence(note, place);
}

}  // namespace ambulon
