#include <cstdlib>
#include <new>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "counting_memory.hpp"
#include "level_maker.hpp"
#include "quay.hpp"

namespace {
std::size_t allocations = 0;
}

void* operator new(std::size_t size) {
  ++allocations;
  if (void* place = std::malloc(size)) return place;
  std::abort();
}
void* operator new(std::size_t size, std::align_val_t align) {
  ++allocations;
  if (void* place =
          std::aligned_alloc(static_cast<std::size_t>(align), (size + static_cast<std::size_t>(align) - 1) &
                                                                  ~(static_cast<std::size_t>(align) - 1)))
    return place;
  std::abort();
}
void operator delete(void* place) noexcept { std::free(place); }
void operator delete(void* place, std::size_t) noexcept { std::free(place); }
void operator delete(void* place, std::align_val_t) noexcept { std::free(place); }
void operator delete(void* place, std::size_t, std::align_val_t) noexcept { std::free(place); }

namespace ambulon {
namespace {

TEST(Allocation, NoTickAllocatesOnceWarm) {
  World world;
  const auto shared = *make_beat(lamps, BeatOrder::shuffled);
  const auto curve = *make_beat(lamps, BeatOrder::around, BeatPath::curve);
  for (std::size_t i = 0; i < 60; ++i) {
    const Npc npc = *world.add({.name = "npc", .at = {static_cast<float>(i), 0, 0}, .gait = {.speed = 4}});
    switch (i % 4) {
      case 0:
        npc.patrol(lamps);
        break;
      case 1:
        npc.patrol(shared);
        break;
      case 2:
        npc.patrol(curve, {.lap = 9});
        break;
      default:  // hundreds of orders, from a routine
        start(npc, [](Npc me) -> Routine {
          for (;;) {
            co_await any_of(me.go_to({me.random(0, 20), me.random(0, 20), 0}), me.until_signal("bell"));
            co_await within(0.3f, me.turn_to_heading(me.random(-3, 3)));
            co_await me.pause(me.random(0, 1));
          }
        });
    }
  }
  // Warm: as many orders of each kind have existed at once as ever will.
  for (int i = 0; i < 100; ++i) {
    if (i % 7 == 0) world.signal("bell");
    pass(world, 6);
  }
  const std::size_t warm = allocations;
  for (int i = 0; i < 6000; ++i) {
    if (i % 500 == 0) world.signal("bell");
    (void)world.tick(1.f / 60.f);
  }
  EXPECT_EQ(allocations, warm);
}

TEST(Allocation, NoTickOfACrowdAllocatesOnceWarm) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {30, 0}, {30, 12}, {0, 12}}}});
  const Jobs jobs = [](std::size_t count, const std::function<void(std::size_t)>& job) {
    for (std::size_t i = 0; i < count; ++i) job(i);
  };
  World world({.ground = ground.get(), .avoid = true, .jobs = jobs});
  world.reserve(200);
  for (int i = 0; i < 200; ++i) {
    const vec3 at(1.f + static_cast<float>(i % 25) * 1.1f, 1.f + static_cast<float>(i / 25) * 1.3f, 0.f);
    const vec3 beat[] = {at, vec3(29, 11, 0) - at + vec3(1, 1, 0)};
    world.add({.at = at, .body = {.radius = 0.25f}})->patrol(beat);
  }
  pass(world, 60);
  const std::size_t warm = allocations;
  for (int i = 0; i < 600; ++i) (void)world.tick(1.f / 60.f);
  EXPECT_EQ(allocations, warm);
}

// Shared objects, such as a beat, are not counted.
TEST(Allocation, AnNpcOfACrowdTakesLessThan670BytesWithItsOrder) {
  Plan market{.outlines = {{{-1, -1}, {101, -1}, {101, 101}, {-1, 101}}}};
  for (float y = 1; y < 97; y += 8)
    for (float x = 1; x < 92; x += 16)
      market.holes.push_back({{x, y - 0.4f}, {x, y + 0.4f}, {x + 6, y + 0.4f}, {x + 6, y - 0.4f}});
  const auto stalls = *MeshGround::make(market);
  for (const auto& [roams, ground] :
       {std::pair<bool, const Ground*>(false, nullptr), {true, nullptr}, {false, stalls.get()}}) {
    constexpr std::size_t count = 2500;
    CountingMemory memory;
    World world({.ground = ground, .journal = 0, .avoid = true, .memory = &memory});
    const std::size_t empty = memory.bytes;
    world.reserve(count);
    for (std::size_t i = 0; i < count; ++i) {
      const vec3 at(static_cast<float>(2 * (i % 50)), static_cast<float>(2 * (i / 50)), 0);
      const vec3 ends[] = {at, {at.x + (at.x < 50 ? 12 : -12), at.y + (at.y < 50 ? 16 : -16), 0}};
      const Npc npc = *world.add({.at = at});
      if (roams)
        npc.roam({.radius = 5, .pause = {0, 1}});
      else
        npc.patrol(*make_beat(ends));
    }
    pass(world, 5);
    EXPECT_LT((memory.bytes - empty) / count, 670U);
    EXPECT_GT((memory.bytes - empty) / count, 300U) << "it is counted";
  }
}

