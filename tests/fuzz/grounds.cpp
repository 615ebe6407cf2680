// A saved ground, damaged anywhere, with corrected length and checksum: it is refused, or it is walkable.

#include <algorithm>
#include <cstring>
#include <vector>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/checksum.hpp"
#include "numbers.hpp"
#include "solid.hpp"

using namespace ambulon;

namespace {

const Body hopper{.radius = 0.2f, .jump_up = 0.8f, .drop_down = 2, .leap = 1};

std::unique_ptr<MeshGround> ground_of(Choices& choose) {
  if (choose.whole(0, 3) == 0)
    return MeshGround::make(Plan{.outlines = {{{0, 0}, {8, 0}, {8, 6}, {0, 6}}},
                                 .solids = {{{3, 2}, {5, 2}, {5, choose.between(3, 5)}}},
                                 .walls = {{.line = {{1, 5}, {7, 5}}, .thickness = 0.1f}},
                                 .regions = {{.ring = {{0, 0}, {4, 0}, {4, 4}}, .cost = 3}}})
        .value();
  Level level;
  std::vector<Solid> solids = random_solids(choose);
  solids.resize(std::min<std::size_t>(solids.size(), 3));  // more take longer, and add nothing
  for (const Solid& solid : solids) add_solid(level, solid, [](std::size_t) { return std::size_t{0}; });
  if (level.triangles.empty()) return nullptr;
  level.triangles[0].cost = 2;
  LevelRules rules;
  if (choose.flag()) rules.reach_from = {{4, 4, 0}};
  return MeshGround::make(level, rules).value();
}

/// Changes, removes or repeats some bytes.
void damage(std::vector<std::byte>& bytes, std::size_t head, ByteChoices& choose) {
  while (!choose.empty() && bytes.size() > head + 8) {
    const auto at = head + (choose.index(256) << 16U | choose.index(65'536)) % (bytes.size() - head - 8);
    const auto place = bytes.begin() + static_cast<std::ptrdiff_t>(at);
    switch (choose.whole(0, 5)) {
      case 0:
        *place = static_cast<std::byte>(choose.whole(0, 256));
        break;
      case 1: {  // a number that is a little more or less
        std::int32_t number = 0;
        std::memcpy(&number, &*place, sizeof number);
        number = static_cast<std::int32_t>(static_cast<std::uint32_t>(number) +
                                           static_cast<std::uint32_t>(choose.whole(-3, 4)));
        std::memcpy(&*place, &number, sizeof number);
        break;
      }
      case 2:  // or no number, or an enormous one
        std::memset(&*place, choose.flag() ? 0xff : 0x7f, choose.flag() ? 8 : 4);
        break;
      case 3:
        bytes.erase(place, place + std::min<std::ptrdiff_t>(choose.whole(1, 64), bytes.end() - place));
        break;
      default: {
        const std::vector<std::byte> some(place, place + 8);
        bytes.insert(place, some.begin(), some.end());
      }
    }
  }
}

void put(std::byte* to, std::uint64_t number) {
  for (int i = 0; i < 8; ++i) to[i] = static_cast<std::byte>(number >> (8 * i));
}

void ask(const MeshGround& ground, const Body& body) {
  const Snap from = ground.snap({0.5f, 0.5f, 0}, 9, body), to = ground.snap({3, 2, 1}, 9, body);
  require(from.found == to.found);
  if (!from.found) return;
  Route route;
  ground.route(from.spot, to.spot, route);
  require(route.complete == ground.reachable(from.spot, to.spot));
  (void)ground.straight(from.spot, vec2(5, 4));
  (void)ground.nearest_edge(from.spot, 3);
  (void)ground.clearance(from.spot, 3);
  Random random(1);
  (void)ground.random_spot(random, from.spot, 4);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  ByteChoices choose(data, size);
  const auto whole = ground_of(choose);
  if (!whole) return 0;
  (void)whole->place({.from = {1, 1, 0}, .to = {6, 4, 1}});
  for (const Body& body : {Body{}, hopper}) (void)whole->mesh(body);
  std::vector<std::byte> bytes = whole->save().value();
  const std::size_t head =
      static_cast<std::size_t>(std::ranges::find(bytes, std::byte{'\n'}) - bytes.begin()) + 17;
  damage(bytes, head, choose);
  put(&bytes[head - 16], bytes.size() - head);
  put(&bytes[head - 8], checksum(std::span(bytes).subspan(head)));
  const auto made = MeshGround::restore(bytes);
  require(size > 0 || made.has_value());
  if (!made) return 0;
  MeshGround& ground = **made;
  for (const Body& body : {Body{}, hopper}) ask(ground, body);
  ground.put(Barrier::disc({1, 1}, 0.5f).value());
  ask(ground, {});
  return 0;
}
