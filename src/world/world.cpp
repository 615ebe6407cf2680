#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/assert.hpp"
#include "base/geometry.hpp"
#include "base/written.hpp"
#include "world/world_impl.hpp"

namespace ambulon {

World::Impl::Impl(World& world, const WorldOptions& options)
    : state(world, options),
      detail(state),
      locomotion(state, detail),
      orders(state, detail, locomotion, options.route_work),
      crowd(state, detail, locomotion, orders),
      headway(state, locomotion, orders, crowd),
      contacts(state),
      scripts(state),
      unfinished_(options.memory),
      next_unfinished_(options.memory) {}

void World::Impl::close() {
  AMBULON_ASSERT(!state.clock.ticking && running_ == 0, "a world must not be destroyed by what it calls");
  ++running_;  // destructors may remove NPCs
  scripts.destroy_all();
  destroy_dismissed();
  // The closures of the game may call the world as they are destroyed. It has no NPCs any more and adds none,
  // so a closure that sets another one comes to an end.
  closed_ = true;
  state.npcs.remove_all();
  for (bool some = true; some;) {
    some = state.callbacks.destroy_some();
    some = contacts.destroy_some() || some;
  }
  for (Mover& mover : state.npcs.movers()) orders.destroy_errand(mover);
}

Expected<Npc> World::Impl::add(const NpcOptions& options) {
  if (closed_) return problem("the world is being destroyed; it takes no more NPCs");
  if (auto body = validate(options.body); !body) return tl::unexpected(body.error());
  if (auto gait = validate(options.gait); !gait) return tl::unexpected(gait.error());
  if (auto avoidance = validate(options.avoidance); !avoidance) return tl::unexpected(avoidance.error());
  if (auto priority = validate_route_priority(options.route_priority); !priority)
    return tl::unexpected(priority.error());
  if (!std::isfinite(options.heading)) return problem("the heading is not a finite number");
  const bool anywhere = options.body.deck.x > 0.f || options.drive == Drive::reported;
  const auto spot = anywhere && finite(options.at) ? options.at : state.spot_for(options.at, options.body);
  if (!spot) return tl::unexpected(spot.error());

  const std::uint32_t slot = state.npcs.add(options, *spot);
  const NpcId id = state.npcs.id(slot);
  const Motion& motion = state.npcs[slot].motion;
  orders.heed_patience(options.gait.patience);
  locomotion.add(slot);
  state.surroundings.add(slot);
  if (options.body.deck.x > 0.f && options.body.deck.y > 0.f) state.decks.add(id, options.body, motion);
  state.take({.event = Event::appeared, .who = id, .where = motion.position, .time = state.clock.now()});
  return Npc(state.world, id);
}

void World::Impl::remove(NpcId id) {
  if (!state.npcs.knows(id)) return;
  const Mover& mover = state.npcs[id.slot];
  if (mover.errand) orders.finish(id.slot, {.ending = Ending::gone, .cause = Cause::npc_removed});
  state.take({.event = Event::removed, .who = id, .where = mover.motion.position, .time = state.clock.now()});
  scripts.dismiss(id.slot);
  contacts.remove(id.slot);
  state.callbacks.npc_removed(id);
  state.npcs.remove(id.slot);
  orders.remove(id.slot);
  headway.remove(id.slot);
  state.surroundings.remove(id.slot);
  locomotion.remove(id);
  clean_up();
}

Expected<void> World::Impl::validate_route_priority(int priority) {
  if (priority >= -1000 && priority <= 1000) return {};
  return problem(fmt::format("the route priority is {}; it must lie between -1000 and 1000", priority));
}

void World::Impl::set_gait(std::uint32_t slot, const Gait& gait) {
  Traits traits = *state.npcs[slot].traits;
  if (traits.gait.speed != gait.speed)
    state.take({.event = Event::new_gait,
                .who = state.npcs.id(slot),
                .value = gait.speed,
                .time = state.moment(slot)});
  traits.gait = gait;
  state.set_traits(slot, traits);
  orders.heed_patience(gait.patience);
  state.npcs[slot].fresh = true;
}

Expected<void> World::Impl::set_drive(std::uint32_t slot, Drive drive) {
  if (state.npcs[slot].drive == drive) return {};
  if (auto may = locomotion.may_set_drive(slot, drive); !may) return may;
  if (drive == Drive::reported && state.npcs[slot].errand)
    orders.finish(slot, refusal(Cause::takes_no_orders));
  locomotion.set_drive(slot, drive);
  return {};
}

void World::Impl::direct(std::uint32_t slot, std::unique_ptr<Script> script) {
  scripts.dismiss(slot);
  if (script) {
    ++running_;
    scripts.start(slot, std::move(script));
    --running_;
  }
  clean_up();
}

EventRange World::Impl::events(EventCursor& cursor) const {
  const Journal& journal = state.journal;
  const std::uint64_t first = std::max(cursor.next, journal.first());
  const std::uint64_t end = std::max(first, state.clock.ticking ? tick_noted_ : journal.next());
  cursor.lost += first - cursor.next;
  cursor.next = end;
  return {journal, cursor, first, end};
}

// --- The public functions ---------------------------------------------------------------------

World::World(const WorldOptions& options) : impl_(std::make_unique<Impl>(*this, options)) {}

World::~World() { impl_->close(); }

Expected<Npc> World::add(const NpcOptions& options) { return impl_->add(options); }

void World::reserve(std::size_t npcs) {
  impl_->state.npcs.reserve(npcs);
  impl_->state.surroundings.reserve(npcs);
}

Expected<double> World::tick(float seconds) { return impl_->tick(seconds); }

Expected<void> World::set_viewers(std::span<const vec3> viewers, const Detail& detail) {
  return impl_->detail.set_viewers(viewers, detail);
}

std::size_t World::sleeping() const { return impl_->detail.sleeping(); }

std::size_t World::deciding() const { return impl_->deciding(); }

void World::signal(std::string_view word) {
  WorldState& state = impl_->state;
  const Signal signal = state.signals.named(word);
  state.signals.give(signal);
  state.take({.event = Event::signalled, .errand = state.signals.name(signal), .time = state.clock.now()});
}

Signal World::signal_named(std::string_view word) { return impl_->state.signals.named(word); }

std::span<const Signal> World::heard() const { return impl_->state.signals.heard(); }

Expected<Tags> World::tag(std::string_view word) { return impl_->state.npcs.tag(word); }

const Others& World::others() const { return impl_->state.surroundings; }

void World::tell(Note note) {
  if (!impl_->state.npcs.knows(note.who)) return;
  note.time = impl_->state.clock.now();
  impl_->state.take(note);
}

double World::time() const { return impl_->state.clock.time; }

std::uint64_t World::ticks() const { return impl_->state.clock.ticks; }

std::size_t World::size() const { return impl_->state.npcs.size(); }

const Ground& World::ground() const { return impl_->state.ground; }

const Journal& World::journal() const { return impl_->state.journal; }

EventRange World::events(EventCursor& cursor) const { return impl_->events(cursor); }

std::size_t World::poses(const PoseSpans& arrays, float alpha) const {
  std::size_t count = 0;
  const auto write = [&count](auto span, const auto& value) {
    if (count < span.size()) span[count] = value;
  };
  for (std::uint32_t slot = 0; slot < impl_->state.npcs.slots(); ++slot) {
    const Mover& mover = impl_->state.npcs[slot];
    if (!mover.alive) continue;
    const Pose pose = impl_->locomotion.pose(slot, alpha);
    write(arrays.ids, NpcId{slot, mover.generation});
    write(arrays.user_data, impl_->state.npcs.user_data(slot));
    write(arrays.positions, pose.position);
    write(arrays.facings, pose.facing);
    write(arrays.stances, pose.stance);
    ++count;
  }
  return count;
}

const Profile& World::profile() const { return impl_->profile(); }

const RouteFigures& World::route_figures() const { return impl_->orders.route_figures(); }

std::pmr::memory_resource* World::memory() { return &impl_->state.pool; }

Npc World::find(std::string_view name) {
  const NpcId id = impl_->state.npcs.find(name);
  return id.generation != 0 ? Npc(*this, id) : Npc();
}

Npc World::first_from(std::uint32_t slot) {
  for (; slot < impl_->state.npcs.slots(); ++slot)
    if (const Mover& mover = impl_->state.npcs[slot]; mover.alive) return {*this, {slot, mover.generation}};
  return {};
}

std::string World::sentence(const Note& note, std::string_view place) const {
  const Npcs& npcs = impl_->state.npcs;
  const bool nowhere = note.event == Event::ordered && note.number == 0;
  const std::string where = place.empty() && !nowhere ? written(note.where)
                            : nowhere                 ? ""
                                                      : std::string(place);
  return ambulon::sentence(note, npcs.name_of(note.who), npcs.name_of(note.whom), where);
}

}  // namespace ambulon
