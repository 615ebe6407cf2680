// Any bytes as what a saved ground says, its mark and its checksum put right: it is refused, or one can walk
// on it.

#include <cmath>
#include <cstring>
#include <string_view>
#include <vector>

#include "ambulon/base/checksum.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "numbers.hpp"

using namespace ambulon;

namespace {

void put(std::vector<std::byte>& bytes, std::uint64_t number) {
  for (int i = 0; i < 8; ++i) bytes.push_back(static_cast<std::byte>(number >> (8 * i)));
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
  constexpr std::string_view mark = "ambulon-ground/3\n";
  std::vector<std::byte> bytes(mark.size());
  std::memcpy(bytes.data(), mark.data(), mark.size());
  const auto* first = reinterpret_cast<const std::byte*>(data);
  put(bytes, size);
  put(bytes, checksum({first, size}));
  bytes.insert(bytes.end(), first, first + size);
  const auto made = MeshGround::restore(bytes);
  if (!made) return 0;
  MeshGround& ground = **made;
  for (const Body& body : {Body{}, Body{.radius = 0.2f, .jump_up = 0.8f, .drop_down = 2, .leap = 1}})
    ask(ground, body);
  ground.put(Barrier::disc({1, 1}, 0.5f).value());
  ask(ground, {});
  return 0;
}
