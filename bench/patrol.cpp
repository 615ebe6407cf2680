// Nanoseconds per NPC and tick, and bytes per NPC, of patrols on open ground. Baseline: a plain loop that
// walks the same beats without heading, acceleration, errands or world.

#include <vector>

#include <benchmark/benchmark.h>

#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"
#include "counting_memory.hpp"

namespace {

using namespace ambulon;

constexpr float tick_seconds = 1.f / 60.f;

/// A square beat of 12 m somewhere on a large quay.
std::vector<vec3> square(std::size_t index) {
  const vec3 corner(static_cast<float>(index % 1000) * 3.f, static_cast<float>(index / 1000) * 3.f, 0.f);
  return {corner, corner + vec3(12, 0, 0), corner + vec3(12, 12, 0), corner + vec3(0, 12, 0)};
}

void patrolling(benchmark::State& state) {
  const auto count = static_cast<std::size_t>(state.range(0));
  CountingMemory memory;
  World world({.journal = 4096, .memory = &memory});
  const std::size_t empty = memory.bytes;
  for (std::size_t i = 0; i < count; ++i) {
    const auto beat = square(i);
    const Npc npc = *world.add({.at = beat[i % 4]});
    npc.patrol(beat);
  }
  for (int tick = 0; tick < 600; ++tick) world.tick(tick_seconds);  // each is on a leg of its own by now
  for (auto _ : state) world.tick(tick_seconds);
  state.counters["ns_per_npc"] =
      benchmark::Counter(static_cast<double>(count) * 1e-9,
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
  state.counters["bytes_per_npc"] = static_cast<double>(memory.bytes - empty) / static_cast<double>(count);
}
BENCHMARK(patrolling)->Arg(1000)->Arg(10'000)->Arg(100'000)->Unit(benchmark::kMicrosecond);

void plainest_loop(benchmark::State& state) {
  struct Walker {
    vec2 at;
    std::size_t next;
    std::vector<vec3> beat;
  };
  const auto count = static_cast<std::size_t>(state.range(0));
  std::vector<Walker> walkers;
  for (std::size_t i = 0; i < count; ++i) walkers.push_back({flat(square(i)[i % 4]), (i + 1) % 4, square(i)});
  for (auto _ : state) {
    for (Walker& walker : walkers) {
      const vec2 way = flat(walker.beat[walker.next]) - walker.at;
      const float metres = glm::length(way);
      if (metres < 0.3f)
        walker.next = (walker.next + 1) % walker.beat.size();
      else
        walker.at += way * (1.4f * tick_seconds / metres);
    }
    benchmark::DoNotOptimize(walkers.data());
  }
  state.counters["ns_per_npc"] =
      benchmark::Counter(static_cast<double>(count) * 1e-9,
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(plainest_loop)->Arg(1000)->Arg(10'000)->Arg(100'000)->Unit(benchmark::kMicrosecond);

}  // namespace

BENCHMARK_MAIN();
