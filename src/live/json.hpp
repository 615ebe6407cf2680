#pragma once
// Values of the core as JSON, for the live page and the command-line tool.

#include <cmath>
#include <span>
#include <string_view>

#include <nlohmann/json.hpp>

#include "ambulon/base/vec.hpp"
#include "ambulon/world/npc.hpp"

#include "base/geometry.hpp"
#include "scene/scorecard.hpp"

namespace ambulon::live {

/// Keys keep their order.
using json = nlohmann::ordered_json;

/// Rounds to 0.1 mm; null if not finite.
inline json rounded(double value) {
  return std::isfinite(value) ? json(std::round(value * 1e4) / 1e4) : json();
}
inline json to_json(vec2 v) { return json::array({rounded(v.x), rounded(v.y)}); }
inline json to_json(vec3 v) { return json::array({rounded(v.x), rounded(v.y), rounded(v.z)}); }

inline json to_json(std::span<const vec3> points) {
  json all = json::array();
  for (const vec3 point : points) all.push_back(to_json(point));
  return all;
}

/// How often orders ended in each way; ways that did not occur are left out.
inline json outcomes_of(const Statistics& statistics) {
  json outcomes = json::object();
  for (std::size_t i = 0; i < statistics.endings.size(); ++i)
    if (statistics.endings[i] > 0)
      outcomes[std::string(name(static_cast<Ending>(i)))] = statistics.endings[i];
  return outcomes;
}

/// Returns true if the nesting depth of a JSON text is within that of commands. Parsers recurse by depth.
inline bool nests_little(std::string_view text) {
  constexpr int deepest = 32;
  int depth = 0;
  bool quoted = false;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char sign = text[i];
    if (quoted && sign == '\\') {
      ++i;
    } else if (sign == '"') {
      quoted = !quoted;
    } else if (!quoted && (sign == '[' || sign == '{')) {
      if (++depth > deepest) return false;
    } else if (!quoted && (sign == ']' || sign == '}')) {
      --depth;
    }
  }
  return true;
}

/// Missing ratios are null.
inline json to_json(const Score& score) {
  const auto ratio = [](double value) { return value > 0 ? rounded(value) : json(); };
  return {{"legs", score.legs},
          {"detour", ratio(score.detour)},
          {"time_over_ideal", ratio(score.time_over_ideal)},
          {"overlaps", score.overlaps},
          {"deepest_overlap", rounded(score.deepest_overlap)},
          {"speed_jitters", score.speed_jitters},
          {"heading_jitters", score.heading_jitters},
          {"stuck_seconds", rounded(score.stuck_seconds)},
          {"bend_slowdown", rounded(score.bend_slowdown)},
          {"sliding", rounded(score.sliding)},
          {"vertical_speed", rounded(score.vertical_speed)},
          {"jam_turning", rounded(score.jam_turning)},
          {"short_of_goal", rounded(score.short_of_goal)}};
}

}  // namespace ambulon::live
