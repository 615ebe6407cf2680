#pragma once
// Values of the core as JSON.

#include <cmath>
#include <span>
#include <string_view>

#include <nlohmann/json.hpp>

#include "ambulon/base/vec.hpp"

#include "base/geometry.hpp"

namespace ambulon::live {

/// Keys keep their order.
using json = nlohmann::ordered_json;

/// Rounds to 0.1 mm; null if not finite.
inline json rounded(float value) {
  return std::isfinite(value) ? json(std::round(static_cast<double>(value) * 1e4) / 1e4) : json();
}
inline json to_json(vec2 v) { return json::array({rounded(v.x), rounded(v.y)}); }
inline json to_json(vec3 v) { return json::array({rounded(v.x), rounded(v.y), rounded(v.z)}); }

inline json to_json(std::span<const vec3> points) {
  json all = json::array();
  for (const vec3 point : points) all.push_back(to_json(point));
  return all;
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

}  // namespace ambulon::live
