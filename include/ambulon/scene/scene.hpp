#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/crowd/avoidance.hpp"
#include "ambulon/crowd/formation.hpp"
#include "ambulon/errand/click_to_move.hpp"
#include "ambulon/scene/ground.hpp"
#include "ambulon/scene/steps.hpp"
#include "ambulon/world/camera.hpp"
#include "ambulon/world/world.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A named point of a scene.
struct Place {
  std::string name;
  vec3 at{0.f};
  FilePlace where{};
  bool used = false;  ///< something in the scene names it
};

/// A named gait of a scene.
struct SceneGait {
  std::string name;
  Gait gait;
  FilePlace where{};
  bool used = false;  ///< something in the scene names it
};

/// A tag that an NPC of a scene has.
struct SceneTag {
  std::string name;
  FilePlace where{};
  bool used = false;  ///< something in the scene names it
};

/// A named camera of a scene.
struct SceneCamera {
  std::string name;
  Camera camera;
  FilePlace where{};
  bool used = false;  ///< an event clicks through it
};

/// Upper limits for the score of each NPC (see `Score`); infinity: no limit.
struct SceneLimits {
  static constexpr float any = std::numeric_limits<float>::infinity();
  float detour = any, time_over_ideal = any;
  float deepest_overlap = any;  ///< metres
  float speed_jitters = any, heading_jitters = any;
  float stuck_seconds = any;
  float done_by = any;  ///< seconds from which on nobody has an order

  friend bool operator==(const SceneLimits&, const SceneLimits&) = default;
};

/// When an NPC takes up another gait.
struct GaitSwitch {
  Gait gait;
  SceneCondition when;
};

/// The signal that an NPC gives when a body with one of these tags begins to touch it.
struct SceneTouch {
  std::string signal;             ///< empty: none
  std::vector<std::string> tags;  ///< empty: all count
};

struct SceneNpc {
  std::string name;
  ScenePoint at;
  std::string many = {};  ///< of one of many: the name they have in common
  float spacing = 1.f;    ///< metres, between their places around `at`
  float heading = 0.f;    ///< radians
  Body body;
  Avoidance avoidance;
  int route_priority = 0;           ///< see `NpcOptions`
  std::vector<std::string> passes;  ///< tags of NPCs that it passes through
  std::vector<std::string> tags;
  Gait gait;
  std::vector<GaitSwitch> switches;
  SceneTouch on_touch;
  std::vector<SceneStep> steps;
  bool repeat = false;
  std::uint64_t work_sum =
      0;  ///< tells whether its steps and switches, and what they name, are still the same
  FilePlace where{};

  /// Its name in the file, which those that are many have in common.
  const std::string& written_name() const { return many.empty() ? name : many; }
  /// Returns true for all but the first NPC of one `count`, which differ from the first only in their places.
  bool repeats_another() const { return !many.empty() && name != many + " 1"; }
};

struct SignalEvent {
  std::string signal;
};
struct SendEvent {
  std::string npc;
  ScenePoint to;
  GoToOptions options;
};
/// Points to a place, as with a pointer.
struct ClickEvent {
  std::vector<std::string> who;  ///< NPCs and tags
  ScenePoint to;                 ///< unless there is a ray
  std::optional<Ray> ray;
  bool then = false;  ///< after the places before
  bool hold = false;
  Formation formation = Formation::as_they_are;
  float spacing = 1.2f;  ///< metres, of the formation
  ClickToMoveOptions options = {};
};
struct ReleaseEvent {
  std::vector<std::string> who;
};
struct RemoveEvent {
  std::string npc;
};
struct SuspendEvent {
  std::string npc;
  bool suspended = true;  ///< false: it may go on
};
struct TeleportEvent {
  std::string npc;
  ScenePoint to;
};
/// What a gait becomes: another one, or some of its values.
struct GaitChange {
  std::optional<Gait> whole;
  std::vector<std::pair<float Gait::*, float>> numbers;
  std::optional<bool> turn_first;
  std::optional<float> mass;
};
struct ChangeEvent {
  std::string npc;
  GaitChange change;
};

