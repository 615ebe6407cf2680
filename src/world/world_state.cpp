#include "world/world_state.hpp"

#include <fmt/format.h>

#include "base/allowed.hpp"
#include "base/written.hpp"

namespace ambulon {
namespace {

// blocks: larger chunks, or chunks that double, would leave much memory unused
constexpr std::size_t pool_chunk = 32;

}  // namespace

WorldState::WorldState(World& owner, const WorldOptions& options)
    : world(owner),
      memory(options.memory),
      pool({.max_blocks_per_chunk = pool_chunk, .largest_required_pool_block = 0}, options.memory),
      ground(options.ground != nullptr ? *options.ground : open),
      ground_revision(ground.revision()),
      convex(ground.convex()),
      avoids(options.avoid),
      patience(allowed::patiences.holds(options.patience) ? options.patience : WorldOptions{}.patience),
      jobs(options.jobs),
      journal(options.journal, options.memory),
      npcs(options.seed, options.memory, &pool),
      surroundings(npcs.movers(), jobs, options.memory),
      decks(options.memory),
      signals(options.memory),
      callbacks(world, npcs, clock, options.memory, &pool),
      marks(options.memory) {}

void WorldState::take(const Note& note) {
  if (note.event == Event::reached || note.event == Event::visited) ++npcs.state(note.who.slot).arrivals;
  if (note.event == Event::came_near || note.event == Event::moved_away) callbacks.target_moved(note);
  journal.write(note);
}

void WorldState::mark_fresh(std::uint32_t slot) {
  npcs[slot].fresh = true;
  surroundings.wake(slot);
}

void WorldState::set_traits(std::uint32_t slot, const Traits& traits) {
  npcs.set_traits(slot, traits);
  surroundings.include_radius(traits.body.radius);
}

Expected<vec3> WorldState::spot_for(vec3 at, const Body& body) const {
  const Snap snap = ground.snap(at, body.radius, body);
  if (!snap.found) return problem(fmt::format("({}, {}, {}) is no place on the ground", at.x, at.y, at.z));
  if (!snap)
    return problem(fmt::format("{} is off the ground; the nearest spot is {}, {:.2f} m off", written(at),
                               written(snap.spot.position), snap.off));
  return snap.spot.position;
}

}  // namespace ambulon
