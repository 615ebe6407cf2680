#pragma once
// Which signals of a scene are given and heard, and what of its steps begins at all.

#include <map>
#include <set>
#include <string>

#include "ambulon/scene/scene.hpp"

namespace ambulon::scene {

/// True when the step ends neither by itself nor by its time or condition.
bool never_ends(const SceneStep& step);

/// The signals that the step gives near its target; null when its verb has no target.
const SceneAct* act_of(const SceneStep& step);

/// The signals of a scene.
struct Signals {
  std::set<std::string, std::less<>> heard;  ///< by a step, a condition or a switch
  std::set<std::string, std::less<>> given;  ///< by events, touches, and steps that begin
  /// Of those that only steps give which never begin: one of these, such as "the cat's chase".
  std::map<std::string, std::string, std::less<>> never_given;
};

/// Follows the steps of all characters up to where each of them waits for ever.
Signals signals_of(const Scene& scene);

}  // namespace ambulon::scene
