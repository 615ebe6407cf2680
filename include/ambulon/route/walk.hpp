#pragma once

#include <cstddef>

#include "ambulon/base/vec.hpp"
#include "ambulon/ground/route.hpp"

namespace ambulon {

/// Metres left to the end of `route` from `position` by way of bend number `next` and those after it.
float metres_left(const Route& route, std::size_t next, vec3 position);

/// True when the way from `was` to `now` touches the circle of `radius` metres around `centre`.
bool came_by(vec2 was, vec2 now, vec2 centre, float radius);

}  // namespace ambulon
