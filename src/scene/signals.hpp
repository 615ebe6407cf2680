#pragma once
// Finds the signals of a scene that are given and heard, and the steps that are never reached.

#include <map>
#include <set>
#include <string>

#include "scene/scene.hpp"

namespace ambulon::scene {

/// Returns true if the step ends neither by itself nor by a time limit or a condition.
bool never_ends(const SceneStep& step);

/// Returns the signals that the step gives near its target; null if its verb has no target.
const SceneAct* act_of(const SceneStep& step);

/// The signals of a scene.
struct Signals {
  std::set<std::string, std::less<>> heard;  ///< by a step, a condition or a switch
  std::set<std::string, std::less<>> given;  ///< by events, touches, and steps that are reached
  /// Signals that only unreachable steps give, with one of these steps, such as "the cat's chase".
  std::map<std::string, std::string, std::less<>> never_given;
};

/// Follows the steps of all characters until each waits for ever.
Signals signals_of(const Scene& scene);

}  // namespace ambulon::scene
