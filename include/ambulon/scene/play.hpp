#pragma once

#include <map>

#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/scene/scene.hpp"
#include "ambulon/world/selection.hpp"
#include "ambulon/world/world.hpp"

namespace ambulon {

/// A scene being played: its world, with its NPCs at work and its events happening on time.
class Play {
 public:
  /// Puts up the scene, which must outlive the play. The problem when it cannot be put up. `jobs`: of its
  /// world.
  static Expected<std::unique_ptr<Play>> put_up(const Scene& scene, std::size_t journal = 4096,
                                                Jobs jobs = {});
  /// The same, of a scene that the play keeps as long as it needs it.
  static Expected<std::unique_ptr<Play>> put_up(std::shared_ptr<const Scene> scene,
                                                std::size_t journal = 4096, Jobs jobs = {});

  /// Goes on with a changed scene in place of the one before. What did not change keeps going: an NPC takes
  /// up what is new of its gait and body where it is, and begins its steps anew only when those, or places
  /// and gaits they name, were changed. Events of times that are past are left out. The problem, and no
  /// change, when an NPC cannot be put up, or when the ground or `avoid` is another: then put it up anew.
  Expected<void> take_up(std::shared_ptr<const Scene> scene);

  /// Plays one tick.
  void tick();
  /// Lets something happen at once, other than in the scene. The problem, and no change, when it names a
  /// waypoint that is not there.
  Expected<void> happen(const SceneEvent& event);

  const Scene& scene() const { return *scene_; }
  World& world() { return world_; }
  const Ground& ground() const { return *ground_; }
  /// The barriers that are on the ground, by name; null ground: none.
  const std::map<std::string, BarrierId>& barriers() const { return barriers_; }
  const BarrierGround* barrier_ground() const { return barrier_ground_; }
  /// The play's own ground; null when it is not of tiles, or no plan.
  const TileGround* tiles() const { return tiles_; }
  const MeshGround* mesh() const { return mesh_; }
  /// Has an NPC go by the flow field to these goals, which all who go there share. On a ground that is not of
  /// tiles the order is refused.
  Order flow(Npc me, std::span<const vec3> goals, const FlowOptions& options);
  /// Puts it elsewhere at once (metres). Off the ground it stays where it is, and the journal says so.
  void put(Npc npc, vec3 to);
  /// The waypoints that those who do a step walk, which events may change: a copy of the scene's.
  std::shared_ptr<Beat> waypoints(const WaypointList& list, const Beat& of);
  /// The same, as they are now; `of` while nothing has changed them.
  const Beat& waypoints_now(const WaypointList& list, const Beat& of) const;
  /// How often events have changed waypoints.
  std::uint32_t waypoint_changes() const { return waypoint_changes_; }
  /// The company of those who do that step.
  std::shared_ptr<Company> company(const MarchStep& step);
  /// The scene's NPCs in the order of the file, those that are gone included.
  std::span<const Npc> npcs() const { return npcs_; }

  /// What NPC `index` had done, up to now or up to when it was removed.
  Tally tally(std::size_t index) const;
  /// Where NPC `index` is, or was when it was removed.
  Motion motion(std::size_t index) const;

  /// A note as a sentence that calls places by their names.
  std::string sentence(const Note& note) const;

 private:
  Play(std::shared_ptr<const Scene> scene, std::size_t journal, Jobs jobs);
  Expected<vec3> place_for(const Scene& scene, const SceneNpc& npc, const Body& body);
  bool has_room(const Scene& scene, const SceneNpc& npc, vec3 at) const;
  Expected<Npc> add(const Scene& scene, const SceneNpc& npc);
  void begin_work(const std::shared_ptr<const Scene>& scene, std::size_t index);
  void forget_waypoints(const Scene& before, std::span<const std::size_t> places);
  void watch_switches();
  void watch_touch(std::size_t index);
  std::vector<std::size_t> places_before(const Scene& next) const;
  Expected<std::vector<Npc>> recast(const Scene& next, std::span<const std::size_t> places);
  void change(std::size_t index, const SceneNpc* old);
  struct Happen;
  Selection& selection(const std::vector<std::string>& who);
  void switch_gaits();

  struct Last {
    Tally tally;
    Motion motion;
  };

  /// An NPC that takes up another gait when something holds.
  struct Switch {
    Npc npc;
    Gait gait;
    const SceneCondition* when;
    Condition condition;
    bool held = false;
  };

  std::shared_ptr<const Scene> scene_;
  std::unique_ptr<Ground> ground_;
  TileGround* tiles_ = nullptr;                            // the ground, when it is of tiles
  MeshGround* mesh_ = nullptr;                             // the ground, when it is a plan or a level
  BarrierGround* barrier_ground_ = nullptr;                // the ground, when it takes barriers
  std::map<std::vector<std::string>, Selection> pointed_;  // who was sent by clicks, by their names and tags
  std::map<std::string, BarrierId> barriers_;              // that are on the ground
  struct Field {
    std::vector<vec3> goals;
    float radius;
    std::unique_ptr<FlowField> field;
    std::vector<Order> used_by;
  };
  std::vector<Field> fields_;
  std::map<WaypointList, std::shared_ptr<Beat>> waypoints_;  // as they are by now
  std::uint32_t waypoint_changes_ = 0;
  std::map<std::string, std::weak_ptr<Company>> companies_;  // by what their steps say
  World world_;
  struct Stands {
    vec3 at;
    float radius, height;
  };
  struct Many {
    std::uint32_t places_tried = 0;
    std::vector<Stands> begun;
  };
  std::map<std::string, Many> many_;  // by the name they have in common
  std::vector<Npc> npcs_;
  std::vector<std::optional<Last>> removed_;
  std::vector<Switch> switches_;
  std::size_t next_event_ = 0;
};

}  // namespace ambulon
