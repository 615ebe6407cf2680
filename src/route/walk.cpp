#include "ambulon/route/walk.hpp"

#include <glm/common.hpp>

namespace ambulon {

bool came_by(vec2 was, vec2 now, vec2 centre, float radius) {
  // A hair of tolerance: a step cut at the circle's edge ends on it only up to rounding.
  const float reach = radius + 1e-4f + 1e-6f * (glm::abs(centre.x) + glm::abs(centre.y));
  const vec2 way = now - was, offset = centre - was;
  const float square = glm::dot(way, way);
  const float part = square > 0.f ? glm::clamp(glm::dot(offset, way) / square, 0.f, 1.f) : 0.f;
  const vec2 nearest = offset - part * way;
  return glm::dot(nearest, nearest) <= reach * reach;
}

float metres_left(const Route& route, std::size_t next, vec3 position) {
  float metres = 0.f;
  vec3 from = position;
  for (std::size_t i = next; i < route.bends.size(); ++i) {
    metres += glm::length(route.bends[i] - from);
    from = route.bends[i];
  }
  return metres;
}

}  // namespace ambulon
