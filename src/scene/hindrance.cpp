#include "doorway.hpp"

#include <cmath>

#include <glm/common.hpp>

namespace ambulon::scene {
namespace {

constexpr float anywhere = std::numeric_limits<float>::infinity();
constexpr float step = 0.01f;   // metres by which the radius is found
constexpr float grain = 0.25f;  // metres by which the place is found

/// The way of a body of `radius`; without bends when there is none.
Route way_of(const Ground& ground, vec3 from, vec3 to, float radius) {
  const Body body{.radius = radius};
  const Snap start = ground.snap(from, anywhere, body), goal = ground.snap(to, anywhere, body);
  Route route;
  // A wide body that has to stand elsewhere is not asked about.
  if (start.found && goal.found && start.off <= radius && goal.off <= radius)
    ground.route(start.spot, goal.spot, route);
  return route;
}

}  // namespace

std::optional<Doorway> too_narrow(const Ground& ground, vec3 from, vec3 to, const Body& body) {
  int fits = 0, sticks = static_cast<int>(std::ceil(body.radius / step));
  while (sticks - fits > 1) {
    const int middle = (fits + sticks) / 2;
    (way_of(ground, from, to, static_cast<float>(middle) * step).bends.empty() ? sticks : fits) = middle;
  }
  if (fits == 0) return std::nullopt;
  Doorway doorway{.at = from, .radius = static_cast<float>(fits) * step};
  const Route route = way_of(ground, from, to, doorway.radius);
  const Spot home = ground.snap(from, anywhere, body).spot;
  for (std::size_t i = 1; i < route.bends.size(); ++i) {
    const vec3 leg = route.bends[i] - route.bends[i - 1];
    const int pieces = 1 + static_cast<int>(glm::length(leg) / grain);
    for (int piece = 1; piece <= pieces; ++piece) {
      const vec3 at = route.bends[i - 1] + leg * (static_cast<float>(piece) / static_cast<float>(pieces));
      const Snap spot = ground.snap(at, body.radius + grain, body);
      if (spot && ground.reachable(home, spot.spot)) doorway.at = at;
    }
  }
  return doorway;
}

}  // namespace ambulon::scene
