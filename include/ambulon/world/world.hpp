#pragma once

#include <cstdint>
#include <memory>
#include <memory_resource>
#include <span>
#include <string>
#include <string_view>

#include "ambulon/base/jobs.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/crowd/avoidance.hpp"
#include "ambulon/route/route_figures.hpp"
#include "ambulon/world/journal.hpp"
#include "ambulon/world/npc.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of a world. They are copied.
struct WorldOptions {
  const Ground* ground = nullptr;  ///< must outlive the world; null: open ground without limits
  std::uint64_t seed = 1;          ///< of all random numbers
  std::size_t journal = 4096;      ///< notes that the journal keeps
  bool avoid = false;  ///< NPCs with `Drive::own` avoid each other; see `Avoidance` for each NPC's part
  /// Seconds without progress after which an order ends as stuck, 0.1 to 1e6. An NPC that others block for
  /// this long searches for a detour. `Gait::patience` and `Order::patience` replace it.
  float patience = 4.f;
  /// Search nodes expanded per tick, over all route requests. Later requests wait for the next tick.
  /// 0: unlimited.
  std::uint64_t route_work = 0;
  /// Runs the parallel phases of a tick on the game's threads; empty: one thread. The results are the same
  /// bits for any number of threads.
  Jobs jobs = {};
  std::pmr::memory_resource* memory = std::pmr::get_default_resource();  ///< must outlive the world
};

/// Options of the level of detail: NPCs far from all viewers make decisions less often. They still move in
/// each tick.
struct Detail {
  float near = 30.f;               ///< metres: NPCs nearer to a viewer decide in each tick; 0 to 1e6
  std::uint32_t max_interval = 8;  ///< ticks between the decisions of the furthest NPCs, 1 to 64. The
                                   ///< interval is 2 beyond `near`, 4 beyond twice `near`, and so on
  std::uint32_t budget = 0;  ///< approximate number of decisions per tick: `near` shrinks to meet it, and
                             ///< `max_interval` still holds. 0: unlimited
};

/// Seconds that each phase of a tick took, summed over all ticks. They depend on the machine; no other
/// result does.
struct Profile {
  double sense = 0;     ///< reported bodies are read, neighbours are indexed
  double decide = 0;    ///< errands are asked for an intent
  double route = 0;     ///< requested routes are searched, and their errands asked again
  double avoid = 0;     ///< intents are changed to avoid others
  double move = 0;      ///< intents are carried out
  double separate = 0;  ///< overlapping bodies are separated
  double notify = 0;    ///< callbacks and scripts run
  std::uint64_t ticks = 0;

  double total() const { return sense + decide + route + avoid + move + separate + notify; }
};

/// Options of an NPC. They are copied.
struct NpcOptions {
  std::string_view name = {};
  vec3 at{0.f};         ///< metres; must be on the ground
  float heading = 0.f;  ///< radians
  Body body = {};
  Gait gait = {};
  Drive drive = Drive::own;
  Avoidance avoidance = {};
  Tags tags = {};               ///< groups that it belongs to; see `World::tag`
  int route_priority = 0;       ///< -1000 to 1000: each unit counts as one second of waiting for a route
  std::uint64_t user_data = 0;  ///< the game's own: an entity id or a pointer
};

/// Arrays for `World::poses`. An empty one is left out.
struct PoseSpans {
  std::span<NpcId> ids = {};
  std::span<std::uint64_t> user_data = {};
  std::span<vec3> positions = {};  ///< metres
  std::span<vec2> facings = {};    ///< unit vectors
  std::span<Stance> stances = {};
};

/// Owns all NPCs and moves them, one fixed time step after another.
///
///     ambulon::World world({.ground = &ground, .avoid = true});
///     const auto porter = world.add({.name = "porter", .at = {2, 3, 0}});
///     if (!porter) return report(porter.error().text);
///     porter->go_to({20, 8, 0});
///     while (porter->busy()) world.tick(1.f / 60);
///
/// 1. The same calls give the same world, to the bit, on any machine and with any number of threads.
/// 2. Callbacks and scripts, and the destructors of what they captured, may call the world: give and cancel
///    orders, add, remove and teleport NPCs, start scripts, give signals, change the ground. They may not
///    call `tick`, which then returns a problem, and may not destroy the world.
/// 3. Jobs, errands and grounds are called during a tick and may not call the world.
/// 4. Coordinates are exact to 1 mm within 10 km of the origin; floats are 8 mm apart at 100 km. Speeds of
///    0.1 m/s and more are exact to 1 % within 60 km.
class World final {
 public:
  explicit World(const WorldOptions& options = {});
  ~World();
  World(const World&) = delete;
  World& operator=(const World&) = delete;

