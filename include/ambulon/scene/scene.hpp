#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/go_to.hpp"
#include "ambulon/errand/patrol.hpp"

namespace ambulon {

/// Where something stands in a scene file; lines and columns count from 1.
struct FilePlace {
  int line = 0;
  int column = 0;
};

/// A named point of a scene.
struct Place {
  std::string name;
  vec3 at{0.f};
};

/// A point as a scene gives it: fixed, or wherever an NPC is when the order is given.
struct ScenePoint {
  vec3 at{0.f};
  std::string npc;  ///< when not empty, the point is that NPC's position
};

/// The verbs of a scene's `do` list: the orders of the core with their scene form.
struct GoToStep {
  ScenePoint to;
  GoToOptions options;
};
struct TurnToStep {
  std::optional<float> heading;  ///< radians; otherwise `to`
  ScenePoint to;
};
struct PauseStep {
  Range seconds;
};
struct PatrolStep {
  std::shared_ptr<Beat> beat;
  PatrolOptions options;
};
struct WaitForStep {
  std::string signal;
};

/// A condition that ends a step before its time.
struct SceneCondition {
  std::string signal;  ///< until this signal, or …
  std::string npc;     ///< … until this NPC is within `metres` (or, for `apart`, is not)
  float metres = 0.f;
  bool apart = false;
};

/// One entry of a `do` list.
struct SceneStep {
  std::variant<GoToStep, TurnToStep, PauseStep, PatrolStep, WaitForStep> verb;
  float after = 0.f;             ///< seconds to wait first
  std::optional<float> seconds;  ///< `for`: ends as timed_out after that long
  std::optional<SceneCondition> until;
};

struct SceneNpc {
  std::string name;
  ScenePoint at;
  float heading = 0.f;  ///< radians
  Body body;
  Gait gait;
  std::vector<SceneStep> steps;
  bool repeat = false;
  FilePlace where;
};

struct SignalEvent {
  std::string signal;
};
struct SendEvent {
  std::string npc;
  ScenePoint to;
  GoToOptions options;
};
struct RemoveEvent {
  std::string npc;
};

struct SceneEvent {
  double at = 0;  ///< seconds
  std::variant<SignalEvent, SendEvent, RemoveEvent> what;
};

/// A scene file, read and checked.
struct Scene {
  std::string file;
  std::string title;
  std::uint64_t seed = 1;
  int rate = 60;       ///< ticks per second
  double length = 60;  ///< seconds played by default
  std::vector<Place> places;
  std::vector<SceneNpc> npcs;
  std::vector<SceneEvent> events;  ///< in order of time

  /// The name of the place at that position, within a centimetre; empty when there is none.
  std::string_view place_at(vec3 position) const;
};

/// Reads a scene file. The problem begins with file, line and column.
Expected<Scene> read_scene(const std::string& file);

/// Reads a scene from text; `file` is what problems call it.
Expected<Scene> read_scene_text(std::string_view text, const std::string& file);

/// The JSON Schema of scene files, made of the same description that reading checks against.
std::string scene_schema();

}  // namespace ambulon
