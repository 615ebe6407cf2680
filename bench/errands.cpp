// Nanoseconds per NPC and tick of each errand, with 10,000 NPCs on open ground. Also the cost of an await,
// and for two errands a plain loop with the same arithmetic.

#include <algorithm>
#include <vector>

#include <benchmark/benchmark.h>

#include "ambulon/script/routine.hpp"
#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"

namespace {

using namespace ambulon;

constexpr float tick_seconds = 1.f / 60.f;
constexpr std::size_t everybody = 10'000;

/// A place for each, three metres apart.
vec3 place(std::size_t index) {
  return {static_cast<float>(index % 100) * 3.f, static_cast<float>(index / 100) * 3.f, 0.f};
}

void per_npc(benchmark::State& state) {
  state.counters["ns_per_npc"] =
      benchmark::Counter(static_cast<double>(everybody) * 1e-9,
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

/// 10,000 NPCs; `give(world, npc, index)` has given each an order.
template <class Give>
void measure(benchmark::State& state, Give&& give) {
  World world({.journal = 4096});
  std::vector<Npc> all;
  for (std::size_t i = 0; i < everybody; ++i)
    all.push_back(*world.add({.at = place(i), .tags = i % 10 == 0 ? *world.tag("leader") : Tags{}}));
  for (std::size_t i = 0; i < everybody; ++i) give(world, all, i);
  for (int tick = 0; tick < 300; ++tick) (void)world.tick(tick_seconds);
  for (auto _ : state) (void)world.tick(tick_seconds);
  per_npc(state);
}

/// One in ten patrols; the others follow it.
template <class Give>
void measure_about_leaders(benchmark::State& state, Give&& give) {
  measure(state, [&](World&, const std::vector<Npc>& all, std::size_t i) {
    const vec3 to_and_fro[] = {place(i), place(i) + vec3(40, 10, 0)};
    if (i % 10 == 0)
      all[i].patrol(to_and_fro);
    else
      give(all[i], all[i - i % 10]);
  });
}

void standing(benchmark::State& state) {
  measure(state, [](World&, const std::vector<Npc>&, std::size_t) {});
}
void going(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) { all[i].go_to(place(i) + vec3(5e4f, 100, 0)); });
}
void patrolling(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) {
    const vec3 beat[] = {place(i), place(i) + vec3(12, 0, 0), place(i) + vec3(6, 9, 0)};
    all[i].patrol(beat);
  });
}
void roaming(benchmark::State& state) {
  measure(state,
          [](World&, const auto& all, std::size_t i) { all[i].roam({.radius = 10, .pause = {0, 2}}); });
}
void hopping(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) {
    const vec3 points[] = {place(i), place(i) + vec3(8, 0, 0), place(i) + vec3(4, 6, 0)};
    all[i].hop(points);
  });
}
void following(benchmark::State& state) {
  measure_about_leaders(state, [](Npc me, Npc leader) { me.follow(leader); });
}
void following_the_nearest(benchmark::State& state) {
  measure_about_leaders(state, [](Npc me, Npc) { me.follow(World::one_of(*me.world()->tag("leader"))); });
}
void chasing(benchmark::State& state) {
  measure_about_leaders(state, [](Npc me, Npc leader) { me.chase(leader, {.reach = 0.01f}); });
}
void fleeing(benchmark::State& state) {
  measure_about_leaders(state, [](Npc me, Npc leader) { me.flee(leader, {.reach = 1e5f}); });
}
void escorting(benchmark::State& state) {
  measure_about_leaders(state, [](Npc me, Npc leader) { me.escort(leader); });
}
void easing(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) {
    all[i].ease_to(place(i) + vec3(900, 50, 0), {.seconds = 1e5f});
  });
}
void swaying(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) { all[i].sway({.axis = {2, 1, 0}}); });
}
void pacing(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) {
    all[i].pace({.heading = 0.3f * static_cast<float>(i)});
  });
}
void wandering(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) { all[i].wander({.radius = 10}); });
}
void steering_one_behaviour(benchmark::State& state) {
  measure_about_leaders(state, [](Npc me, Npc leader) {
    auto blend = std::make_shared<Blend>();
    (void)blend->add({.behaviour = Behaviour::seek, .target = leader.id()});
    me.steer(blend);
  });
}
void steering_a_flock(benchmark::State& state) {
  auto blend = std::make_shared<Blend>();
  (void)blend->add({.behaviour = Behaviour::separation, .weight = 2, .within = 1});
  (void)blend->add({.behaviour = Behaviour::alignment, .within = 4});
  (void)blend->add({.behaviour = Behaviour::cohesion, .within = 4});
  (void)blend->add({.behaviour = Behaviour::wander, .weight = 0.3f});
  measure(state, [&](World&, const auto& all, std::size_t i) { all[i].steer(blend, {.min_speed = 0.5f}); });
}

