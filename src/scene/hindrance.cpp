#include "scene/hindrance.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include <glm/common.hpp>
#include <glm/ext/vector_double3.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"

namespace ambulon::scene {
namespace {

constexpr float anywhere = std::numeric_limits<float>::infinity();
constexpr float step = 0.01f;        // metres: resolution of the radius
constexpr float grain = 0.25f;       // metres: resolution of the place
constexpr float highest_step = 2.f;  // metres

/// Returns the route of a body with that `radius`; without bends if there is none.
Route way_of(const Ground& ground, vec3 from, vec3 to, Body body, float radius) {
  body.radius = radius;
  const Snap start = ground.snap(from, anywhere, body), goal = ground.snap(to, anywhere, body);
  Route route;
  // If the body can only stand elsewhere, there is no route.
  if (start.found && goal.found && start.off <= radius && goal.off <= radius)
    ground.route(start.spot, goal.spot, route);
  return route;
}

}  // namespace

std::optional<Doorway> too_narrow(const Ground& ground, vec3 from, vec3 to, const Body& body) {
  int fits = 0, sticks = static_cast<int>(std::ceil(body.radius / step));
  while (sticks - fits > 1) {
    const int middle = (fits + sticks) / 2;
    (way_of(ground, from, to, body, static_cast<float>(middle) * step).bends.empty() ? sticks : fits) =
        middle;
  }
  if (fits == 0) return std::nullopt;
  Doorway doorway{.at = from, .radius = static_cast<float>(fits) * step};
  const Route route = way_of(ground, from, to, body, doorway.radius);
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

namespace {

/// By how much a crossing exceeds the limits of a body, millimetres.
struct Excess {
  double up = 0, down = 0;
  double worst() const { return std::max({up, down, 0.0}); }
};

Excess excess_of(const MeshCrossing& crossing, const Body& body) {
  if (crossing.kind == Passage::ladder || crossing.kind == Passage::door) return {};  // for all bodies
  const float up = std::max(body.step_up, body.jump_up), down = std::max(up, body.drop_down);
  return {.up = crossing.over - crossing.from.height - 1000.0 * up,
          .down = crossing.over - crossing.to.height - 1000.0 * down};
}

}  // namespace

std::optional<HighStep> too_high(const MeshGround& ground, vec3 from, vec3 to, const Body& body) {
  Body jumper = body;
  jumper.jump_up = std::max(body.jump_up, highest_step);
  jumper.drop_down = std::max(body.drop_down, highest_step);
  const ConvexMesh& mesh = ground.mesh(jumper);
  const Snap start = ground.snap(from, anywhere, jumper), goal = ground.snap(to, anywhere, jumper);
  if (!start.found || !goal.found) return std::nullopt;
  /// The route to a component with the smallest excess, and the crossing with that excess.
  struct PathTo {
    double excess = std::numeric_limits<double>::infinity();
    const MeshCrossing* by = nullptr;
  };
  std::vector<PathTo> ways(mesh.component_count());
  ways[mesh.component(start.spot.piece)].excess = 0;
  for (bool again = true; again;) {
    again = false;
    for (const MeshCrossing& each : ground.crossings(jumper).all()) {
      const PathTo before = ways[mesh.component(each.from.polygon)];
      PathTo& after = ways[mesh.component(each.to.polygon)];
      const double here = excess_of(each, body).worst();
      if (std::max(before.excess, here) >= after.excess) continue;
      after = here > before.excess ? PathTo{here, &each} : before;
      again = true;
    }
  }
  const MeshCrossing* by = ways[mesh.component(goal.spot.piece)].by;
  if (by == nullptr) return std::nullopt;
  const Excess excess = excess_of(*by, body);
  const bool down = excess.down > excess.up;
  const double height = by->over - (down ? by->to : by->from).height;
  return HighStep{.at = vec3(glm::dvec3(by->from.at, by->from.height) / 1000.0),
                  .metres = static_cast<float>(height / 1000.0),
                  .over = static_cast<float>(excess.worst() / 1000.0),
                  .down = down};
}

}  // namespace ambulon::scene
