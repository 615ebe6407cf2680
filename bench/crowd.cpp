// Milliseconds per tick and nanoseconds per NPC of crowds with avoidance, on open ground and in a market of
// stalls, on one thread and on two. Baseline: a loop that only finds each NPC's neighbours in a grid and
// reads their positions and velocities, without errands, avoidance or motion.

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <memory>
#include <oneapi/tbb/global_control.h>
#include <optional>
#include <span>
#include <vector>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"
#include "base/tbb_jobs.hpp"
#include "counting_memory.hpp"

namespace {

using namespace ambulon;
using Clock = std::chrono::steady_clock;

constexpr float tick_seconds = 1.f / 60.f;

double seconds_since(Clock::time_point begin) {
  return std::chrono::duration<double>(Clock::now() - begin).count();
}

enum class Kind { open, stalls, far, asleep };
constexpr const char* names[] = {"open", "stalls", "far", "asleep"};

/// Returns the side in metres of a square with a given area per NPC.
float side_of(std::size_t count, float square_metres) {
  return std::sqrt(static_cast<float>(count) * square_metres);
}

/// A market of stalls of 6 by 2 m, each on a lot of 16 by 8 m.
std::unique_ptr<MeshGround> market(float side) {
  Plan plan{.outlines = {{{0, 0}, {side, 0}, {side, side}, {0, side}}}};
  for (float y = 5; y + 3 < side; y += 8)
    for (float x = 5; x + 7 < side; x += 16)
      plan.holes.push_back({{x, y}, {x, y + 2}, {x + 6, y + 2}, {x + 6, y}});
  return *MeshGround::make(plan);
}

/// `count` NPCs in random order, each on a patrol between two points about 20 m apart; of sleeping ones only
/// one in ten. Their beats are made in `beats`.
void fill(World& world, std::size_t count, float square_metres, Kind kind, std::pmr::memory_resource* beats) {
  Random random(7, 1);
  const float side = side_of(count, square_metres);
  const auto columns = static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(count))));
  std::vector<vec3> places;
  for (std::size_t i = 0; i < count; ++i)
    places.push_back(side / static_cast<float>(columns) *
                     vec3(static_cast<float>(i % columns), static_cast<float>(i / columns), 0.f));
  for (std::size_t i = count; i-- > 1;)
    std::swap(places[i], places[random.below(static_cast<std::uint32_t>(i + 1))]);
  const Body body{.radius = 0.25f};
  const auto spot = [&](vec3 at) { return world.ground().snap(at, 1e9f, body).spot.position; };
  for (std::size_t i = 0; i < count; ++i) {
    const vec2 way = 20.f * unit(random.within({-pi, pi}));
    const vec3 from = spot(places[i]),
               to(std::clamp(from.x + way.x, 0.f, side), std::clamp(from.y + way.y, 0.f, side), 0.f);
    const vec3 ends[] = {from, spot(to)};
    const Npc npc = *world.add({.at = from, .body = body});
    if (kind != Kind::asleep || i % 10 == 0)
      npc.patrol(*make_beat(ends, BeatOrder::around, BeatPath::straight, beats));
  }
  const vec3 eye[] = {{0, 0, 0}};
  if (kind == Kind::far) (void)world.set_viewers(eye, {.near = 20});
}

/// The data that is read, and a grid to find it.
struct Bare {
  std::vector<vec2> at, velocity;
  std::vector<std::uint32_t> starts, sorted;
  float low_x = 0, low_y = 0;
  std::int32_t columns = 0, rows = 0;
  static constexpr float cell = 3.f, sight = 5.f;

  explicit Bare(World& world) {
    world.each([&](Npc npc) {
      at.push_back(flat(npc.position()));
      velocity.push_back(npc.velocity());
    });
  }
  std::int32_t column(float x) const { return static_cast<std::int32_t>((x - low_x) / cell); }
  std::int32_t row(float y) const { return static_cast<std::int32_t>((y - low_y) / cell); }

  void build() {
    vec2 low = at[0], high = at[0];
    for (const vec2 each : at) low = glm::min(low, each), high = glm::max(high, each);
    low_x = low.x, low_y = low.y;
    columns = column(high.x) + 1, rows = row(high.y) + 1;
    starts.assign(static_cast<std::size_t>(columns * rows) + 2, 0);
    sorted.resize(at.size());
    const auto cell_of = [&](vec2 each) {
      return static_cast<std::size_t>(row(each.y) * columns + column(each.x));
    };
    for (const vec2 each : at) ++starts[cell_of(each) + 2];
    for (std::size_t i = 1; i < starts.size(); ++i) starts[i] += starts[i - 1];
    for (std::uint32_t i = 0; i < at.size(); ++i) sorted[starts[cell_of(at[i]) + 1]++] = i;
  }

  vec2 read() {
    build();
    vec2 sum(0.f);
    for (const vec2 each : at) {
      const std::int32_t left = std::max(0, column(each.x - sight)),
                         right = std::min(columns - 1, column(each.x + sight));
      for (std::int32_t y = std::max(0, row(each.y - sight)); y <= std::min(rows - 1, row(each.y + sight));
           ++y)
        for (std::uint32_t i = starts[static_cast<std::size_t>(y * columns + left)];
             i < starts[static_cast<std::size_t>(y * columns + right) + 1]; ++i) {
          const vec2 off = at[sorted[i]] - each;
          if (glm::dot(off, off) <= sight * sight) sum += off + velocity[sorted[i]];
        }
    }
    return sum;
  }
};