  /// Adds an NPC. Returns a problem if a value is out of range or the place is off the ground.
  Expected<Npc> add(const NpcOptions& options);

  /// Allocates memory for `npcs` NPCs at once, which takes less than growing.
  void reserve(std::size_t npcs);

  /// Advances the world by `seconds` (above 0, at most 3600); more than 1 s is divided into ticks of at most
  /// 1 s. Returns the seconds since the world began, or a problem.
  ///
  /// A tick has fixed phases: sense, decide, route, avoid, move, separate, notify (see `Profile`). If an
  /// order ends within a tick and the next order is given in its `on_end`, that order uses the rest of the
  /// tick.
  Expected<double> tick(float seconds);

  /// Sets the viewer positions (metres; any number, finite) that the level of detail is based on. Without
  /// viewers all NPCs decide in each tick. Returns a problem, and changes nothing, if a value is out of
  /// range.
  Expected<void> set_viewers(std::span<const vec3> viewers, const Detail& detail = {});
  /// Returns the number of sleeping NPCs. An NPC that stands without an order or a script falls asleep after
  /// a while and costs nothing until it gets an order or another NPC wants to pass.
  std::size_t sleeping() const;
  /// Returns the number of NPCs that decided in the last tick.
  std::size_t deciding() const;

  /// Gives a signal: NPCs that wait for it go on in the coming tick.
  void signal(std::string_view word);
  /// Returns the number that stands for the signal's name in `heard`.
  Signal signal_named(std::string_view word);
  /// Returns the signals given for the present tick.
  std::span<const Signal> heard() const;

  /// Returns the tag of that name, for NPCs and queries; `tag("a") | tag("b")` is a set of both. Returns a
  /// problem if it would be the 65th tag of this world.
  Expected<Tags> tag(std::string_view word);
  /// Returns a target for orders: one of the NPCs that have one of the `tags`.
  static Target one_of(Tags tags, Pick pick = Pick::nearest) { return {.tags = tags, .pick = pick}; }
  /// Returns the NPCs as they were when the tick began, for queries about neighbours.
  const Others& others() const;

  /// Writes a note about an NPC of this world into the journal, with the present time.
  void tell(Note note);

  double time() const;          ///< seconds since the world began
  std::uint64_t ticks() const;  ///< ticks since the world began
  std::size_t size() const;     ///< NPCs in the world
  const Ground& ground() const;
  const Journal& journal() const;
  /// Returns the events since the last call with that cursor, oldest first, and advances the cursor. A
  /// new cursor reads all that the journal keeps; `cursor.lost` counts events that it dropped before they
  /// were read. Callbacks and scripts read up to the beginning of the tick.
  ///
  ///     for (const ambulon::Note& note : world.events(cursor)) if (note.event == ambulon::Event::touched) …
  EventRange events(EventCursor& cursor) const;
  const Profile& profile() const;
  /// Returns how many routes were requested and found, and how long they took.
  const RouteFigures& route_figures() const;
  /// Returns the memory in which beats and errands of this world are made.
  std::pmr::memory_resource* memory();

  /// Returns the first NPC of that name; an empty handle if there is none.
  Npc find(std::string_view name);
  /// Calls `visit(Npc)` for each NPC in the order of their slots. `visit` may add and remove NPCs.
  template <class Visit>
  void each(Visit&& visit);

  /// Writes the poses of all NPCs, in the order of their slots, into the game's own arrays. `alpha`: between
  /// the last two ticks, see `Npc::pose`. Returns the number of NPCs; shorter arrays hold the first ones.
  std::size_t poses(const PoseSpans& arrays, float alpha = 1.f) const;

  /// Returns a note as a sentence. `place` replaces the coordinates of where it happened.
  std::string sentence(const Note& note, std::string_view place = {}) const;

  /// For the library itself: `Impl` is defined in no public header.
  class AMBULON_HIDDEN Impl;
  Impl& impl() const { return *impl_; }

 private:
  Npc first_from(std::uint32_t slot);

  std::unique_ptr<Impl> impl_;
};

template <class E, class... Args>
Order Npc::order(Args&&... args) const {
  if (world_ == nullptr) return {};
  return give(make_errand<E>(world_->memory(), std::forward<Args>(args)...));
}

template <class Visit>
void World::each(Visit&& visit) {
  for (Npc npc = first_from(0); npc.alive();) {
    const std::uint32_t slot = npc.id().slot;
    visit(npc);
    npc = first_from(slot + 1);
  }
}

}  // namespace ambulon
