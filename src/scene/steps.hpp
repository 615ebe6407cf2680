#pragma once
// The steps of a scene's characters.

#include <string>
#include <variant>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/crowd/formation.hpp"
#include "ambulon/world/npc.hpp"

#include "scene/file_place.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A point: fixed, or the position of an NPC when the order is given.
struct ScenePoint {
  vec3 at{0.f};
  std::string npc;  ///< if not empty, the point is that NPC's position
};

/// The target of an order: an NPC by name, or one of those with a tag.
struct SceneTarget {
  std::string npc, tag;  ///< one of the two
  Pick pick = Pick::nearest;
};

/// Signals for the distance of a target.
struct SceneAct {
  std::string enter, leave;  ///< empty: none
};

/// The step `go_to`; see `Npc::go_to`.
struct GoToStep {
  ScenePoint to;
  GoToOptions options = {};
};
/// The step `turn_to`; see `Npc::turn_to`.
struct TurnToStep {
  std::optional<float> heading = {};  ///< radians; otherwise `to`
  ScenePoint to;
};
/// The step `pause`; see `Npc::pause`.
struct PauseStep {
  Range seconds;
};
/// Identifies a list of waypoints: the NPC and the number of its patrol or hop, from 1. The members of a
/// `count` share their lists.
struct WaypointList {
  std::string npc = {};
  std::uint32_t number = 0;

  friend auto operator<=>(const WaypointList&, const WaypointList&) = default;
};

/// The step `patrol`; see `Npc::patrol`.
struct PatrolStep {
  std::shared_ptr<Beat> beat;
  PatrolOptions options;
  WaypointList list = {};
};
/// The step `wait_for`; see `Npc::wait_for`.
struct WaitForStep {
  std::string signal;
};
/// The step `roam`; see `Npc::roam`.
struct RoamStep {
  RoamOptions options;
  std::optional<ScenePoint> home = {};
};
/// The step `hop`; see `Npc::hop`.
struct HopStep {
  std::shared_ptr<Beat> points;
  HopOptions options;
  WaypointList list = {};
};
/// The step `follow`; see `Npc::follow`.
struct FollowStep {
  SceneTarget target;
  FollowOptions options;
  SceneAct act;
};
/// The step `chase`; see `Npc::chase`.
struct ChaseStep {
  SceneTarget target;
  ChaseOptions options;
  SceneAct act;
};
/// The step `flee`; see `Npc::flee`.
struct FleeStep {
  SceneTarget target;
  FleeOptions options;
  SceneAct act;
};
/// The step `escort`; see `Npc::escort`.
struct EscortStep {
  std::string leader;
  EscortOptions options;
};
/// The step `march`; see `Npc::march`.
struct MarchStep {
  ScenePoint to;  ///< a point, or the followed NPC
  Formation formation = Formation::block;
  float spacing = 1.2f;  ///< metres
  Unreachable unreachable = Unreachable::wait;
  MarchOptions options;
};
/// The step `ease_to`; see `Npc::ease_to`.
struct EaseToStep {
  ScenePoint to;
  EaseToOptions options;
};
/// The step `sway`; see `Npc::sway`.
struct SwayStep {
  SwayOptions options;
};
/// The step `pace`; see `Npc::pace`.
struct PaceStep {
  PaceOptions options;
};
/// The step `wander`; see `Npc::wander`.
struct WanderStep {
  WanderOptions options;
  std::optional<ScenePoint> home = {};
};
/// The step `flow`; see `Npc::flow`.
struct FlowStep {
  std::vector<vec3> goals;  ///< metres
  FlowOptions options;
};
/// The step `thread`; see `Npc::thread`.
struct ThreadStep {
  ThreadOptions options;
  SceneTarget target;  ///< when not empty
};
/// One behaviour of a blend, with its target and tags by name.
struct SceneTerm {
  Term term;
  SceneTarget target;
};
/// The step `steer`; see `Npc::steer`.
struct SteerStep {
  std::vector<SceneTerm> terms;
  SteerOptions options;
};
/// The step `teleport`; see `Npc::teleport`.
struct TeleportStep {
  ScenePoint to;
};
struct SceneStep;
/// Steps in sequence, `times` times.
struct SequenceStep {
  std::vector<SceneStep> steps;
  std::uint32_t times = 1;  ///< 0: no limit
};

/// A condition that a step waits for, or that ends it.
struct SceneCondition {
  Condition::Kind kind = Condition::Kind::signal;
  std::string signal;  ///< of `signal`
  std::string npc;     ///< of the others
  float metres = 0.f;  ///< of `near` and `apart`
};

/// The verb of an entry with its values. `scene/verbs/` describes each.
using StepVerb =
    std::variant<GoToStep, TurnToStep, PauseStep, PatrolStep, WaitForStep, RoamStep, HopStep, FollowStep,
                 ChaseStep, FleeStep, EscortStep, MarchStep, EaseToStep, SwayStep, PaceStep, WanderStep,
                 FlowStep, ThreadStep, SteerStep, TeleportStep, SequenceStep>;

/// One entry of a `do` list.
struct SceneStep {
  StepVerb verb;
  float after = 0.f;                        ///< seconds to wait first
  std::optional<SceneCondition> when = {};  ///< what to wait for first
  std::optional<Gait> gait = {};            ///< from this step on
  std::optional<float> time_limit = {};     ///< seconds; see `Order::time_limit`
  std::optional<float> patience = {};       ///< see `Order::patience`
  std::optional<SceneCondition> until = {};
  FilePlace where = {};
};

/// Calls `visit(step)` for each step, and for those inside of sequences.
template <class Steps, class Visit>
void each_step(Steps& steps, Visit&& visit) {
  for (auto& step : steps) {
    visit(step);
    if (auto* inner = std::get_if<SequenceStep>(&step.verb)) each_step(inner->steps, visit);
  }
}

/// Calls `visit(list, beat)` for the waypoints of each patrol and hop.
template <class Steps, class Visit>
void each_waypoint_list(Steps& steps, Visit&& visit) {
  each_step(steps, [&](auto& step) {
    if (auto* patrol = std::get_if<PatrolStep>(&step.verb)) visit(patrol->list, patrol->beat);
    if (auto* hop = std::get_if<HopStep>(&step.verb)) visit(hop->list, hop->points);
  });
}

/// Returns the step's verb, as in the scene file.
std::string_view verb_of(const SceneStep& step);

}  // namespace ambulon