/// Puts a barrier on the ground; one of the same name that is there is moved.
struct PutEvent {
  std::string barrier;
  Barrier shape;
};
/// Moves a barrier; one that is not there stays away.
struct MoveEvent {
  std::string barrier;
  vec2 to{0.f};  ///< metres, of its middle
};
struct TakeAwayEvent {
  std::string barrier;
};
/// Adds a waypoint to a patrol or a hop.
struct AddWaypointEvent {
  WaypointList list;
  BeatPtr of;  ///< the list as the scene begins
  Waypoint waypoint;
  std::uint32_t before = 0;  ///< number of the waypoint before which it is added; 0: at the end
};
/// Moves a waypoint; nothing happens when there is none of that number by then.
struct MoveWaypointEvent {
  WaypointList list;
  BeatPtr of;
  std::uint32_t number = 1;
  vec3 to{0.f};  ///< metres
};
/// Takes a waypoint out; nothing happens when there is none of that number by then.
struct RemoveWaypointEvent {
  WaypointList list;
  BeatPtr of;
  std::uint32_t number = 1;
};
/// Shuts or opens a crossing.
struct ShutEvent {
  std::size_t crossing = 0;  ///< its number, in the ground's `crossings`
  bool shut = true;
};
/// Gives cells another terrain.
struct LayEvent {
  std::uint8_t terrain = 0;
  CellBox cells;
};

struct SceneEvent {
  double at = 0;  ///< seconds
  std::variant<SignalEvent, SendEvent, ClickEvent, ReleaseEvent, RemoveEvent, SuspendEvent, TeleportEvent,
               ChangeEvent, PutEvent, MoveEvent, TakeAwayEvent, ShutEvent, LayEvent, AddWaypointEvent,
               MoveWaypointEvent, RemoveWaypointEvent>
      what;
  FilePlace where{};
};

/// A scene file, read and checked.
struct Scene {
  std::string file;
  std::string title;
  std::uint64_t seed = 1;
  int rate = 60;                 ///< ticks per second
  double length = 60;            ///< seconds played by default
  float patience = 4;            ///< seconds, see `WorldOptions`
  bool avoid = false;            ///< see `WorldOptions`
  std::uint64_t route_work = 0;  ///< see `WorldOptions`
  Detail detail;                 ///< see `World::set_viewers`
  std::vector<vec3> viewers;     ///< metres
  SceneLimits limits;
  SceneGround ground;
  std::uint64_t ground_sum = 0;  ///< tells whether the file still describes the same ground
  std::vector<Place> places;
  std::vector<SceneGait> gaits;
  std::vector<SceneCamera> cameras;
  std::vector<SceneTag> tags;
  std::vector<SceneNpc> npcs;
  std::vector<SceneEvent> events;  ///< in order of time

  /// Returns true if both scenes can be played in one world: the ground and the options of the world are the
  /// same.
  bool same_world(const Scene& other) const {
    return ground_sum == other.ground_sum && avoid == other.avoid && patience == other.patience &&
           route_work == other.route_work;
  }

  /// The name of the place at that position, within a centimetre; empty when there is none.
  std::string_view place_at(vec3 position) const;
};

/// Reads a scene file. The problem begins with file, line and column.
Expected<Scene> read_scene(const std::string& file);

/// Reads a scene file; of any other file that `read_ground_file` reads, a scene with that ground and nobody
/// on it.
Expected<Scene> read_scene_or_ground(const std::string& file);

/// Reads a scene from text; `file` is what problems call it. Where the text describes the same ground as
/// `before`, if given, that is taken over, and none of the files that it names is read again.
Expected<Scene> read_scene_text(std::string_view text, const std::string& file,
                                const Scene* before = nullptr);

/// Reads one event of a scene, as TOML of its keys, such as `at = 0` and `suspend = "cat"`. `barriers`: the
/// names of those that may be moved and taken away. Marks what it names as used.
Expected<SceneEvent> read_event(std::string_view text, Scene& scene, std::span<const std::string> barriers);

/// The JSON Schema of scene files, made of the same description that reading checks against.
std::string scene_schema();

}  // namespace ambulon