Routine paused(Npc me) {
  for (;;) co_await me.pause(1e6f);
}
/// A lasting order, with and without a routine that awaits it: the difference is the await.
void pausing(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) { all[i].pause(1e6f); });
}
void pausing_in_a_routine(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) { start(all[i], paused); });
}

Routine pausing_shortly(Npc me) {
  for (;;) co_await me.pause(tick_seconds);
}
/// An order that ends in each tick and is given again, by a callback and by a routine.
void an_order_a_tick_by_callback(benchmark::State& state) {
  struct Again {
    void operator()(Npc me, const Outcome&) const { me.pause(tick_seconds).on_end(*this); }
  };
  measure(state, [](World&, const auto& all, std::size_t i) { all[i].pause(tick_seconds).on_end(Again()); });
}
void an_order_a_tick_by_await(benchmark::State& state) {
  measure(state, [](World&, const auto& all, std::size_t i) { start(all[i], pausing_shortly); });
}

/// The arithmetic of following only: straight to the leader, at its speed when near.
void plainest_following(benchmark::State& state) {
  struct Walker {
    vec2 at, velocity;
  };
  std::vector<Walker> all;
  for (std::size_t i = 0; i < everybody; ++i) all.push_back({flat(place(i)), {0.f, 0.f}});
  float time = 0.f;
  for (auto _ : state) {
    time += tick_seconds;
    for (std::size_t i = 0; i < everybody; ++i) {
      Walker& me = all[i];
      vec2 wanted(std::fmod(time, 60.f) < 30.f ? 1.4f : -1.4f, 0.f);
      if (i % 10 != 0) {
        const vec2 way = all[i - i % 10].at - me.at;
        const float gap = glm::length(way) - 1.5f;
        wanted = direction(way) * std::min(1.4f, gap > 0.f ? std::sqrt(8.f * gap) : 0.f);
      }
      const vec2 change = wanted - me.velocity;
      const float size = glm::length(change), max = 4.f * tick_seconds;
      me.velocity += size > max ? change * (max / size) : change;
      me.at += me.velocity * tick_seconds;
    }
    benchmark::DoNotOptimize(all.data());
  }
  per_npc(state);
}

/// The arithmetic of swaying only.
void plainest_swaying(benchmark::State& state) {
  std::vector<vec2> all(everybody), middle(everybody);
  for (std::size_t i = 0; i < everybody; ++i) middle[i] = flat(place(i));
  double time = 0;
  for (auto _ : state) {
    time += tick_seconds;
    for (std::size_t i = 0; i < everybody; ++i) {
      const double cycles = time * 0.1 + 1e-3 * static_cast<double>(i);
      all[i] = middle[i] + vec2(2, 1) * unit(2.f * pi * static_cast<float>(cycles - std::floor(cycles))).y;
    }
    benchmark::DoNotOptimize(all.data());
  }
  per_npc(state);
}

BENCHMARK(standing)->Unit(benchmark::kMicrosecond);
BENCHMARK(going)->Unit(benchmark::kMicrosecond);
BENCHMARK(patrolling)->Unit(benchmark::kMicrosecond);
BENCHMARK(roaming)->Unit(benchmark::kMicrosecond);
BENCHMARK(hopping)->Unit(benchmark::kMicrosecond);
BENCHMARK(following)->Unit(benchmark::kMicrosecond);
BENCHMARK(plainest_following)->Unit(benchmark::kMicrosecond);
BENCHMARK(following_the_nearest)->Unit(benchmark::kMicrosecond);
BENCHMARK(chasing)->Unit(benchmark::kMicrosecond);
BENCHMARK(fleeing)->Unit(benchmark::kMicrosecond);
BENCHMARK(escorting)->Unit(benchmark::kMicrosecond);
BENCHMARK(easing)->Unit(benchmark::kMicrosecond);
BENCHMARK(swaying)->Unit(benchmark::kMicrosecond);
BENCHMARK(plainest_swaying)->Unit(benchmark::kMicrosecond);
BENCHMARK(pacing)->Unit(benchmark::kMicrosecond);
BENCHMARK(wandering)->Unit(benchmark::kMicrosecond);
BENCHMARK(steering_one_behaviour)->Unit(benchmark::kMicrosecond);
BENCHMARK(steering_a_flock)->Unit(benchmark::kMicrosecond);
BENCHMARK(pausing)->Unit(benchmark::kMicrosecond);
BENCHMARK(pausing_in_a_routine)->Unit(benchmark::kMicrosecond);
BENCHMARK(an_order_a_tick_by_callback)->Unit(benchmark::kMicrosecond);
BENCHMARK(an_order_a_tick_by_await)->Unit(benchmark::kMicrosecond);

}  // namespace

BENCHMARK_MAIN();
