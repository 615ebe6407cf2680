// Any bytes as a sequence of edits and queries: after each, the ground equals one built from scratch.

#include <cmath>

#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "numbers.hpp"

using namespace ambulon;

namespace {

void compare(const TileGround& ground, const std::vector<std::uint8_t>& surface) {
  const TileMap& map = ground.map();
  TileGround fresh(
      TileMap::make(surface, {.width = map.width(), .height = map.height(), .rules = map.rules()}).value());
  for (const auto& placed : ground.barriers()) fresh.put(placed.barrier);
  for (const float radius : {0.3f, 1.2f}) {
    const TileLayer &kept = ground.layer(radius), &made = fresh.layer(radius);
    for (int y = 0; y < map.height(); ++y)
      for (int x = 0; x < map.width(); ++x) {
        require(kept.map().free({x, y}) == made.map().free({x, y}));
        require(kept.components().size(kept.components().component(kept.map(), {x, y})) ==
                    made.components().size(made.components().component(made.map(), {x, y})) ||
                !kept.map().free({x, y}));
      }
  }
}

void ask(const TileGround& ground, vec3 one, vec3 other, float radius) {
  const Body body{.radius = radius};
  const Snap from = ground.snap(one, 99, body), to = ground.snap(other, 99, body);
  require(from.found == to.found);
  if (!from.found) return;
  Route route;
  ground.route(from.spot, to.spot, route);
  require(route.complete == !route.bends.empty());
  if (!route.complete) return;
  require(std::isfinite(route.length_xy) && route.length_xy > -1e-6f);
  require(route.bends.front() == from.spot.position && route.bends.back() == to.spot.position);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  Numbers in{data, size};
  const int width = 1 + in.next(24), height = 1 + in.next(24);
  const TileRules rules{static_cast<Neighbours>(in.next(2)), static_cast<Corners>(in.next(3))};
  std::vector<std::uint8_t> surface(static_cast<std::size_t>(width * height), 1);
  TileGround ground(TileMap::make(surface, {.width = width, .height = height, .rules = rules}).value());
  (void)ground.layer(1.2f);
  const auto point = [&] {
    return vec3(0.1f * static_cast<float>(in.next(250)), 0.1f * static_cast<float>(in.next(250)), 0);
  };
  const vec3 goal = point();
  FlowField field(ground, std::span(&goal, 1));
  std::vector<BarrierId> barriers;
  for (int step = 0; step < 40 && !in.empty(); ++step) {
    switch (in.next(5)) {
      case 0: {
        const Cell low{in.next(width), in.next(height)}, high{low.x + in.next(5), low.y + in.next(5)};
        const auto value = static_cast<std::uint8_t>(in.next(4));
        const CellBox box = ground.fill({low, high}, value).value();
        for (int y = box.low.y; y <= box.high.y; ++y)
          for (int x = box.low.x; x <= box.high.x; ++x) surface[ground.map().index({x, y})] = value;
        break;
      }
      case 1:
        if (const auto disc = Barrier::disc(flat(point()), 0.1f * static_cast<float>(1 + in.next(30))))
          barriers.push_back(ground.put(*disc));
        break;
      case 2:
        if (!barriers.empty())
          if (const auto box = Barrier::box(flat(point()), {1, 0.5f + static_cast<float>(in.next(4))},
                                            static_cast<float>(in.next(7))))
            (void)ground.move(barriers.back(), *box);
        break;
      case 3:
        if (!barriers.empty()) {
          (void)ground.remove(barriers.back());
          barriers.pop_back();
        }
        break;
      default:
        ask(ground, point(), point(), 0.1f * static_cast<float>(1 + in.next(15)));
    }
    (void)field.update();
  }
  compare(ground, surface);
  const FlowField fresh(ground, std::span(&goal, 1));
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const float kept = field.distance_of({x, y}), made = fresh.distance_of({x, y});
      require(kept == made || std::abs(kept - made) < 1e-3f * (1 + made));
    }
  return 0;
}
