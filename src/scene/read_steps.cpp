// Reads `do` lists.

#include <algorithm>

#include "scene/names.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon {

std::string_view verb_of(const SceneStep& step) { return scene::verb_of(step.verb).table.name; }

namespace scene {
namespace {

/// Returns the verb of an entry. The `pause` of a patrol is an option, not a second verb.
const Verb& verb_named_in(const Names& names, const toml::table& toml) {
  std::vector<std::string_view> known;
  const Verb* found = nullptr;
  for (const Verb* verb : verbs()) {
    const std::string_view name = verb->table.name;
    known.push_back(name);
    if (!toml.contains(name) || (found != nullptr && find_key(found->table, name) != nullptr)) continue;
    if (found != nullptr && find_key(verb->table, found->table.name) == nullptr)
      mistake(names.file(), toml,
              fmt::format("an entry of do has two verbs, {} and {}; make them two entries", found->table.name,
                          name));
    found = verb;
  }
  if (found != nullptr) return *found;
  std::string hint;
  for (const auto& [key, value] : toml)
    if (hint.empty()) hint = did_you_mean(key.str(), known);
  if (hint.empty()) hint = fmt::format("; it must be one of {}", fmt::join(known, ", "));
  mistake(names.file(), toml, fmt::format("an entry of do has no verb{}", hint));
}

SceneStep step(const Names& names, const toml::node& node) {
  const toml::table& toml = as_table(names.file(), node, "an entry of do");
  const Verb& verb = verb_named_in(names, toml);
  const Reader reader(names.file(), toml, verb.table);
  const auto condition = [&](std::string_view key) -> std::optional<SceneCondition> {
    if (!reader.has(key)) return std::nullopt;
    return names.condition({names.file(), as_table(names.file(), reader.node(key), key), condition_table});
  };
  SceneStep step{.verb = verb.read(names, reader)};
  reader.into(step.after, "after");
  if (const auto seconds = reader.number("time_limit")) step.time_limit = static_cast<float>(*seconds);
  if (find_key(verb.table, "patience") != nullptr)
    if (const auto seconds = reader.number("patience")) step.patience = static_cast<float>(*seconds);
  if (reader.has("gait")) step.gait = names.gait(reader.node("gait"), "gait");
  step.when = condition("when");
  step.until = condition("until");
  step.where = place_of(toml);
  return step;
}

}  // namespace

Waypoint read_waypoint(const Names& names, const Reader& reader, Range pause) {
  Waypoint waypoint{.position = names.point(reader.node("at"), "a waypoint", false).at, .pause = pause};
  waypoint.pause = reader.range("pause").value_or(pause);
  reader.into(waypoint.within, "within");
  reader.into(waypoint.weight, "weight");
  if (reader.has("facing"))
    waypoint.facing = names.facing(reader.node("facing"), waypoint.position, "facing");
  return waypoint;
}

std::vector<SceneStep> read_steps(const Names& names, const toml::node& node, const std::string& what) {
  std::vector<SceneStep> steps;
  const toml::array& list = as_array(names.file(), node, what);
  if (list.empty())
    mistake(names.file(), node, fmt::format("{} is empty; give it something to do or leave it out", what));
  for (const toml::node& each : list) steps.push_back(step(names, each));
  return steps;
}

}  // namespace scene
}  // namespace ambulon
