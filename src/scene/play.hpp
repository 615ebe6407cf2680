#pragma once

#include <map>

#include "ambulon/base/public.hpp"
#include "ambulon/world/selection.hpp"
#include "ambulon/world/world.hpp"

#include "scene/flow_fields.hpp"
#include "scene/gait_switches.hpp"
#include "scene/spawner.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A scene being played: its world, with its NPCs and events.
/// `ScenePlayer` is what games see of it.
class Play {
 public:
  /// Starts a scene, which must outlive the play. Returns a problem if an NPC cannot be added. `jobs`: of its
  /// world.
  static Expected<std::unique_ptr<Play>> start(const Scene& scene, std::size_t journal = 4096,
                                               Jobs jobs = {});
  /// The same, for a scene that the play owns.
  static Expected<std::unique_ptr<Play>> start(std::shared_ptr<const Scene> scene, std::size_t journal = 4096,
                                               Jobs jobs = {});

  /// Replaces the scene by a changed one.
  ///
  /// 1. An NPC takes over a changed gait or body where it is. Its steps restart only if they have changed, or
  ///    places and gaits that they name.
  /// 2. Events whose time has passed are left out.
  /// 3. Returns a problem, and changes nothing, if an NPC cannot be added, or if the new scene needs another
  ///    world (`Scene::same_world`): then call `start`.
  Expected<void> reload(std::shared_ptr<const Scene> scene);

  /// Plays one tick.
  void tick();
  /// Runs an event at once. Returns a problem, and changes nothing, if it names a waypoint that does not
  /// exist.
  Expected<void> happen(const SceneEvent& event);

  const Scene& scene() const { return *scene_; }
  World& world() { return world_; }
  const Ground& ground() const { return *ground_; }
  /// Returns the barriers on the ground by name.
  const std::map<std::string, BarrierId>& barriers() const { return barriers_; }
  /// Returns the ground for its barriers; null if it takes none.
  BarrierGround* barrier_ground() { return barrier_ground_; }
  const BarrierGround* barrier_ground() const { return barrier_ground_; }
  /// Returns the ground as one of tiles, or as one of a mesh; null if it is not.
  const TileGround* tiles() const { return tiles_; }
  const MeshGround* mesh() const { return mesh_; }
  /// Gives an order along the flow field to these goals, which all NPCs with the same goals share. Refused on
  /// ground that is not of tiles.
  Order flow(Npc me, std::span<const vec3> goals, const FlowOptions& options) {
    return fields_.flow(me, goals, options);
  }
  /// Teleports an NPC (metres). If the place is off the ground, it stays, and the journal says so.
  void put(Npc npc, vec3 to);
  /// Returns the waypoints of a step, which events may change: a copy of the scene's.
  std::shared_ptr<Beat> waypoints(const WaypointList& list, const Beat& of);
  /// The same as they are now; `of` if no event has changed them.
  const Beat& waypoints_now(const WaypointList& list, const Beat& of) const;
  /// Returns how often events have changed waypoints.
  std::uint32_t waypoint_changes() const { return waypoint_changes_; }
  /// Returns the squad of a step.
  std::shared_ptr<Squad> squad(const MarchStep& step);
  /// Returns the scene's NPCs in the order of the file, with those that were removed.
  std::span<const Npc> npcs() const { return npcs_; }

  /// Returns the statistics of NPC `index`; of a removed NPC the last ones.
  Statistics statistics(std::size_t index) const;
  /// Returns the motion of NPC `index`; of a removed NPC the last one.
  Motion motion(std::size_t index) const;

  /// Returns a note as a sentence with the names of places.
  std::string sentence(const Note& note) const;

 private:
  Play(std::shared_ptr<const Scene> scene, std::size_t journal, Jobs jobs);
  void begin_work(const std::shared_ptr<const Scene>& scene, std::size_t index);
  void forget_waypoints(const Scene& before, std::span<const std::size_t> places);
  void watch_touch(std::size_t index);
  std::vector<std::size_t> places_before(const Scene& next) const;
  Expected<std::vector<Npc>> npcs_of(const Scene& next, std::span<const std::size_t> places);
  void change(std::size_t index, const SceneNpc* old);
  struct Happen;
  Selection& selection(const std::vector<std::string>& who);

  struct Last {
    Statistics statistics;
    Motion motion;
  };

  std::shared_ptr<const Scene> scene_;
  std::unique_ptr<Ground> ground_;
  TileGround* tiles_ = nullptr;                              // null if the ground is not of tiles
  MeshGround* mesh_ = nullptr;                               // null if the ground is no plan or level
  BarrierGround* barrier_ground_ = nullptr;                  // null if the ground has no barriers
  std::map<std::vector<std::string>, Selection> pointed_;    // of clicks, by names and tags
  std::map<std::string, BarrierId> barriers_;                // on the ground
  std::map<WaypointList, std::shared_ptr<Beat>> waypoints_;  // as they are now
  std::uint32_t waypoint_changes_ = 0;
  std::map<std::string, std::weak_ptr<Squad>> squads_;  // by the values of their steps
  World world_;
  FlowFields fields_;
  Spawner spawner_;
  GaitSwitches switches_;
  std::vector<Npc> npcs_;
  std::vector<std::optional<Last>> removed_;
  std::size_t next_event_ = 0;
};

}  // namespace ambulon
