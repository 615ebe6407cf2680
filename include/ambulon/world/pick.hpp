#pragma once

#include <optional>
#include <string>

#include "ambulon/base/public.hpp"
#include "ambulon/base/ray.hpp"
#include "ambulon/ground/ground.hpp"
#include "ambulon/world/npc.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The hit of a ray. True if the body can stand there.
struct Picked {
  /// What a ray hit first.
  enum class What : std::uint8_t {
    ground,      ///< a place where the body can stand, or within `reach` metres of one
    off_ground,  ///< a wall, a roof, a barrier, or outside of the ground
    sky,         ///< nothing
    nonsense,    ///< the ray is not `sound`
  };
  What what = What::nonsense;
  vec3 at{0.f};        ///< metres: the first hit, of ground and off_ground
  float metres = 0.f;  ///< along the ray
  Snap nearest = {};   ///< the spot nearest to the hit, and its distance

  explicit operator bool() const { return what == What::ground; }
  /// Returns the reason in words, such as "there is nothing but sky".
  std::string why() const;
};

/// Casts a ray at the ground (`Ground::first_met`, at most 1,000 km), and returns the hit with the nearest
/// spot of `body`. `reach`: largest distance of that spot in metres, 0 to 1e6.
Picked pick(const Ground& ground, const Ray& ray, const Body& body = {}, float reach = 0.5f);

/// Returns the first NPC that a ray hits; empty if it hits none, or the ground before. Bodies are upright
/// cylinders, enlarged by `slack` metres (0 to 1000).
Npc pick_npc(World& world, const Ray& ray, float slack = 0.f);

}  // namespace ambulon
