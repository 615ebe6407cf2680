#pragma once

#include <optional>

#include "ambulon/ground/mesh/mesh_ground.hpp"

namespace ambulon::scene {

/// A place that is too narrow for a body.
struct Doorway {
  vec3 at{0.f};        ///< metres, just before it
  float radius = 0.f;  ///< metres: the widest body that fits
};

/// Returns the place that is too narrow for `body` between two points; nothing if no body fits.
std::optional<Doorway> too_narrow(const Ground& ground, vec3 from, vec3 to, const Body& body);

/// A height difference that is too large for a body.
struct HighStep {
  vec3 at{0.f};        ///< metres, just before it
  float metres = 0.f;  ///< its height
  float over = 0.f;    ///< metres by which it exceeds the limit of the body
  bool down = false;   ///< it leads down
};

/// Returns the step of a level that is too high or too deep for `body` between two points: on the route over
/// steps of up to 2 m with the smallest excess. Nothing if there is no such route.
std::optional<HighStep> too_high(const MeshGround& ground, vec3 from, vec3 to, const Body& body);

}  // namespace ambulon::scene
