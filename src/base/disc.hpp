#pragma once

#include "ambulon/base/random.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

/// Draws a point uniformly by area from the disc of `radius` metres (>= 0) around the origin.
vec2 point_in_disc(Random& random, float radius);

}  // namespace ambulon
