#pragma once

#include <optional>
#include <span>

#include <glm/geometric.hpp>

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// A part of a route between two walls, such as a doorway or a stair, seen from one of its sides.
struct NarrowPlace {
  vec2 entry{0.f}, exit{0.f};  ///< metres: the middle of its first and of its last line across
  vec2 through{1.f, 0.f};      ///< unit vector at the entry, along the way
  float width = 0.f;           ///< metres between the walls, the minimum

  /// Metres of `position` beyond the entry, along the way, and to the left of it.
  float along(vec2 position) const { return glm::dot(position - entry, through); }
  float left(vec2 position) const { return glm::dot(position - entry, vec2(-through.y, through.x)); }
  float length() const { return glm::dot(exit - entry, through); }
};

/// Returns the first part of the route of `body` from `position` over `bends` (metres) that is at most
/// `width` metres wide. Considered are places at most `within` metres along the route, sampled every 0.25 m,
/// or radius. Returns nothing if there is none, or if the route begins in it.
std::optional<NarrowPlace> narrow_place_ahead(const Ground& ground, const Body& body, vec3 position,
                                              std::span<const vec3> bends, float within, float width);

}  // namespace ambulon
