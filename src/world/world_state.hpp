#pragma once

#include <memory_resource>

#include "ambulon/ground/open.hpp"
#include "ambulon/world/world.hpp"

#include "world/callbacks.hpp"
#include "world/clock.hpp"
#include "world/decks.hpp"
#include "world/npcs.hpp"
#include "world/signals.hpp"
#include "world/surroundings.hpp"

namespace ambulon {

constexpr float no_time = 1e-6f;  // seconds: a shorter rest of a tick is dropped

/// What the parts of a world share.
struct WorldState final : public NoteTaker {
  WorldState(World& owner, const WorldOptions& options);
  WorldState(const WorldState&) = delete;
  WorldState& operator=(const WorldState&) = delete;

  World& world;
  std::pmr::memory_resource* memory;            // of the game
  std::pmr::unsynchronized_pool_resource pool;  // over it, for what is created and destroyed often
  OpenGround open;
  const Ground& ground;
  std::uint64_t ground_revision;
  bool convex;     // `Ground::convex`
  bool avoids;     // NPCs avoid each other
  float patience;  // seconds, of NPCs without their own
  Jobs jobs;
  Clock clock;
  Journal journal;
  Npcs npcs;
  Surroundings surroundings;
  Decks decks;
  Signals signals;
  Callbacks callbacks;
  std::pmr::vector<std::uint8_t> marks;  // by index of awake NPCs: intermediate result of a phase

  /// Writes a note into the journal, and remembers what it means for callbacks and statistics.
  void take(const Note& note) override;
  /// Returns the time up to which an NPC has moved.
  double moment(std::uint32_t slot) const { return clock.moment(npcs[slot]); }
  /// Something happened to the NPC: it decides in the next tick, awake.
  void mark_fresh(std::uint32_t slot);
  void set_traits(std::uint32_t slot, const Traits& traits);
  /// Returns the spot for an NPC at `at`, at most its radius off; otherwise a problem.
  Expected<vec3> spot_for(vec3 at, const Body& body) const;
};

}  // namespace ambulon
