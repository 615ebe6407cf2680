#pragma once

#include <optional>
#include <string>

#include "ambulon/base/ray.hpp"
#include "ambulon/ground/ground.hpp"
#include "ambulon/world/npc.hpp"

namespace ambulon {

/// What a ray came to. True when that is a place where the body can stand.
struct Picked {
  enum class What : std::uint8_t {
    ground,      ///< where the body can stand, or within `reach` metres of that
    off_ground,  ///< something on which it cannot stand: a wall, a roof, a barrier, beyond the edge
    sky,         ///< nothing
    nonsense,    ///< the ray is not finite or has no direction
  };
  What what = What::nonsense;
  vec3 at{0.f};        ///< metres: what the ray first meets, exactly; for ground and off_ground
  float metres = 0.f;  ///< along the ray to there
  Snap nearest = {};   ///< the spot nearest to it, and how far off that is

  explicit operator bool() const { return what == What::ground; }
  /// The reason in words, such as "there is nothing but sky".
  std::string why() const;
};

/// What a ray first meets of the ground (`Ground::first_met`), at most 1,000 km away, and the spot of `body`
/// there or the nearest. `reach`: metres that the spot may be off and still count as there, 0 to 1e6.
Picked pick(const Ground& ground, const Ray& ray, const Body& body = {}, float reach = 0.5f);

/// The NPC that a ray first meets, its body taken for an upright cylinder, `slack` metres (0 to 1000) wider
/// and higher; nobody when it meets none, or the ground before.
Npc pick_npc(World& world, const Ray& ray, float slack = 0.f);

}  // namespace ambulon
