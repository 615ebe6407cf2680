#include "base/geometry.hpp"
#include "counting_memory.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

Routine lamplighter(Npc me, std::vector<vec3> round, std::vector<Ending>& endings) {
  for (const vec3 lamp : round) {
    const Outcome outcome = co_await me.go_to(lamp, {.within = 0.4f});
    endings.push_back(outcome.ending);
    if (!outcome) continue;
    co_await me.turn_to(lamp);
    co_await me.pause(me.random(0.5f, 1.f));
  }
}

TEST(Routine, GivesOneOrderAfterAnotherAndSeesHowEachEnded) {
  World world;
  const Npc npc = *world.add({.name = "lamplighter"});
  std::vector<Ending> endings;
  start(npc, lamplighter, std::vector<vec3>{{3, 0, 0}, {500'000, 0, 0}, {3, 3, 0}}, endings);
  EXPECT_TRUE(npc.directed());
  EXPECT_TRUE(npc.busy());  // its first order is given at once
  pass(world, 20, 1.f / 60.f, [&] { return !npc.directed(); });
  EXPECT_FALSE(npc.directed());
  EXPECT_EQ(endings, (std::vector{Ending::arrived, Ending::off_ground, Ending::arrived}));
}

TEST(Routine, TakesTheSameTimeAtAnyTickRate) {
  std::vector<double> times;
  for (const float rate : {30.f, 60.f, 144.f}) {
    World world;
    std::vector<Ending> endings;
    const Npc npc = *world.add({});
    start(npc, lamplighter, std::vector<vec3>{{3, 0, 0}, {3, 3, 0}, {0, 3, 0}, {1, 1, 0}, {5, 5, 0}},
          endings);
    times.push_back(pass(world, 60, 1.f / rate, [&] { return !npc.directed(); }));
  }
  EXPECT_NEAR(times[0] / times[1], 1.0, 0.01);
  EXPECT_NEAR(times[2] / times[1], 1.0, 0.01);
}

TEST(Routine, AnyOfCancelsTheLoserAndSaysWhoWon) {
  World world;
  const Npc constable = *world.add({.name = "constable"}),
            thief = *world.add({.name = "thief", .at = {40, 0, 0}});
  thief.go_to({3, 0, 0});
  std::vector<std::size_t> firsts;
  start(constable, [&, thief](Npc me) -> Routine {
    const FirstOutcome first = co_await any_of(me.patrol(lamps), me.until_near(thief, 6.f));
    firsts.push_back(first.index);
    EXPECT_TRUE(first);
    EXPECT_FALSE(me.busy());
    EXPECT_LE(flat_distance(me.position(), thief.position()), 6.f);
    firsts.push_back(
        (co_await any_of(me.pause(0.2f), me.until_signal("never"), me.until_apart(thief, 500.f))).index);
  });
  pass(world, 60, 1.f / 60.f, [&] { return firsts.size() == 2; });
  EXPECT_EQ(firsts, (std::vector<std::size_t>{1, 0}));
  EXPECT_TRUE(contains(
      told(world),
      "constable's patrol ended as cancelled: the routine that waited for it ended or went on without it"));
}

TEST(Routine, ABorrowedOrderGoesOnWhenNobodyWaitsForItAnyMore) {
  for (const bool borrowed : {false, true}) {
    World world;
    const Npc cat = *world.add({.name = "cat"}), dog = *world.add({.name = "dog", .at = {0, 5, 0}});
    const Order walk = dog.go_to({10, 5, 0});
    start(cat, [&](Npc) -> Routine {
      if (borrowed) {
        co_await within(1, borrow(walk));
        co_await any_of(cat.pause(1), borrow(walk));
      } else {
        co_await within(1, walk);
      }
    });
    pass(world, 4);
    EXPECT_EQ(walk.running(), borrowed);
    pass(world, 10);
    EXPECT_EQ(walk.outcome()->ending, borrowed ? Ending::arrived : Ending::cancelled);
  }
}

TEST(Routine, AllOfWaitsForTheLast) {
  World world;
  const Npc a = *world.add({}), b = *world.add({.at = {0, 1, 0}});
  double ended_at = 0;
  start(a, [&, b](Npc me) -> Routine {
    const auto each = co_await all_of(me.pause(0.5f), b.pause(2.f));
    EXPECT_TRUE(each);
    ended_at = world.time();
    const auto mixed = co_await all_of(me.go_to({900'000, 0, 0}), b.pause(0.1f));
    EXPECT_FALSE(mixed);
    EXPECT_EQ(mixed.outcomes[0].ending, Ending::off_ground);
    EXPECT_EQ(mixed.outcomes[1].ending, Ending::done);
  });
  pass(world, 5, 1.f / 60.f, [&] { return !a.directed(); });
  EXPECT_NEAR(ended_at, 2.0, 0.04);
}

TEST(Routine, WithinCancelsWhatTakesTooLong) {
  World world;
  const Npc npc = *world.add({});
  std::vector<Ending> endings;
  start(npc, [&](Npc me) -> Routine {
    endings.push_back((co_await within(1.f, me.go_to({50, 0, 0}))).ending);
    endings.push_back((co_await within(9.f, me.go_to({2, 0, 0}))).ending);
    endings.push_back((co_await within(0.5f, any_of(me.pause(5), me.until_signal("bell")))).ending);
    endings.push_back((co_await any_of(within(0.5f, me.pause(5)), me.until_signal("bell"))).outcome.ending);
  });
  pass(world, 20, 1.f / 60.f, [&] { return !npc.directed(); });
  EXPECT_EQ(endings, (std::vector{Ending::timed_out, Ending::arrived, Ending::timed_out, Ending::timed_out}));
}

TEST(Routine, UntilWaitsForATestAndALoopAroundItDoesNotHang) {
  World world;
  const Npc npc = *world.add({});
  int turns = 0;
  bool open = false;
  start(npc, [&](Npc) -> Routine {
    co_await until([&] { return open; });
    for (;;) {
      co_await until([] { return true; });
      ++turns;
    }
  });
  pass(world, 1);
  EXPECT_EQ(turns, 0);
  open = true;
  pass(world, 1);
  EXPECT_NEAR(turns, 60, 3);
}

TEST(Routine, ASignalIsHeardInItsTickOnly) {
  World world;
  const Npc early = *world.add({}), late = *world.add({});
  const Order waits = early.wait_for("bell");
  int heard = 0;
  start(late, [&](Npc me) -> Routine {
    for (;;) {
      co_await me.until_signal("bell");
      ++heard;
    }
  });
  pass(world, 0.2);
  world.signal("gong");
  pass(world, 0.2);
  EXPECT_TRUE(waits.running());
  world.signal("bell");
  pass(world, 0.2);
  EXPECT_EQ(waits.outcome()->ending, Ending::done);
  EXPECT_EQ(heard, 1);
  const Order too_late = early.wait_for("bell");
  pass(world, 0.2);
  EXPECT_TRUE(too_late.running());
}

Routine fetch_tea(Npc me, int& cups) {
  co_await me.go_to({2, 0, 0});
  ++cups;
}

TEST(Routine, RoutinesAreMadeOfRoutines) {
  World world;
  const Npc npc = *world.add({});
  int cups = 0;
  bool timed_out = false;
  start(npc, [&](Npc me) -> Routine {
    co_await fetch_tea(me, cups);
    co_await me.go_to({0, 0, 0});
    timed_out = !co_await within(0.3f, fetch_tea(me, cups));
  });
  pass(world, 20, 1.f / 60.f, [&] { return !npc.directed(); });
  EXPECT_EQ(cups, 1);
  EXPECT_TRUE(timed_out);
  EXPECT_FALSE(npc.busy());  // the inner routine's wait was destroyed with it
}

/// Counts its instances.
struct Lantern {
  explicit Lantern(int& alive_) : alive(&alive_) { ++*alive; }
  Lantern(const Lantern& other) : alive(other.alive) { ++*alive; }
  Lantern& operator=(const Lantern&) = delete;
  ~Lantern() { --*alive; }
  int* alive;
};

TEST(Routine, EndingItInAnyWayCancelsItsOrderAndFreesAllItHolds) {
  int alive = 0;
  std::vector<Ending> endings;
  const auto carry = [&alive](Npc me) -> Routine {
    const Lantern lantern(alive);
    co_await any_of(me.go_to({90, 0, 0}), me.until_signal("never"));
  };
  {
    World world;
    const Npc replaced = *world.add({}), removed = *world.add({}), kept = *world.add({});
    for (const Npc npc : {replaced, removed, kept})
      start(npc, [carry, held = Lantern(alive)](Npc me) { return carry(me); });
    EXPECT_EQ(alive, 6);
    pass(world, 1);
    start(replaced, [](Npc me) -> Routine { co_await me.until_signal("never"); });
    EXPECT_EQ(alive, 4);
    EXPECT_FALSE(replaced.busy());
    removed.remove();
    EXPECT_EQ(alive, 2);
    pass(world, 1);
    EXPECT_TRUE(kept.busy());
  }
  EXPECT_EQ(alive, 0);
}

TEST(Routine, WhatItHoldsMayTakeItsNpcAwayWhenTheWorldEnds) {
  int left = 0;
  struct Last {
    Npc npc;
    int* left;
    ~Last() {
      npc.direct(nullptr);
      npc.remove();
      ++*left;
    }
  };
  {
    World world;
    for (int i = 0; i < 3; ++i) {
      const Npc npc = *world.add({});
      start(npc, [&left](Npc me) -> Routine {
        const Last last{me, &left};
        for (;;) co_await me.go_to({100, 0, 0});
      });
    }
    pass(world, 0.1);
  }
  EXPECT_EQ(left, 3);
}

TEST(Routine, MayRemoveItsOwnNpcOrHandItToAnotherRoutineInTheMiddleOfItself) {
  World world;
  const Npc npc = *world.add({.name = "cat"}), other = *world.add({});
  std::vector<int> steps;
  start(npc, [&](Npc me) -> Routine {
    const std::string held(100, 'x');  // must live until the routine has been left
    co_await me.pause(0.1f);
    steps.push_back(1);
    me.remove();
    steps.push_back(static_cast<int>(held.size()));
    co_await me.pause(0.1f);
    steps.push_back(3);
  });
  start(other, [&](Npc me) -> Routine {
    const std::string held(50, 'y');
    co_await me.pause(0.2f);
    start(me, [&](Npc again) -> Routine {
      co_await again.pause(0.1f);
      steps.push_back(4);
    });
    steps.push_back(static_cast<int>(held.size()));
  });
  pass(world, 2);
  // An order to a removed NPC ends at once, so a routine may run to its end within the tick.
  EXPECT_EQ(steps, (std::vector{1, 100, 3, 50, 4}));
  EXPECT_FALSE(npc.alive());
}

TEST(Routine, FramesComeFromTheWorldsMemory) {
  CountingMemory memory;
  World world({.journal = 0, .memory = &memory});
  const Npc npc = *world.add({});
  const std::size_t before = memory.bytes;
  start(npc, [](Npc me) -> Routine {
    std::array<volatile char, 20'000> sack{};
    co_await me.until_signal("never");
    for (volatile char& place : sack) place = 1;
  });
  EXPECT_GE(memory.bytes, before + 20'000);
}

}  // namespace
}  // namespace ambulon
