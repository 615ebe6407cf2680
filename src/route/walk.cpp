#include "ambulon/route/walk.hpp"

namespace ambulon {

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
