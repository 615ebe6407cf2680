#pragma once
// Values of the core as JSON.

#include <cmath>
#include <span>

#include <nlohmann/json.hpp>

#include "ambulon/base/vec.hpp"

namespace ambulon::live {

/// Keys stay in the order in which they were put in.
using json = nlohmann::ordered_json;

/// To the tenth of a millimetre, which is what a page needs; null for what is not finite.
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

}  // namespace ambulon::live
