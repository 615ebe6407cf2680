#pragma once

#include <optional>

#include "ambulon/ground/mesh/mesh_ground.hpp"

namespace ambulon::scene {

/// What keeps a body from somewhere that thinner ones get to.
struct Doorway {
  vec3 at{0.f};        ///< metres, just before it
  float radius = 0.f;  ///< metres, of the widest body that gets through
};

/// The doorway that is too narrow for `body` on its way between two points; nothing when nobody gets through.
std::optional<Doorway> too_narrow(const Ground& ground, vec3 from, vec3 to, const Body& body);

/// What keeps a body from somewhere that those get to who step, jump or drop further.
struct HighStep {
  vec3 at{0.f};        ///< metres, just before it
  float metres = 0.f;  ///< its height
  float over = 0.f;    ///< metres of that which are too much
  bool down = false;   ///< it leads down
};

/// The step of a level that is too high, or too deep, for `body` on its way between two points: of the ways
/// there are over steps of up to 2 m, the one on which least is too much. Nothing when there is no such way.
std::optional<HighStep> too_high(const MeshGround& ground, vec3 from, vec3 to, const Body& body);

}  // namespace ambulon::scene
