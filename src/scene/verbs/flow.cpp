#include "scene/checker.hpp"
#include "scene/play.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(shape("flow", "goals", "Walks to the nearest of some points along a shared flow field.")),
    within_key,
    one_of("unreachable", "refuse|wait", "If the field leads nowhere: ends, or waits."),
    patience_key,
};

constexpr Field<FlowOptions> fields[] = {{"within", &FlowOptions::within}};

FlowStep read(const Names& names, const Reader& reader) {
  FlowStep step;
  const toml::node& goals = reader.node("flow");
  const toml::array* list = goals.as_array();
  if (list != nullptr && !list->empty() && !(*list)[0].is_number())
    for (const toml::node& node : *list) step.goals.push_back(names.point(node, "a goal", false).at);
  else
    step.goals.push_back(names.point(goals, "flow", false).at);
  if (const auto word = reader.one_of("unreachable"))
    step.options.unreachable = static_cast<Unreachable>(*word + 1);  // a flow field has no nearest spot
  read_numbers(step.options, fields, reader);
  return step;
}

Order give(const FlowStep& step, Play& play, Npc me) { return play.flow(me, step.goals, step.options); }

void check(Checker& checker, const FlowStep& step, const SceneStep& all, const Gait&) {
  for (const vec3 goal : step.goals) checker.reachable(goal, all);
  checker.needs_tiles(all);
}

constexpr VerbOf<FlowStep> verb{.name = "flow",
                                .doc = "Walks along a flow field.",
                                .keys = keys,
                                .read = read,
                                .give = give,
                                .fields = fields,
                                .arrival = &FlowOptions::within,
                                .check = check};

}  // namespace

extern const Verb flow_verb;  // for verb.cpp
const Verb flow_verb = any_verb<verb>();

}  // namespace ambulon::scene
