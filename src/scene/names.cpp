#include "scene/names.hpp"

#include <algorithm>
#include <cmath>

#include "ambulon/motion/steering.hpp"

#include "scene/values.hpp"

namespace ambulon::scene {

FilePlace place_of(const toml::node& node) {
  const auto place = node.source().begin;
  return {static_cast<int>(place.line), static_cast<int>(place.column)};
}

bool Names::is_npc(const std::string& name) const { return npc_set_.contains(name); }
/// Marks a tag as used.
void Names::use_tag(const std::string& name) const {
  const auto tag = std::ranges::find(scene_.tags, name, &SceneTag::name);
  if (tag != scene_.tags.end()) tag->used = true;
}

bool Names::is_tag(const std::string& name) const { return std::ranges::find(tags_, name) != tags_.end(); }
bool Names::is_place(const std::string& name) const {
  return std::ranges::find(scene_.places, name, &Place::name) != scene_.places.end();
}

ScenePoint Names::point(const toml::node& node, const std::string& what, bool npc_allowed) const {
  const auto at = [&](vec3 coordinates) {
    if (gathered_ != nullptr) gathered_->push_back(coordinates);
    return ScenePoint{.at = coordinates, .npc = {}};
  };
  if (!node.is_string()) return at(coordinates(file_, node, what));
  const std::string name = *node.value<std::string>();
  const auto place = std::ranges::find(scene_.places, name, &Place::name);
  if (place != scene_.places.end()) {
    place->used = true;
    return at(place->at);
  }
  if (is_npc(name) && npc_allowed) return {.at = vec3(0.f), .npc = name};
  if (is_npc(name))
    mistake(file_, node,
            fmt::format("{} is the NPC {}, which moves; it must be a place or coordinates", what, name));
  std::vector<std::string_view> known;
  for (const Place& each : scene_.places) known.push_back(each.name);
  if (npc_allowed) known.insert(known.end(), npcs_.begin(), npcs_.end());
  mistake(file_, node,
          fmt::format("{} is \"{}\", but no place{} has that name{}", what, name,
                      npc_allowed ? " or NPC" : "", did_you_mean(name, known)));
}

std::string Names::npc(const Reader& reader, std::string_view key) const {
  std::string name = *reader.text(key);
  if (!is_npc(name)) {
    const std::vector<std::string_view> known(npcs_.begin(), npcs_.end());
    reader.wrong(key, fmt::format("is \"{}\", but no NPC has that name{}", name, did_you_mean(name, known)));
  }
  return name;
}

SceneTarget Names::target(const toml::node& node, const std::string& what) const {
  const auto name = node.value<std::string>();
  if (!name || !node.is_string())
    mistake(file_, node, fmt::format("{} must be the name of an NPC or a tag", what));
  if (is_npc(*name)) return {.npc = *name, .tag = {}};
  if (is_tag(*name)) {
    use_tag(*name);
    return {.npc = {}, .tag = *name};
  }
  std::vector<std::string_view> known(npcs_.begin(), npcs_.end());
  known.insert(known.end(), tags_.begin(), tags_.end());
  mistake(file_, node,
          fmt::format("{} is \"{}\", but no NPC has that name or tag{}", what, *name,
                      did_you_mean(*name, known)));
}

std::vector<std::string> Names::tags(const Reader& reader, std::string_view key) const {
  std::vector<std::string> all = reader.texts(key);
  for (const std::string& tag : all) {
    use_tag(tag);
    if (!is_tag(tag)) {
      const std::vector<std::string_view> known(tags_.begin(), tags_.end());
      reader.wrong(key,
                   fmt::format("names \"{}\", but no NPC has that tag{}", tag, did_you_mean(tag, known)));
    }
  }
  return all;
}

Gait Names::gait(const toml::node& node, const std::string& what) const {
  if (node.is_string()) {
    const std::string name = *node.value<std::string>();
    const auto found = std::ranges::find(scene_.gaits, name, &SceneGait::name);
    if (found != scene_.gaits.end()) {
      found->used = true;
      return found->gait;
    }
    std::vector<std::string_view> known;
    for (const SceneGait& each : scene_.gaits) known.push_back(each.name);
    mistake(file_, node,
            fmt::format("{} is \"{}\", but the scene has no gait of that name{}", what, name,
                        did_you_mean(name, known)));
  }
  const Reader reader(file_, as_table(file_, node, what), gait_table);
  Gait gait;
  for (const auto& field : gait_fields) reader.into(gait.*field.value, field.key, field.unit);
  reader.into(gait.turn_first, "turn_first");
  if (const auto mass = reader.number("mass")) gait = with_mass(gait, static_cast<float>(*mass));
  if (const auto good = validate(gait); !good) mistake(file_, node, good.error().text);
  return gait;
}

GaitChange Names::gait_change(const toml::node& node, const std::string& what) const {
  GaitChange change;
  const Gait gait = this->gait(node, what);
  if (node.is_string()) {
    change.whole = gait;
    return change;
  }
  const Reader reader(file_, as_table(file_, node, what), gait_table);
  for (const auto& field : gait_fields)
    if (float number = 0.f; reader.has(field.key)) {
      reader.into(number, field.key, field.unit);
      change.numbers.emplace_back(field.value, number);
    }
  change.turn_first = reader.flag("turn_first");
  if (const auto mass = reader.number("mass")) change.mass = static_cast<float>(*mass);
  return change;
}

float Names::facing(const toml::node& node, vec3 from, const std::string& what) const {
  if (node.is_number()) return radians(static_cast<float>(heading(node, what)));
  return heading_of(flat(point(node, what, false).at - from));
}

double Names::heading(const toml::node& node, const std::string& what) const {
  const double degrees = finite_number(file_, node, what);
  if (std::abs(degrees) > 360)
    mistake(file_, node, fmt::format("{} is {} degrees; it must lie between -360 and 360", what, degrees));
  return degrees;
}

SceneCondition Names::condition(const Reader& reader) const {
  using Of = Condition::Kind;
  constexpr std::pair<std::string_view, Of> kinds[] = {{"signal", Of::signal},
                                                       {"near", Of::near},
                                                       {"apart", Of::apart},
                                                       {"arrived", Of::arrived},
                                                       {"stuck", Of::stuck}};
  SceneCondition condition;
  int count = 0;
  for (const auto& [key, kind] : kinds) {
    if (!reader.has(key)) continue;
    ++count;
    condition.kind = kind;
    if (kind == Of::signal)
      condition.signal = *reader.text(key);
    else
      condition.npc = npc(reader, key);
  }
  if (count != 1)
    mistake(file_, reader.toml(),
            fmt::format(
                "the condition has {} of the keys signal, near, apart, arrived and stuck; it must have one",
                count));
  const bool by_distance = condition.kind == Of::near || condition.kind == Of::apart;
  if (by_distance && !reader.has("distance"))
    mistake(file_, reader.toml(), "the condition lacks the key \"distance\": within how many metres");
  if (!by_distance && reader.has("distance")) reader.wrong("distance", "belongs to near or apart only");
  reader.into(condition.metres, "distance");
  return condition;
}

}  // namespace ambulon::scene
