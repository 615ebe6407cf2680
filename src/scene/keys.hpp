#pragma once
// The description of scene files: tables and keys. The reader validates against it, and the JSON Schema is
// made from it.

#include <span>
#include <string_view>

namespace ambulon::scene {

enum class Kind { text, texts, number, numbers, whole, flag, one_of, point, range, vector, shape };

struct Key {
  std::string_view name;
  Kind kind;
  std::string_view doc;
  double min = 0, max = 0;     // of numbers and ranges
  std::string_view unit = {};  // of numbers and ranges
  std::string_view of = {};    // the words of one_of, separated by '|'; the name of a shape
  bool required = false;
};

struct Table {
  std::string_view name;
  std::string_view doc;
  std::span<const Key> keys;
  std::span<const Key> common = {};  // further keys, shared by all tables of its kind
};

extern const Table scene_table, detail_table, limits_table, avoidance_table, camera_table, click_table,
    ground_table, crossing_table, plan_table, plan_file_table, wall_table, region_table, terrain_table,
    barrier_table, move_table, lay_table, gait_table, body_table, npc_table, event_table, send_table,
    condition_table, gait_switch_table, teleport_table, change_table, act_table, on_touch_table,
    waypoint_table, add_waypoint_table, move_waypoint_table, remove_waypoint_table, term_table;

/// Returns the key of a table; null if there is none of that name.
const Key* find_key(const Table& table, std::string_view name);

}  // namespace ambulon::scene
