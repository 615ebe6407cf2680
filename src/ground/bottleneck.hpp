#pragma once

#include <optional>
#include <span>

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// The narrowest place along a way and how far away it is.
struct BottleneckAhead {
  Bottleneck place;
  float metres = 0.f;  ///< to it, along the way
};

/// The narrowest place on the way of `body` from `position` by way of `bends` (metres), of those within
/// `within` metres along it (at most 1e5) that are at most `width` metres wide for its middle, from edge
/// to edge across the way; of several, the furthest. Nothing where there is none. It looks each quarter of a
/// metre.
std::optional<BottleneckAhead> bottleneck_ahead(const Ground& ground, const Body& body, vec3 position,
                                                std::span<const vec3> bends, float within, float width);

}  // namespace ambulon
