#include "scene/verbs/verb.hpp"

#include <array>

#include <fmt/format.h>

#include "scene/played.hpp"

namespace ambulon::scene {

extern const Verb go_to_verb, turn_to_verb, pause_verb, patrol_verb, wait_for_verb, roam_verb, hop_verb,
    follow_verb, chase_verb, flee_verb, escort_verb, march_verb, ease_to_verb, sway_verb, pace_verb,
    wander_verb, flow_verb, thread_verb, steer_verb, teleport_verb, sequence_verb;
namespace {

Waypoint waypoint(const Names& names, const toml::node& node, Range pause) {
  if (node.is_table()) return read_waypoint(names, {names.file(), *node.as_table(), waypoint_table}, pause);
  return {.position = names.point(node, "a waypoint", false).at, .pause = pause};
}

}  // namespace

std::span<const Verb* const> verbs() {
  static constexpr std::array all = {
      &go_to_verb,  &turn_to_verb, &pause_verb, &patrol_verb, &wait_for_verb, &roam_verb,     &hop_verb,
      &follow_verb, &chase_verb,   &flee_verb,  &escort_verb, &march_verb,    &ease_to_verb,  &sway_verb,
      &pace_verb,   &wander_verb,  &flow_verb,  &thread_verb, &steer_verb,    &teleport_verb, &sequence_verb};
  static_assert(all.size() == std::variant_size_v<StepVerb>);
  return all;
}

void read_count(std::uint32_t& value, const Reader& reader, std::string_view key) {
  if (const auto read = reader.whole(key)) value = static_cast<std::uint32_t>(*read);
}

void must_not_be_less(const Reader& reader, std::string_view key, float value, std::string_view other,
                      float min) {
  if (value < min)
    mistake(reader.file(), reader.has(key) ? reader.node(key) : reader.toml(),
            fmt::format("{} is {:g}, which is less than {} ({:g})", key, value, other, min));
}

void read_waypoints(Beat& beat, const Names& names, const Reader& reader, std::string_view key) {
  const Range pause = reader.range("pause").value_or(Range{});
  const toml::array& list = as_array(names.file(), reader.node(key), key);
  if (list.empty()) reader.wrong(key, "is empty; give it at least one waypoint");
  std::vector<Waypoint> waypoints;
  for (const toml::node& node : list) waypoints.push_back(waypoint(names, node, pause));
  if (auto added = beat.append(waypoints); !added) mistake(names.file(), list, added.error().text);
}

SceneTarget read_target(const Names& names, const Reader& reader, std::string_view key) {
  SceneTarget target = names.target(reader.node(key), std::string(key));
  read_choice(target.pick, reader, "pick");
  return target;
}

SceneAct read_act(const Names& names, const Reader& reader, float& act_within) {
  if (!reader.has("act")) return {};
  const Reader act(names.file(), as_table(names.file(), reader.node("act"), "act"), act_table);
  act.into(act_within, "within");
  return {.enter = act.text("enter").value_or(""), .leave = act.text("leave").value_or("")};
}

Target target_of(World& world, const SceneTarget& target) {
  if (target.tag.empty()) return {.npc = world.find(target.npc).id()};
  return World::one_of(tags_of(world, std::span(&target.tag, 1)), target.pick);
}

Order with_act(Order order, const SceneAct& act) {
  if (act.enter.empty() && act.leave.empty()) return order;
  return order.on_act([&act](Npc npc, Npc, bool near) {
    const std::string& signal = near ? act.enter : act.leave;
    if (!signal.empty()) npc.world()->signal(signal);
  });
}

}  // namespace ambulon::scene
