// A patrol of ten million ticks: its memory and its orders must not grow. Prints both ten times, and fails if
// either changed after the first tenth.

#include <cstdio>

#include "ambulon/world/world.hpp"

#include "counting_memory.hpp"

namespace {

using namespace ambulon;

unsigned orders_ended(const Statistics& statistics) {
  unsigned sum = 0;
  for (const unsigned count : statistics.endings) sum += count;
  return sum;
}

}  // namespace

int main() {
  constexpr int ticks = 10'000'000, tenth = ticks / 10;
  CountingMemory memory;
  World world({.journal = 256, .memory = &memory});
  const Npc lamplighter = *world.add({.name = "lamplighter", .at = vec3(2, 3, 0)});
  const vec3 lamps[] = {{2, 3, 0}, {6.5f, 3, 0}, {12, 3.5f, 0}, {6, 9, 0}};
  lamplighter.patrol(lamps);
  std::size_t bytes_then = 0;
  for (int tick = 1; tick <= ticks; ++tick) {
    world.tick(1.f / 60.f);
    if (tick % tenth != 0) continue;
    const unsigned orders = orders_ended(lamplighter.statistics()) + (lamplighter.busy() ? 1U : 0U);
    std::printf("%9d ticks: %zu bytes, %u order, %u waypoints reached\n", tick, memory.bytes, orders,
                lamplighter.statistics().arrivals);
    if (tick == tenth) bytes_then = memory.bytes;
    if (memory.bytes != bytes_then || orders != 1) return 1;
  }
  return 0;
}
