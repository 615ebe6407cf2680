#pragma once

#include <cstddef>

#include "ambulon/ground/route.hpp"

namespace ambulon {

/// Metres left to the end of `route` from `position` by way of bend number `next` and those after it.
float metres_left(const Route& route, std::size_t next, vec3 position);

}  // namespace ambulon
