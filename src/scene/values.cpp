#include "scene/values.hpp"

#include "scene/verbs/verb.hpp"

namespace ambulon {

std::vector<NamedValue> values_of(const Gait& gait) {
  std::vector<NamedValue> all = scene::values<Gait>(gait, scene::gait_fields);
  all.emplace(all.begin() + 4, "turn_first", gait.turn_first ? 1 : 0);
  return all;
}

std::vector<NamedValue> values_of(const Body& body) { return scene::values<Body>(body, scene::body_fields); }

std::vector<NamedValue> values_of(const SceneStep& step) {
  return scene::verb_of(step.verb).values(step.verb);
}

}  // namespace ambulon