/// One crowd twice, on one thread and on two, and the baseline.
class Crowd {
 public:
  Crowd(std::size_t count, float square_metres, Kind kind)
      : count_(count),
        square_metres_(square_metres),
        kind_(kind),
        stalls_(kind == Kind::stalls ? market(side_of(count, square_metres)) : nullptr),
        one_({.ground = stalls_.get(), .journal = 4096, .avoid = true, .memory = &memory_}),
        two_({.ground = stalls_.get(), .journal = 4096, .avoid = true, .jobs = tbb_jobs()}) {
    const std::size_t empty = memory_.bytes;
    one_.reserve(count);
    fill(one_, count, square_metres, kind, &beats_);
    bytes_of_beats_ = beats_.bytes;
    fill(two_, count, square_metres, kind, &beats_);
    for (int i = 0; i < warm; ++i) {
      (void)one_.tick(tick_seconds);
      (void)two_.tick(tick_seconds);
    }
    bytes_ = memory_.bytes - empty;
    bare_.emplace(one_);
    before_ = one_.profile();
  }

  /// Runs some ticks, fewer if they take longer.
  void measure() {
    for (std::size_t i = 0; i < std::clamp<std::size_t>(50'000 / count_, 1, 20); ++i) {
      ones_.push_back(seconds_of([this] { (void)one_.tick(tick_seconds); }));
      twos_.push_back(seconds_of([this] { (void)two_.tick(tick_seconds); }));
      bares_.push_back(seconds_of([this] { sink_ = bare_->read().x; }));
    }
  }

  /// Returns the nanoseconds of a tick per NPC on one thread.
  double each() const { return 1e9 * median(ones_) / static_cast<double>(count_); }

  /// `min`: that of the smallest crowd, measured alternately.
  void print(double min) const {
    const double nano = 1e9 / static_cast<double>(count_), one = median(ones_), bare = median(bares_);
    const Profile after = one_.profile();
    const double total = 0.01 * (after.total() - before_.total());
    std::printf(
        "%-6s %7zu %5.0f %9.2f %8.0f %7.2f %8.0f %7.2f %9.2f %8zu %5zu   %2.0f %2.0f %2.0f %2.0f %2.0f %2.0f "
        "%2.0f\n",
        names[static_cast<int>(kind_)], count_, static_cast<double>(square_metres_), 1e3 * one, each(),
        each() / min, nano * bare, one / bare, one / median(twos_), bytes_ / count_, bytes_of_beats_ / count_,
        (after.sense - before_.sense) / total, (after.decide - before_.decide) / total,
        (after.route - before_.route) / total, (after.avoid - before_.avoid) / total,
        (after.move - before_.move) / total, (after.separate - before_.separate) / total,
        (after.notify - before_.notify) / total);
  }

 private:
  static constexpr int warm = 300;

  template <class Work>
  static double seconds_of(Work&& work) {
    const auto begin = Clock::now();
    work();
    return seconds_since(begin);
  }
  static double median(std::vector<double> all) {
    std::ranges::nth_element(all, all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2));
    return all[all.size() / 2];
  }

  std::size_t count_;
  float square_metres_;
  Kind kind_;
  std::unique_ptr<MeshGround> stalls_;
  CountingMemory beats_, memory_;  // the beats remain when the worlds are destroyed
  World one_, two_;
  std::size_t bytes_ = 0, bytes_of_beats_ = 0;
  std::optional<Bare> bare_;
  Profile before_;
  std::vector<double> ones_, twos_, bares_;
  volatile float sink_ = 0;
};

/// Crowds of all sizes are measured alternately, so that a slow phase of the machine affects all.
void measure(std::span<const std::size_t> counts, float square_metres, Kind kind) {
  std::vector<std::unique_ptr<Crowd>> crowds;
  for (const std::size_t count : counts)
    crowds.push_back(std::make_unique<Crowd>(count, square_metres, kind));
  for (int round = 0; round < 20; ++round)
    for (const auto& crowd : crowds) crowd->measure();
  for (const auto& crowd : crowds) crowd->print(crowds.front()->each());
}

}  // namespace

int main(int argc, char** argv) {
  const oneapi::tbb::global_control threads(oneapi::tbb::global_control::max_allowed_parallelism, 2);
  const std::size_t max = argc > 1 ? std::strtoull(argv[1], nullptr, 10) : 100'000;
  std::vector<std::size_t> counts;
  for (std::size_t count = 1000; count <= max; count *= 10) counts.push_back(count);
  std::puts(
      "far: looked at from a corner, near 20 m; asleep: nine of ten; beats: each its own, though many could "
      "share one\n"
      "                        one thread          times    bare   ratio  one/two    bytes  and     % of "
      "sense, decide, route, avoid, move, part, tell");
  std::puts("ground    NPCs m2/NPC   ms/tick   ns/NPC   least   ns/NPC          threads     /NPC  beat");
  for (const Kind kind : {Kind::open, Kind::stalls, Kind::far, Kind::asleep})
    for (const float square_metres : {4.f, 1.f})
      if (square_metres > 1.f || kind == Kind::open || kind == Kind::stalls)
        measure(counts, square_metres, kind);
}
