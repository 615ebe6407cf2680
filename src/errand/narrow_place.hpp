#pragma once

#include <optional>
#include <span>

#include <glm/geometric.hpp>

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// A part of a route between two walls, such as a doorway or a stair, seen from one of its sides.
struct NarrowPlace {
  vec3 entry{0.f}, exit{0.f};  ///< metres: the middle of its first and of its last line across
  vec2 through{1.f, 0.f};      ///< unit vector at the entry, along the way
  float width = 0.f;           ///< metres between the walls, the minimum

  /// Metres of `position` beyond the entry, along the way, and to the left of it.
  float along(vec3 position) const { return glm::dot(vec2(position - entry), through); }
  float left(vec3 position) const { return glm::dot(vec2(position - entry), vec2(-through.y, through.x)); }
  float length() const { return along(exit); }
};

/// Returns the first part of the route of `body` from `position` over `bends` (metres) that is at most
/// `width` metres wide. Considered are places at most `within` metres along the route. Samples are 0.25 m
/// apart, or a radius of the body if that is less. Returns nothing if there is none, or if the route begins
/// in it.
std::optional<NarrowPlace> narrow_place_ahead(const Ground& ground, const Body& body, vec3 position,
                                              std::span<const vec3> bends, float within, float width);

}  // namespace ambulon
