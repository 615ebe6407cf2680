// Any bytes as a plan, with edits and queries: after each, the ground equals one built from scratch, routes
// lie on it and have the same length in both directions.

#include <cmath>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "numbers.hpp"

using namespace ambulon;

namespace {

/// Points within a few metres, on a grid of decimetres or millimetres.
vec2 point(Numbers& in, float raster) {
  const int x = in.next(100), y = in.next(100);
  return raster * vec2(x, y);
}

std::vector<vec2> line(Numbers& in, float raster, int min) {
  std::vector<vec2> points;
  for (int i = min + in.next(8); i > 0; --i) points.push_back(point(in, raster));
  return points;
}

Plan plan_of(Numbers& in) {
  const float raster = in.next(4) == 0 ? 0.001f : 0.1f;
  Plan plan;
  for (int i = 1 + in.next(2); i > 0; --i) plan.outlines.push_back(line(in, raster, 3));
  if (in.next(2) == 0) plan.outlines.push_back({{0, 0}, {10, 0}, {10, 10}, {0, 10}});
  for (int i = in.next(3); i > 0; --i) plan.holes.push_back(line(in, raster, 3));
  for (int i = in.next(4); i > 0; --i) plan.solids.push_back(line(in, raster, 3));
  for (int i = in.next(3); i > 0; --i)
    plan.walls.push_back({line(in, raster, 2), 0.05f * static_cast<float>(1 + in.next(9))});
  return plan;
}

void ask(const MeshGround& ground, vec2 one, vec2 other, float radius) {
  const Body body{.radius = radius};
  const Snap from = ground.snap(lift(one), 99, body), to = ground.snap(lift(other), 99, body);
  require(from.found == to.found);
  if (!from.found) return;
  Route route;
  ground.route(from.spot, to.spot, route);
  require(route.complete == !route.bends.empty());
  const float back = ground.distance(to.spot, from.spot);
  require(route.complete == std::isfinite(back));
  if (!route.complete) return;
  require(std::abs(back - route.length_xy) <= 1e-3f + 1e-5f * back);
  for (std::size_t i = 0; i + 1 < route.bends.size(); ++i)
    for (const float part : {0.25f, 0.5f, 0.75f}) {
      const vec3 at = route.bends[i] + part * (route.bends[i + 1] - route.bends[i]);
      require(ground.snap(at, 1, body).off < 2e-3f);
    }
  const Stretch walk = ground.straight(from.spot, other - one);
  require(walk.metres >= 0 && std::isfinite(walk.metres));
  require(ground.snap(walk.end.position, 1, body).off < 2e-3f);
  Random random(1);
  const Spot spot = ground.random_spot(random, from.spot, 3);
  require(std::isfinite(ground.distance(from.spot, spot)));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  Numbers in{data, size};
  const Plan plan = plan_of(in);
  auto made = MeshGround::make(plan);
  require(made.has_value());
  MeshGround& ground = **made;
  (void)ground.mesh({.radius = 0.3f});
  std::vector<BarrierId> barriers;
  for (int step = 0; step < 12 && !in.empty(); ++step) {
    switch (in.next(4)) {
      case 0:
        if (const auto disc = Barrier::disc(point(in, 0.1f), 0.05f * static_cast<float>(1 + in.next(30))))
          barriers.push_back(ground.put(*disc));
        break;
      case 1:
        if (!barriers.empty())
          if (const auto box = Barrier::box(point(in, 0.1f), {1, 0.5f + static_cast<float>(in.next(4))},
                                            static_cast<float>(in.next(7))))
            require(ground.move(barriers.back(), *box).has_value());
        break;
      case 2:
        if (!barriers.empty()) {
          require(ground.remove(barriers.back()).has_value());
          barriers.pop_back();
        }
        break;
      default: {
        const vec2 from = point(in, 0.1f), to = point(in, 0.1f);
        ask(ground, from, to, in.next(2) == 0 ? 0.3f : 0.f);
      }
    }
  }
  const auto fresh = MeshGround::make(plan);
  for (const auto& placed : ground.barriers()) (*fresh)->put(placed.barrier);
  const double kept = ground.mesh({.radius = 0.3f}).area(), wanted = (*fresh)->mesh({.radius = 0.3f}).area();
  require(std::abs(kept - wanted) <= 1e-9 * wanted + 1);
  return 0;
}
