#pragma once

#include <optional>
#include <span>

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// A narrow place on a route, and its distance.
struct BottleneckAhead {
  Bottleneck place;
  float metres = 0.f;  ///< along the route
};

/// Returns the narrowest place on the route of `body` from `position` over `bends` (metres). Considered are
/// places at most `within` metres along the route (at most 1e5) and at most `width` metres wide for the
/// centre of the body. Of equally narrow places it returns the last one. Returns nothing if there is none.
/// Sampled every 0.25 m.
std::optional<BottleneckAhead> bottleneck_ahead(const Ground& ground, const Body& body, vec3 position,
                                                std::span<const vec3> bends, float within, float width);

}  // namespace ambulon
