#pragma once

#include <optional>

#include "ambulon/ground/ground.hpp"

namespace ambulon::scene {

/// What keeps a body from somewhere that thinner ones get to.
struct Doorway {
  vec3 at{0.f};        ///< metres, just before it
  float radius = 0.f;  ///< metres, of the widest body that gets through
};

/// The doorway that is too narrow for `body` on its way between two points; nothing when nobody gets through.
std::optional<Doorway> too_narrow(const Ground& ground, vec3 from, vec3 to, const Body& body);

}  // namespace ambulon::scene
