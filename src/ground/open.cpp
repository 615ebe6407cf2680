#include "ambulon/ground/open.hpp"

#include <cmath>

#include <glm/common.hpp>

#include "ambulon/base/angle.hpp"

namespace ambulon {

Snap OpenGround::snap(vec3 point, float reach) const {
  if (!finite(point)) return {};
  const vec2 nearest = glm::clamp(flat(point), vec2(-extent), vec2(extent));
  const float off = glm::length(nearest - flat(point));
  return {.spot = {.position = lift(nearest)}, .off = off, .found = true, .within = off <= reach};
}

void OpenGround::route(const Spot& from, const Spot& to, Route& route) const {
  route.bends.clear();
  route.bends.push_back(from.position);
  route.bends.push_back(to.position);
  route.length = glm::length(to.position - from.position);
  route.complete = true;
}

bool OpenGround::sight(const Spot&, const Spot&) const { return true; }

Spot OpenGround::random_spot(Random& random, const Spot& around, float radius) const {
  // The square root makes rings of equal area equally likely.
  const float away = radius * std::sqrt(random.fraction());
  const vec2 offset = away * unit(2.f * pi * random.fraction());
  return snap(around.position + lift(offset), 0.f).spot;
}

float OpenGround::distance(const Spot& from, const Spot& to) const {
  return glm::length(to.position - from.position);
}

}  // namespace ambulon
