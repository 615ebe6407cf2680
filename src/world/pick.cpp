#include "ambulon/world/pick.hpp"

#include <fmt/format.h>

#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"
#include "base/ray_hits.hpp"
#include "base/written.hpp"

namespace ambulon {

std::string Picked::why() const {
  switch (what) {
    case What::ground:
      return "it is on the ground, at " + written(at);
    case What::off_ground:
      if (!nearest.found) return "there is no ground at all for that body";
      return fmt::format("{} is off the ground; the nearest spot is {}, {:.2f} m off", written(at),
                         written(nearest.spot.position), nearest.off);
    case What::sky:
      return "there is nothing but sky";
    case What::nonsense:
      return "the ray is not finite or has no direction";
  }
  return {};
}

Picked pick(const Ground& ground, const Ray& ray, const Body& body, float reach) {
  Picked picked;
  if (!sound(ray)) return picked;
  picked.what = Picked::What::sky;
  const auto met = ground.first_met(ray);
  if (!met) return picked;
  picked.at = *met;
  picked.metres = glm::distance(ray.from, *met);
  picked.nearest = ground.snap(*met, reach, body);
  picked.what = picked.nearest ? Picked::What::ground : Picked::What::off_ground;
  return picked;
}

Npc pick_npc(World& world, const Ray& ray, float slack) {
  if (!sound(ray) || !(slack >= 0.f)) return {};
  Npc first;
  double min = 1e6;
  if (const auto met = world.ground().first_met(ray)) min = glm::distance(ray.from, *met) + 1e-3;
  world.each([&](Npc npc) {
    const Body body = npc.body();
    const vec3 at = npc.position();
    const vec2 middle = flat(at);
    const auto metres = into_column(ray, {&middle, 1}, body.radius + slack, at.z, at.z + body.height + slack);
    if (metres && *metres < min) min = *metres, first = npc;
  });
  return first;
}

}  // namespace ambulon
