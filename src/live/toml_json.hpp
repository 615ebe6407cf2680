#pragma once
// Converts TOML to JSON, and the values that pages send to TOML.

#include <string>

#include <toml++/toml.h>

#include "json.hpp"

namespace ambulon::live {

inline json json_of(const toml::node& node) {
  json made;
  if (const toml::table* table = node.as_table()) {
    made = json::object();
    for (const auto& [key, value] : *table) made[std::string(key.str())] = json_of(value);
  } else if (const toml::array* list = node.as_array()) {
    made = json::array();
    for (const toml::node& each : *list) made.push_back(json_of(each));
  } else if (node.is_string()) {
    made = *node.value<std::string>();
  } else if (node.is_boolean()) {
    made = *node.value<bool>();
  } else if (node.is_integer()) {
    made = *node.value<std::int64_t>();
  } else if (node.is_floating_point()) {
    made = *node.value<double>();
  }
  return made;
}

/// Returns a JSON value as TOML; null becomes nan, which no key accepts.
inline std::string toml_of(const json& value) {
  std::string made;
  if (value.is_object()) {
    for (const auto& [key, inner] : value.items())
      made += (made.empty() ? "{ " : ", ") + json(key).dump() + " = " + toml_of(inner);
    return made.empty() ? "{}" : made + " }";
  }
  if (value.is_array()) {
    for (const json& inner : value) made += (made.empty() ? "[" : ", ") + toml_of(inner);
    return made.empty() ? "[]" : made + "]";
  }
  return value.is_null() ? "nan" : value.dump();
}

}  // namespace ambulon::live
