#include "hindrance.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <glm/common.hpp>

namespace ambulon::scene {
namespace {

constexpr float anywhere = std::numeric_limits<float>::infinity();
constexpr float step = 0.01f;        // metres by which the radius is found
constexpr float grain = 0.25f;       // metres by which the place is found
constexpr float highest_step = 2.f;  // metres
using dvec3 = glm::dvec3;

/// The way of a body when it has `radius`; without bends when there is none.
Route way_of(const Ground& ground, vec3 from, vec3 to, Body body, float radius) {
  body.radius = radius;
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

std::optional<HighStep> too_high(const MeshGround& ground, vec3 from, vec3 to, const Body& body) {
  Body jumper = body;
  jumper.jump_up = jumper.drop_down = highest_step;
  const ConvexMesh& mesh = ground.mesh(jumper);
  const Snap start = ground.snap(from, anywhere, jumper), goal = ground.snap(to, anywhere, jumper);
  if (!start.found || !goal.found) return std::nullopt;
  std::vector<std::pair<double, const MeshCrossing*>> steps;  // by their heights
  for (const MeshCrossing& each : ground.crossings(jumper).all())
    steps.emplace_back(each.over - std::min(each.from.height, each.to.height), &each);
  std::ranges::stable_sort(steps, {}, &std::pair<double, const MeshCrossing*>::first);
  std::vector<std::uint32_t> joined(mesh.component_count());  // with which of the components
  std::iota(joined.begin(), joined.end(), 0U);
  const auto root = [&](std::uint32_t polygon) {
    std::uint32_t component = mesh.component(polygon);
    while (joined[component] != component) component = joined[component] = joined[joined[component]];
    return component;
  };
  for (const auto& [height, crossing] : steps) {
    joined[root(crossing->from.polygon)] = root(crossing->to.polygon);
    if (root(start.spot.piece) != root(goal.spot.piece)) continue;
    const MeshCrossing::End& foot =
        crossing->from.height < crossing->to.height ? crossing->from : crossing->to;
    return HighStep{vec3(dvec3(foot.at, foot.height) / 1000.0), static_cast<float>(height / 1000.0)};
  }
  return std::nullopt;
}

}  // namespace ambulon::scene
