#pragma once
// Finds mistakes in scenes. Its parts are in check.cpp, check_npc.cpp, check_routes.cpp and check_events.cpp.

#include <string>
#include <vector>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "scene/check.hpp"
#include "scene/signals.hpp"

namespace ambulon::scene {

/// Checks a scene, character by character and step by step, on its own copy of the ground.
class Checker {
 public:
  explicit Checker(const Scene& scene);

  std::vector<Finding> check();

  // For the verbs: the present character, and mistakes of its steps.

  const Scene& scene() const { return scene_; }
  const Ground& ground() const { return *ground_; }
  const SceneNpc& npc() const { return *npc_; }
  void find(FilePlace where, std::string what, std::string why, std::string instead);
  /// Finds a point that is off the ground or cannot be reached. The position of an NPC is not known here.
  void reachable(const ScenePoint& point, const SceneStep& step);
  void reachable(vec3 point, const SceneStep& step);
  /// The step teleports its NPC.
  void teleports(vec3 to, const SceneStep& step);
  /// Finds a ground that is not of tiles.
  void needs_tiles(const SceneStep& step);
  /// Finds a signal that is never given.
  void awaits(const std::string& signal, const SceneStep& step);
  /// Finds a distance for signals that is never reached.
  void acts(const SceneTarget& target, const SceneAct& act, float within, const SceneStep& step);
  /// Finds a target that is faster, and one that stands where it cannot be reached. `so`: why it matters;
  /// `instead`: what else would do.
  void keeps_up(const SceneTarget& target, float speed, std::string_view so, std::string_view instead,
                const SceneStep& step);

 private:
  // Names, signals and the ground.
  void unused_names();
  void unheard_signals();
  void unheard(const std::string& signal, FilePlace where);
  void built_ground();
  void open_pieces();
  void crossings();
  void unused(const SceneGround::NamedCrossing& each);
  void blocked_places();

  // The present character and its steps.
  void standing_in_one_another();
  void body();
  void gait(const Gait& gait, FilePlace where);
  void steps(const std::vector<SceneStep>& steps, Gait gait_now, bool repeat);
  void step(const SceneStep& step, const Gait& gait_now);
  void condition(const SceneStep& step, const std::optional<SceneCondition>& condition, std::string_view so);
  void near(const std::string& name, float metres, FilePlace where);
  static bool passes(const SceneNpc& one, const SceneNpc& other);
  bool stands_for_ever(const SceneNpc& npc) const;

  // Whether it can stand, and reach what its steps name.
  void reachable(vec3 point, FilePlace where, const std::string& who);
  bool on_ground(vec3 point, FilePlace where, const std::string& what);
  void place();
  double room_around(const Spot& spot) const;

  // Events.
  void events();
  void errands_of_events();
  void goals_of_events();
  template <class Meant>
  void goal_for(vec3 goal, const SceneEvent& event, const std::string& name, Meant&& meant);
  static bool is_of(const SceneNpc& npc, const std::vector<std::string>& names);
  void shutting_barriers();
  std::optional<vec3> shut_off(const SceneNpc& npc, const Ground& shut) const;

  static constexpr float reach = 0.5f;  // metres
  static constexpr Body thin{.radius = 0.01f};
  static constexpr std::uint32_t few_cells = 9;  // components that are too small to walk about,
  static constexpr double little_room = 1;       // square metres: likewise
  const Scene& scene_;
  const scene::Signals signals_;
  const std::unique_ptr<Ground> ground_;
  const TileGround* tiles_;  // null if the ground is not of tiles
  MeshGround* mesh_;         // null if the ground is no plan or level
  const SceneNpc* npc_ = nullptr;
  vec3 stands_{0.f};  // metres: where it begins, or was teleported last
  std::vector<Finding> findings_;
};

}  // namespace ambulon::scene
