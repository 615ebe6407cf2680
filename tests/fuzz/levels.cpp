// Any bytes as triangles of a level, with barriers and queries: walks end on the ground, routes have the same
// length in both directions, and after changes the ground equals one built from scratch.

#include <cmath>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "numbers.hpp"

using namespace ambulon;

namespace {

vec3 point(Numbers& in, float raster) {
  const int x = in.next(60), y = in.next(60), z = in.next(30);
  return raster * vec3(x, y, z);
}

Level level_of(Numbers& in) {
  const float raster = in.next(4) == 0 ? 0.013f : 0.1f;
  Level level{.corners = {{0, 0, 0}, {6, 0, 0}, {6, 6, 0}, {0, 6, 0}},
              .triangles = {{{0, 1, 2}}, {{0, 3, 2}}}};
  for (int i = in.next(12); i > 0; --i) {
    const auto first = static_cast<std::uint32_t>(level.corners.size());
    const vec3 a = point(in, raster), b = point(in, raster), c = point(in, raster);
    const auto kind = static_cast<Level::Kind>(in.next(8) == 0 ? 1 : 0);
    level.corners.insert(level.corners.end(), {a, b, c, a + b - c});
    level.triangles.push_back({{first, first + 1, first + 2}, kind});
    if (in.next(2) == 0) level.triangles.push_back({{first, first + 1, first + 3}, kind});
  }
  return level;
}

void ask(const MeshGround& ground, vec3 one, vec3 other, const Body& body) {
  const Snap from = ground.snap(one, 99, body), to = ground.snap(other, 99, body);
  require(from.found == to.found);
  if (!from.found) return;
  require(ground.snap(from.spot.position, 1, body).off < 2e-3f);
  Route route;
  ground.route(from.spot, to.spot, route);
  require(route.complete == ground.reachable(from.spot, to.spot));
  require(route.complete == std::isfinite(ground.distance(from.spot, to.spot)));
  const float back = ground.distance(to.spot, from.spot);
  if (body.jump_up == 0) {  // else there are ways that go one way only
    require(route.complete == std::isfinite(back));
    if (route.complete) require(std::abs(back - route.length_xy) <= 1e-3f + 1e-5f * back);
  }
  const Stretch walk = ground.straight(from.spot, vec2(other - one));
  require(walk.metres >= 0 && std::isfinite(walk.metres));
  require(ground.snap(walk.end.position, 1, body).off < 2e-3f);
  Random random(1);
  require(ground.reachable(from.spot, ground.random_spot(random, from.spot, 3)));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  Numbers in{data, size};
  const LevelRules rules{.gap = in.next(2) == 0 ? 0.03f : 0.f, .closed = in.next(4) == 0};
  Body body{.radius = 0.1f * static_cast<float>(in.next(5)), .height = 1.7f, .step_up = 0.3f};
  if (in.next(3) == 0) body.jump_up = 0.9f, body.drop_down = 2, body.leap = 1;
  const Level level = level_of(in);
  auto made = MeshGround::make(level, rules);
  require(made.has_value());
  MeshGround& ground = **made;
  (void)ground.mesh(body);
  std::vector<BarrierId> barriers;
  for (int step = 0; step < 8 && !in.empty(); ++step) {
    switch (in.next(3)) {
      case 0: {
        const vec3 at = point(in, 0.1f);
        if (const auto disc = Barrier::disc({at.x, at.y}, 0.05f * static_cast<float>(1 + in.next(30))))
          barriers.push_back(ground.put(in.next(2) == 0 ? *disc : disc->between(at.z, at.z + 1)));
        break;
      }
      case 1:
        if (!barriers.empty()) {
          require(ground.remove(barriers.back()).has_value());
          barriers.pop_back();
        }
        break;
      default: {
        const vec3 from = point(in, 0.1f), to = point(in, 0.1f);
        ask(ground, from, to, body);
      }
    }
  }
  const auto fresh = MeshGround::make(level, rules);
  for (const auto& placed : ground.barriers()) (*fresh)->put(placed.barrier);
  const double kept = ground.mesh(body).area(), wanted = (*fresh)->mesh(body).area();
  require(std::abs(kept - wanted) <= 1e-9 * wanted + 1);
  return 0;
}