/// Gives one order after another, for a while each.
Routine restless(Npc me, Npc other) {
  for (;;) {
    co_await within(1.f, me.roam({.radius = 5, .pause = {0, 0.2f}}));
    co_await within(1.f, me.follow(other));
    co_await within(1.f, me.chase(World::one_of(*me.world()->tag("leader")), {.act_within = 2}));
    co_await within(1.f, me.flee(other));
    co_await within(1.f, me.escort(other));
    co_await within(1.f, me.ease_to(me.position() + vec3(1, 0, 0), {.seconds = 0.5f}));
    co_await within(1.f, me.sway({.frequency = 1}));
    co_await within(1.f, me.pace());
    co_await within(1.f, me.wander());
  }
}

TEST(Allocation, NoErrandAllocatesOnceWarm) {
  World world;
  const Tags leader = *world.tag("leader");
  const auto points = *make_beat(lamps, BeatOrder::shuffled);
  auto blend = std::make_shared<Blend>();
  ASSERT_TRUE(blend->add({.behaviour = Behaviour::separation}));
  ASSERT_TRUE(blend->add({.behaviour = Behaviour::cohesion}));
  ASSERT_TRUE(blend->add({.behaviour = Behaviour::avoid_edges}));
  ASSERT_TRUE(blend->add({.behaviour = Behaviour::wander}));
  const Npc raft = *world.add({.at = {5, 5, 0}, .body = {.deck = {4, 4}}, .tags = leader});
  raft.sway({.axis = {0, 3, 0}, .anywhere = true});
  for (std::size_t i = 0; i < 40; ++i) {
    const Npc npc = *world.add({.at = {static_cast<float>(i % 7), static_cast<float>(i / 7), 0}});
    if (i % 4 == 0)
      npc.hop(points);
    else if (i % 4 == 1)
      npc.steer(blend);
    else
      start(npc, restless, raft);
  }
  pass(world, 600);
  const std::size_t warm = allocations;
  for (int i = 0; i < 6000; ++i) (void)world.tick(1.f / 60.f);
  EXPECT_EQ(allocations, warm);
}

TEST(Allocation, NoQuestionToAGroundAllocatesOnceWarm) {
  std::vector<std::uint8_t> cells(48 * 48, 1);
  for (std::size_t i = 0; i < cells.size(); i += 5) cells[i] = TileMap::blocked;
  const TileGround tiles(TileMap::make(cells, {.width = 48, .height = 48}).value());
  // Quays a leap apart, one of which has no way back.
  Level level = quay_stones(12);
  add_box(level, {18, 6}, -1, {10, 10, 1}), add_box(level, {6, 18}, -3, {10, 10, 1});
  const auto quays = MeshGround::make(level).value();
  const Body courier{.drop_down = 3, .leap = 2.5f};
  Route route;
  const auto ask = [&](const Ground& ground, const Body& body) {
    Random random(4);
    const auto spot = [&] {
      return ground.snap({48 * random.fraction(), 24 * random.fraction(), 0}, 1e6f, body).spot;
    };
    double sum = 0;
    for (int i = 0; i < 300; ++i) {
      const Spot from = spot(), to = spot();
      ground.route(from, to, route);
      sum += route.complete ? route.length_xy : 1;
      sum += ground.reachable(from, to) ? 1 : 2;
      sum += ground.random_spot(random, from, 5).position.x;
      sum += ground.nearest_reachable(from, to.position).off;
      sum += ground.straight(from, {3, 4}).metres;
    }
    return sum;
  };
  const std::pair<const Ground*, Body> grounds[] = {{&tiles, Body{}}, {quays.get(), courier}};
  for (const auto& [ground, body] : grounds) {
    const double first = ask(*ground, body);
    const std::size_t warm = allocations;
    EXPECT_EQ(ask(*ground, body), first);
    EXPECT_EQ(allocations, warm) << (ground == &tiles ? "tiles" : "level");
  }
}

}  // namespace
}  // namespace ambulon
