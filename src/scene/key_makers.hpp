#pragma once
// Makes the keys of the tables of keys.hpp.

#include "scene/keys.hpp"

namespace ambulon::scene {

constexpr Key number(std::string_view name, double min, double max, std::string_view unit,
                     std::string_view doc) {
  return {name, Kind::number, doc, min, max, unit};
}
constexpr Key whole(std::string_view name, double min, double max, std::string_view unit,
                    std::string_view doc) {
  return {name, Kind::whole, doc, min, max, unit};
}
constexpr Key range(std::string_view name, double min, double max, std::string_view unit,
                    std::string_view doc) {
  return {name, Kind::range, doc, min, max, unit};
}
constexpr Key text(std::string_view name, std::string_view doc) { return {name, Kind::text, doc}; }
constexpr Key texts(std::string_view name, std::string_view doc) { return {name, Kind::texts, doc}; }
constexpr Key vector(std::string_view name, std::string_view unit, std::string_view doc) {
  return {name, Kind::vector, doc, -1e5, 1e5, unit};
}
constexpr Key far_vector(std::string_view name, std::string_view unit, std::string_view doc) {
  return {name, Kind::vector, doc, -1e7, 1e7, unit};
}
constexpr Key numbers(std::string_view name, std::string_view doc, std::string_view unit = "metres") {
  return {name, Kind::numbers, doc, -1e5, 1e5, unit};
}
constexpr Key flag(std::string_view name, std::string_view doc) { return {name, Kind::flag, doc}; }
constexpr Key point(std::string_view name, std::string_view doc) { return {name, Kind::point, doc}; }
constexpr Key one_of(std::string_view name, std::string_view words, std::string_view doc) {
  return {name, Kind::one_of, doc, 0, 0, {}, words};
}
constexpr Key shape(std::string_view name, std::string_view of, std::string_view doc) {
  return {name, Kind::shape, doc, 0, 0, {}, of};
}
constexpr Key needed(Key key) {
  key.required = true;
  return key;
}

constexpr Key unreachable_key = one_of(
    "unreachable", "nearest|refuse|wait",
    "If no route leads there: goes to the nearest reachable spot, ends at once, or waits for a route.");

}  // namespace ambulon::scene
