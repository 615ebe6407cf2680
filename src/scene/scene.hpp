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
#include "ambulon/errand/order_options.hpp"
#include "ambulon/world/camera.hpp"
#include "ambulon/world/world.hpp"

#include "scene/ground.hpp"
#include "scene/steps.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A named point of a scene.
struct Place {
  std::string name;
  vec3 at{0.f};
  FilePlace where{};
  bool used = false;  ///< the scene refers to it
};

/// A named gait of a scene.
struct SceneGait {
  std::string name;
  Gait gait;
  FilePlace where{};
  bool used = false;  ///< the scene refers to it
};

/// A tag that an NPC of a scene has.
struct SceneTag {
  std::string name;
  FilePlace where{};
  bool used = false;  ///< the scene refers to it
};

/// A named camera of a scene.
struct SceneCamera {
  std::string name;
  Camera camera;
  FilePlace where{};
  bool used = false;  ///< an event uses it
};

/// Upper limits for the score of each NPC (see `Score`); infinity: no limit.
struct SceneLimits {
  static constexpr float any = std::numeric_limits<float>::infinity();
  float detour = any, time_over_ideal = any;
  float deepest_overlap = any;  ///< metres
  float speed_jitters = any, heading_jitters = any;
  float stuck_seconds = any;
  float bend_slowdown = any, sliding = any;
  float vertical_speed = any;  ///< metres per second
  float jam_turning = any;     ///< degrees per second
  float short_of_goal = any;   ///< metres
  float done_by = any;         ///< seconds after which no NPC has an order

  friend bool operator==(const SceneLimits&, const SceneLimits&) = default;
};

/// A gait with its condition.
struct GaitSwitch {
  Gait gait;
  SceneCondition when;
};

/// The signal that an NPC gives when another body begins to touch it.
struct SceneTouch {
  std::string signal;             ///< empty: none
  std::vector<std::string> tags;  ///< of bodies that count; empty: all
};

/// A character of a scene.
struct SceneNpc {
  std::string name;
  ScenePoint at;
  std::string many = {};  ///< with `count`: the common name
  float spacing = 1.f;    ///< metres, between their starts around `at`
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
  std::uint64_t work_sum = 0;  ///< checksum of its steps and switches, and of what they name
  FilePlace where{};

  /// Returns its name in the file; with `count` the common one.
  const std::string& written_name() const { return many.empty() ? name : many; }
  /// Returns true for all but the first NPC of one `count`; they differ only in their places.
  bool repeats_another() const { return !many.empty() && name != many + " 1"; }
};

/// Gives a signal.
struct SignalEvent {
  std::string signal;
};
/// Sends an NPC to a point; then it resumes its order.
struct SendEvent {
  std::string npc;
  ScenePoint to;
  GoToOptions options;
};
/// A click of the pointer.
struct ClickEvent {
  std::vector<std::string> who;  ///< NPCs and tags
  ScenePoint to;                 ///< used if there is no ray
  std::optional<Ray> ray;
  bool then = false;  ///< appended to the earlier places
  bool hold = false;
  Formation formation = Formation::as_they_are;
  float spacing = 1.2f;  ///< metres, of the formation
  ClickToMoveOptions options = {};
};
/// Releases the pointer that NPCs follow.
struct ReleaseEvent {
  std::vector<std::string> who;
};
/// Removes an NPC.
struct RemoveEvent {
  std::string npc;
};
/// Suspends or resumes an NPC.
struct SuspendEvent {
  std::string npc;
  bool suspended = true;  ///< false: resumes
};
/// Teleports an NPC.
struct TeleportEvent {
  std::string npc;
  ScenePoint to;
};
/// The change of a gait: a whole one, or some values.
struct GaitChange {
  std::optional<Gait> whole;
  std::vector<std::pair<float Gait::*, float>> numbers;
  std::optional<bool> turn_first;
  std::optional<float> mass;
};
/// Changes the gait of an NPC.
struct ChangeEvent {
  std::string npc;
  GaitChange change;
};

/// Puts a barrier on the ground, or moves the one of that name.
struct PutEvent {
  std::string barrier;
  Barrier shape;
};
/// Moves a barrier; does nothing if it is not on the ground.
struct MoveEvent {
  std::string barrier;
  vec2 to{0.f};  ///< metres: its centre
};
/// Removes a barrier.
struct TakeAwayEvent {
  std::string barrier;
};
/// Adds a waypoint to a patrol or a hop.
struct AddWaypointEvent {
  WaypointList list;
  BeatPtr of;  ///< the list at the start of the scene
  Waypoint waypoint;
  std::uint32_t before = 0;  ///< number of the waypoint before which it is inserted; 0: at the end
};
/// Moves a waypoint; does nothing if there is none of that number.
struct MoveWaypointEvent {
  WaypointList list;
  BeatPtr of;
  std::uint32_t number = 1;
  vec3 to{0.f};  ///< metres
};
/// Removes a waypoint; does nothing if there is none of that number.
struct RemoveWaypointEvent {
  WaypointList list;
  BeatPtr of;
  std::uint32_t number = 1;
};
/// Shuts or opens a crossing.
struct ShutEvent {
  std::size_t crossing = 0;  ///< index in the ground's `crossings`
  bool shut = true;
};
/// Changes the terrain of cells.
struct LayEvent {
  std::uint8_t terrain = 0;
  CellBox cells;
};

/// An event, and when it happens.
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
  std::uint64_t ground_sum = 0;  ///< checksum of the description of the ground
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

  /// Returns the name of the place within 1 cm of a position; empty if there is none.
  std::string_view place_at(vec3 position) const;
};

/// Reads a scene file. The problem begins with file, line and column.
Expected<Scene> read_scene(const std::string& file);

/// Reads a scene file, or any file of `read_ground_file` as a scene without NPCs.
Expected<Scene> read_scene_or_ground(const std::string& file);

/// Reads a scene from text; `file` is the name for problems. If `before` has the same ground, it is reused,
/// and its files are not read again.
Expected<Scene> read_scene_text(std::string_view text, const std::string& file,
                                const Scene* before = nullptr);

/// Reads one event, as TOML of its keys, such as `at = 0` and `suspend = "cat"`. `barriers`: names that may
/// be moved and removed. Marks what the event refers to as used.
Expected<SceneEvent> read_event(std::string_view text, Scene& scene, std::span<const std::string> barriers);

/// Returns the JSON Schema of scene files.
std::string scene_schema();

}  // namespace ambulon
