// Makes the JSON Schema of scene files from the tables of keys.cpp and of the verbs.

#include <algorithm>
#include <string>

#include <nlohmann/json.hpp>

#include "scene/keys.hpp"
#include "scene/scene.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon {
namespace {

using nlohmann::json;
using scene::Key;
using scene::Kind;
using scene::Table;

json ref(std::string_view name) { return {{"$ref", "#/$defs/" + std::string(name)}}; }

json words(std::string_view list) {
  json all = json::array();
  while (!list.empty()) {
    const auto bar = std::min(list.find('|'), list.size());
    all.push_back(std::string(list.substr(0, bar)));
    list.remove_prefix(std::min(bar + 1, list.size()));
  }
  return {{"enum", all}};
}

json of_kind(const Key& key) {
  json number = {{"type", "number"}, {"minimum", key.min}, {"maximum", key.max}};
  switch (key.kind) {
    case Kind::text:
      return {{"type", "string"}, {"minLength", 1}};
    case Kind::number:
      return number;
    case Kind::whole:
      return {{"type", "integer"}, {"minimum", key.min}, {"maximum", key.max}};
    case Kind::flag:
      return {{"type", "boolean"}};
    case Kind::one_of:
      return words(key.of);
    case Kind::texts:
      return {{"type", "array"}, {"items", {{"type", "string"}, {"minLength", 1}}}};
    case Kind::vector:
      return {{"type", "array"}, {"items", number}, {"minItems", 2}, {"maxItems", 3}};
    case Kind::numbers:
      return {{"type", "array"}, {"items", number}, {"minItems", 2}, {"maxItems", 4}};
    case Kind::point:
      return ref("point");
    case Kind::range:
      return {{"oneOf", {number, {{"type", "array"}, {"items", number}, {"minItems", 2}, {"maxItems", 2}}}}};
    case Kind::shape:
      return ref(key.of);
  }
  return {};
}

json of_table(const Table& table) {
  json properties = json::object(), required = json::array();
  for (const std::span<const Key> keys : {table.keys, table.common})
    for (const Key& key : keys) {
      json value = of_kind(key);
      value["description"] = key.unit.empty() ? std::string(key.doc)
                                              : std::string(key.doc) + " In " + std::string(key.unit) + ".";
      if (!key.unit.empty()) value["unit"] = std::string(key.unit);
      properties[std::string(key.name)] = value;
      if (key.required) required.push_back(std::string(key.name));
    }
  json schema = {{"type", "object"},
                 {"description", std::string(table.doc)},
                 {"properties", properties},
                 {"additionalProperties", false}};
  if (!required.empty()) schema["required"] = required;
  return schema;
}

json exactly_one_of(json schema, std::initializer_list<const char*> keys) {
  for (const char* key : keys) schema["oneOf"].push_back({{"required", {key}}});
  return schema;
}

json list_of(std::string_view name, int min) {
  return {{"type", "array"}, {"items", ref(name)}, {"minItems", min}};
}

json named(std::string_view name) { return {{"type", "object"}, {"additionalProperties", ref(name)}}; }

/// The shapes of values that are no tables.
json shapes() {
  return {
      {"coordinates", {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", 2}, {"maxItems", 3}}},
      {"point",
       {{"description",
         "[x, y] or [x, y, z] in metres, or the name of a place, or of an NPC: where it is when the order "
         "begins (`follow` and `chase` go after it)."},
        {"oneOf", {{{"type", "string"}, {"minLength", 1}}, ref("coordinates")}}}},
      {"facing", {{"oneOf", {{{"type", "number"}, {"minimum", -360}, {"maximum", 360}}, ref("point")}}}},
      {"places", named("coordinates")},
      {"gaits", named("gait")},
      {"cameras", named("camera")},
      {"ray", {{"type", "array"}, {"items", ref("coordinates")}, {"minItems", 2}, {"maxItems", 2}}},
      {"gait_or_name", {{"oneOf", {{{"type", "string"}, {"minLength", 1}}, ref("gait")}}}},
      {"npcs", list_of("npc", 0)},
      {"events", list_of("event", 0)},
      {"crossings", list_of("crossing", 0)},
      {"steps", list_of("step", 1)},
      {"terms", list_of("term", 1)},
      {"gait_switches", list_of("gait_switch", 0)},
      {"points", {{"type", "array"}, {"items", ref("point")}, {"minItems", 2}}},
      {"places_or_points", {{"type", "array"}, {"items", ref("point")}}},
      {"terrains", named("terrain")},
      {"tiles",
       {{"oneOf",
         {{{"type", "string"}, {"minLength", 1}},
          {{"type", "array"}, {"items", {{"type", "string"}, {"minLength", 1}}}, {"minItems", 1}}}}}},
      {"legend", {{"type", "object"}, {"additionalProperties", {{"type", "string"}}}}},
      {"outline", {{"type", "array"}, {"items", ref("coordinates")}, {"minItems", 3}, {"maxItems", 64}}},
      {"line", {{"type", "array"}, {"items", ref("coordinates")}, {"minItems", 2}}},
      {"rings", {{"type", "array"}, {"items", list_of("coordinates", 3)}}},
      {"walls", list_of("wall", 0)},
      {"regions", list_of("region", 0)},
      {"costs",
       {{"type", "object"},
        {"additionalProperties", {{"type", "number"}, {"minimum", 1}, {"maximum", 255}}}}},
      {"plan_or_file", {{"oneOf", {{{"type", "string"}, {"minLength", 1}}, ref("plan")}}}},
      {"extent", {{"type", "array"}, {"items", ref("coordinates")}, {"minItems", 2}, {"maxItems", 2}}},
      {"goals", {{"oneOf", {ref("point"), {{"type", "array"}, {"items", ref("point")}, {"minItems", 1}}}}}},
      {"waypoints",
       {{"type", "array"}, {"items", {{"oneOf", {ref("point"), ref("waypoint")}}}}, {"minItems", 1}}},
  };
}

/// Adds the tables of scene files.
void add_tables(json& defs) {
  for (const Table* table :
       {&scene::plan_table,         &scene::crossing_table,      &scene::wall_table,
        &scene::region_table,       &scene::terrain_table,       &scene::move_table,
        &scene::lay_table,          &scene::gait_table,          &scene::body_table,
        &scene::npc_table,          &scene::detail_table,        &scene::limits_table,
        &scene::avoidance_table,    &scene::send_table,          &scene::waypoint_table,
        &scene::change_table,       &scene::act_table,           &scene::on_touch_table,
        &scene::add_waypoint_table, &scene::move_waypoint_table, &scene::remove_waypoint_table})
    defs[std::string(table->name)] = of_table(*table);
  defs["ground"] = exactly_one_of(of_table(scene::ground_table), {"open", "tiles", "plan", "level", "built"});
  defs["barrier"] = exactly_one_of(of_table(scene::barrier_table), {"box", "disc", "hull"});
  defs["camera"] = exactly_one_of(of_table(scene::camera_table), {"field_of_view", "height", "scale"});
  defs["click"] = exactly_one_of(of_table(scene::click_table), {"to", "screen", "ray"});
  defs["teleport"] = of_table(scene::teleport_table);
  defs["event"] = exactly_one_of(
      of_table(scene::event_table),
      {"signal", "send", "click", "release", "remove", "suspend", "resume", "teleport", "change", "put",
       "move", "take_away", "shut", "open", "lay", "add_waypoint", "move_waypoint", "remove_waypoint"});
  for (const Table* table : {&scene::condition_table, &scene::gait_switch_table})
    defs[std::string(table->name)] =
        exactly_one_of(of_table(*table), {"signal", "near", "apart", "arrived", "stuck"});
  defs["term"] = exactly_one_of(
      of_table(scene::term_table),
      {"seek", "arrive", "flee", "pursue", "evade", "keep_distance", "follow_offset", "follow_path", "wander",
       "separation", "alignment", "cohesion", "avoid_obstacles", "avoid_edges"});
}

/// Adds the steps of `do` lists.
void add_steps(json& defs) {
  json steps = json::array();
  for (const scene::Verb* verb : scene::verbs()) {
    const std::string step = std::string(verb->table.name) + "_step";  // events have some of the same names
    defs[step] = of_table(verb->table);
    steps.push_back(ref(std::string_view(step)));
  }
  defs["step"] = {{"oneOf", steps}};
}

}  // namespace

std::string scene_schema() {
  json defs = shapes();
  add_tables(defs);
  add_steps(defs);
  json schema = of_table(scene::scene_table);
  schema["$schema"] = "https://json-schema.org/draft/2020-12/schema";
  schema["title"] = "Ambulon scene";
  schema["$defs"] = defs;
  return schema.dump(2) + "\n";
}

}  // namespace ambulon
