#include <limits>

#include "base/geometry.hpp"
#include "counting_memory.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(World, BadTicksAreRefusedAndChangeNothing) {
  World world;
  for (const float seconds :
       {0.f, -1.f, 3600.5f, std::numeric_limits<float>::quiet_NaN(), std::numeric_limits<float>::infinity()})
    EXPECT_FALSE(world.tick(seconds)) << seconds;
  EXPECT_EQ(world.ticks(), 0U);
  EXPECT_EQ(world.tick(4000.f).error().text, "a tick of 4000 s; it must be above 0 and at most 3600");
}

TEST(World, ALongTickIsCutIntoSeveral) {
  World world, other;
  const Npc npc = *world.add({}), twin = *other.add({});
  npc.patrol(lamps);
  twin.patrol(lamps);
  EXPECT_NEAR(*world.tick(7.5f), 7.5, 1e-5);
  for (int i = 0; i < 8; ++i) ASSERT_TRUE(other.tick(7.5f / 8));
  EXPECT_EQ(world.ticks(), 8U);
  EXPECT_EQ(npc.position(), twin.position());
}

/// Positions are floats: at 20 km they are 2 mm apart, and a walker advances 10 mm in a tick of 1/144 s.
TEST(World, SpeedsAreKeptTwentyKilometresFromTheOrigin) {
  for (const float from : {0.f, 1000.f, -20'000.f})
    for (const float rate : {10.f, 30.f, 60.f, 144.f})
      for (const float speed : {0.05f, 0.3f, 1.4f, 5.f, 30.f}) {
        World world;
        const Npc cat = *world.add({.at = {from, from, 0}, .gait = {.speed = speed, .acceleration = 100}});
        cat.go_to({from + 40 * speed, from + 30 * speed, 0}, {.within = 0.02f});
        pass(world, 10, 1 / rate);
        const vec3 at = cat.position();
        pass(world, 20, 1 / rate);
        EXPECT_NEAR(flat_distance(cat.position(), at), 20 * speed, 0.2f * speed + 0.006f)
            << from << " " << rate << " " << speed;
      }
}

TEST(World, AnNpcThatStandsFarFromTheOriginStaysWhereItIs) {
  for (const float from : {16'384.f, -16'384.f, 20'000.f, 65'536.f}) {
    World world;
    const Npc cat = *world.add({.at = {from, from, 0}});
    cat.wait_for("dawn");
    pass(world, 20);
    EXPECT_EQ(cat.position(), vec3(from, from, 0));
  }
}

TEST(World, ATickWithinATickIsRefused) {
  World world;
  const Npc npc = *world.add({});
  bool refused = false;
  npc.pause(0.f).on_end([&](Npc, const Outcome&) { refused = !world.tick(0.1f); });
  pass(world, 0.1);
  EXPECT_TRUE(refused);
}

TEST(World, BadNpcsAreRefusedWithAReason) {
  World world;
  const float nan = std::numeric_limits<float>::quiet_NaN();
  EXPECT_EQ(world.add({.gait = {.speed = 0}}).error().text,
            "gait speed is 0 m/s; it must lie between 0.01 and 100");
  EXPECT_EQ(world.add({.body = {.radius = -2}}).error().text,
            "body radius is -2 m; it must lie between 0.01 and 50");
  EXPECT_EQ(world.add({.at = {100'003, 0, 0}}).error().text,
            "(100003.00, 0.00) is off the ground; the nearest spot is (100000.00, 0.00), 3.00 m off");
  EXPECT_FALSE(world.add({.at = {nan, 0, 0}}));
  EXPECT_FALSE(world.add({.heading = nan}));
  EXPECT_EQ(world.size(), 0U);
}

TEST(World, StaleHandlesAreAnsweredWithGone) {
  World world;
  const Npc first = *world.add({.name = "moth"});
  first.remove();
  const Npc second = *world.add({.name = "duck"});
  EXPECT_EQ(first.id().slot, second.id().slot);  // the slot is reused, the id is not
  for (const Npc npc : {first, Npc()}) {
    EXPECT_FALSE(npc.alive());
    for (const Order& order : {npc.go_to({1, 1, 0}), npc.turn_to({1, 1, 0}), npc.pause(1),
                               npc.wait_for("bell"), npc.patrol(lamps)}) {
      EXPECT_FALSE(order.running());
      EXPECT_EQ(order.outcome()->ending, Ending::gone);
      EXPECT_EQ(order.outcome()->why(), "the NPC is no longer in the world");
      order.cancel();
    }
    npc.cancel(), npc.remove();
    EXPECT_EQ(npc.position(), vec3(0.f));
    EXPECT_EQ(npc.name(), "");
    EXPECT_EQ(npc.doing(), "gone");
    EXPECT_FALSE(npc.report({1, 1, 0}));
    EXPECT_EQ(npc.random(2, 3), 2.f);
  }
  EXPECT_FALSE(second.busy());
  EXPECT_EQ(world.size(), 1U);
}

TEST(World, NpcsComeAndGoInTheMiddleOfCallbacks) {
  World world({.seed = 3, .journal = 0});
  Random random(11, 1);
  int told_of = 0;
  // Each ending order may add an NPC, remove another, or remove its own; each continues forever.
  std::function<void(Npc)> send = [&](Npc npc) {
    npc.go_to({random.within({-5, 5}), random.within({-5, 5}), 0}).on_end([&](Npc self, const Outcome&) {
      ++told_of;
      if (world.size() < 40) send(*world.add({.at = {random.within({-5, 5}), 0, 0}}));
      if (random.below(3) == 0) {
        std::vector<Npc> all;
        world.each([&](Npc each) { all.push_back(each); });
        all[random.below(static_cast<std::uint32_t>(all.size()))].remove();
      }
      if (random.below(6) == 0) self.remove();
      if (self.alive()) send(self);
    });
  };
  for (int i = 0; i < 20; ++i) send(*world.add({.at = {static_cast<float>(i), 0, 0}}));
  pass(world, 120);
  EXPECT_GT(told_of, 300);
  EXPECT_GT(world.size(), 0U);
  world.each([](Npc npc) { EXPECT_TRUE(finite(npc.position())); });
}

/// A busy quay: the state of every NPC after some time, as numbers.
std::vector<float> busy_quay(std::uint64_t seed) {
  World world({.seed = seed});
  const auto shuffled = *make_beat(lamps, BeatOrder::shuffled);
  for (std::size_t i = 0; i < 50; ++i) {
    const Npc npc = *world.add({.at = {static_cast<float>(i), 1, 0}, .gait = {.turn_first = i % 2 == 0}});
    if (i % 3 == 0)
      npc.patrol(shuffled);
    else
      start(npc, [](Npc me) -> Routine {
        for (;;) {
          co_await me.go_to({me.random(0, 20), me.random(0, 20), 0});
          co_await me.pause(me.random(0, 2));
        }
      });
  }
  pass(world, 60);
  std::vector<float> state;
  world.each([&](Npc npc) {
    state.insert(state.end(), {npc.position().x, npc.position().y, npc.heading(), npc.motion().stride_phase});
  });
  return state;
}

TEST(World, TheSameCallsGiveTheSameWorldToTheBitAndAnotherSeedAnother) {
  EXPECT_EQ(busy_quay(1), busy_quay(1));
  EXPECT_NE(busy_quay(1), busy_quay(2));
}

TEST(World, MemoryIsTheCallersAndStaysWhatItWasOverALongPatrol) {
  // A hundred thousand ticks here; ten million in bench/leak.cpp.
  CountingMemory memory;
  {
    World world({.journal = 64, .memory = &memory});
    const Npc npc = *world.add({.name = "a name too long to be kept in the string itself"});
    npc.patrol(lamps);
    pass(world, 100);
    const std::size_t warm = memory.bytes;
    EXPECT_GT(warm, 0U);
    for (int i = 0; i < 100'000; ++i) world.tick(1.f / 60.f);
    EXPECT_EQ(memory.bytes, warm);
    EXPECT_TRUE(npc.busy());
    for (const auto ended : npc.statistics().endings) EXPECT_EQ(ended, 0U);
  }
  EXPECT_EQ(memory.bytes, 0U);
}

RC_GTEST_PROP(Others, TheNearestIsTheNearestOfAllWithTheTag, ()) {
  World world({.avoid = true});  // so that there is an index
  const Tags cats = *world.tag("cats"), porters = *world.tag("porters");
  Random random(static_cast<std::uint64_t>(*rc::gen::inRange(0, 1'000'000)));
  const auto place = [&](float side) {  // some share a position
    const float x = std::floor(random.within({0, side})), y = std::floor(random.within({0, side}));
    return vec3(x, y, 0);
  };
  const float side = *rc::gen::element(3.f, 30.f, 300.f);
  for (int i = 0; i < 120; ++i)
    RC_ASSERT(world.add({.at = place(side),
                         .tags = i % 3 == 0   ? cats
                                 : i % 3 == 1 ? porters
                                              : cats | porters}));
  pass(world, *rc::gen::element(0.02f, 0.7f));  // awake, or asleep
  for (int i = 0; i < 10; ++i) {
    const Tags tags = i % 2 == 0 ? cats : cats | porters;
    const vec3 from = place(1.2f * side);
    const Npc except = i % 5 == 0 ? world.find("") : Npc();
    NpcId nearest;
    float min = 1e9f;
    world.each([&](Npc npc) {
      const vec2 off = flat(world.others().find(npc.id())->position - from);
      if (!npc.tags().meet(tags) || npc == except || glm::dot(off, off) >= min) return;
      nearest = npc.id();
      min = glm::dot(off, off);
    });
    RC_ASSERT(world.others().nearest(tags, from, 1.7f, except.id())->id == nearest);
  }
}

}  // namespace
}  // namespace ambulon
