#pragma once
// Converts TOML to JSON, and the values that pages send to TOML.

#include <cstdint>
#include <limits>
#include <string>

#include <toml++/toml.h>

#include "json.hpp"

namespace ambulon::live {

/// Returns true for a whole number that TOML cannot hold.
inline bool too_large(const json& value) {
  return value.is_number_unsigned() &&
         value.get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max());
}

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

toml::table table_of(const json& object);
toml::array list_of(const json& array);

/// Calls `add` with a JSON value as one of TOML. Null becomes nan, which no key accepts.
template <class Add>
void add_json(const json& value, Add&& add) {
  if (value.is_object())
    add(table_of(value));
  else if (value.is_array())
    add(list_of(value));
  else if (value.is_string())
    add(value.get<std::string>());
  else if (value.is_boolean())
    add(value.get<bool>());
  else if (value.is_number_integer() && !too_large(value))
    add(value.get<std::int64_t>());
  else
    add(value.is_number() ? value.get<double>() : std::numeric_limits<double>::quiet_NaN());
}

inline toml::table table_of(const json& object) {
  toml::table table;
  for (const auto& [key, value] : object.items())
    add_json(value, [&](auto&& each) { table.insert_or_assign(key, std::forward<decltype(each)>(each)); });
  return table;
}

inline toml::array list_of(const json& array) {
  toml::array list;
  for (const json& value : array)
    add_json(value, [&](auto&& each) { list.push_back(std::forward<decltype(each)>(each)); });
  return list;
}

/// Returns a JSON value as text of TOML, to be put into a scene file; null becomes nan, which no key accepts.
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
