// Callbacks and scripts may do anything to the world at any time, except destroy it.

#include <set>
#include <thread>

#include "game.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Lifetimes, ARoutineMayRemoveItsNpcOrHandItOnBeforeItsFirstWait) {
  World world;
  const Npc cat = *world.add({.name = "cat"}), dog = *world.add({.name = "dog", .at = {3, 0, 0}});
  std::string traced;
  start(cat, [&](Npc me) -> Routine {
    const std::string kept = "a text that is too long to be kept in place";
    me.remove();
    traced += kept;
    co_await me.pause(1);
  });
  EXPECT_FALSE(cat.alive());
  const auto second = [&](Npc me) -> Routine {
    traced += "second";
    co_await me.pause(1);
  };
  start(dog, [&, second](Npc me) -> Routine {
    const std::string kept = "another text that is too long to be kept in place";
    start(me, second);
    traced += kept;
    co_await me.pause(1);
  });
  pass(world, 0.5);
  EXPECT_EQ(
      traced,
      "a text that is too long to be kept in placesecondanother text that is too long to be kept in place");
}

TEST(Lifetimes, WhatARoutineKeepsMayRemoveOthersAsItIsDestroyed) {
  for (const bool in_tick : {false, true}) {
    World world;
    std::vector<Npc> npcs;
    for (int i = 0; i < 5; ++i) npcs.push_back(*world.add({.at = {2.f * static_cast<float>(i), 0, 0}}));
    for (std::size_t i = 0; i + 1 < npcs.size(); ++i)
      start(npcs[i], [next = npcs[i + 1]](Npc me) -> Routine {
        const Removes removes{next};
        for (;;) co_await me.pause(1);
      });
    pass(world, 0.1);
    if (in_tick)
      npcs[4].pause(0.1f).on_end([&](Npc, const Outcome&) { npcs[0].remove(); });
    else
      npcs[0].remove();
    pass(world, 0.5);
    for (const Npc npc : npcs) EXPECT_FALSE(npc.alive());
  }
  // The same holds for scripts and callbacks that remain when the world is destroyed.
  auto world = std::make_unique<World>();
  const Npc cat = *world->add({}), dog = *world->add({.at = {3, 0, 0}});
  for (const auto& [npc, other] : {std::pair(cat, dog), {dog, cat}})
    start(npc, [other](Npc me) -> Routine {
      const Removes removes{other};
      co_await me.pause(100);
    });
  const Npc duck = *world->add({.at = {6, 0, 0}});
  cat.on_touch([removes = std::make_shared<Removes>(duck)](Npc, Npc, float) {});
  duck.pause(100).on_end([removes = std::make_shared<Removes>(cat)](Npc, const Outcome&) {});
  world.reset();
}

TEST(Lifetimes, ALoopAroundAnOrderThatIsOverAtOnceGoesOnInTheNextTick) {
  World world;
  const Npc gone = *world.add({}), cat = *world.add({.at = {3, 0, 0}});
  gone.remove();
  int orders = 0;
  start(cat, [&](Npc) -> Routine {
    for (;;) {
      (void)co_await gone.go_to({1, 1, 0});
      ++orders;
    }
  });
  pass(world, 1, 1.f / 10);
  EXPECT_GT(orders, 10);
  EXPECT_LT(orders, 2000);
}

TEST(Lifetimes, AnOrderTakesItsClosuresWithIt) {
  World world;
  const Npc cat = *world.add({}), dog = *world.add({.at = {1, 0, 0}});
  const auto kept = std::make_shared<int>(1);
  cat.chase(dog, {.act_within = 5}).on_act([kept](Npc, Npc, bool) {}).on_end([kept](Npc, const Outcome&) {});
  EXPECT_GT(kept.use_count(), 1);
  pass(world, 5);
  EXPECT_FALSE(cat.busy());
  EXPECT_EQ(kept.use_count(), 1);
}

TEST(Lifetimes, WhatClosuresKeepMayDoAnythingAsItIsDestroyed) {
  for (const int ends : {0, 1, 2, 3}) {
    World world;
    std::vector<Npc> npcs;
    for (int i = 0; i < 6; ++i)
      npcs.push_back(*world.add({.name = "duck", .at = {2.f * static_cast<float>(i), 0, 0}}));
    int done = 0;
    // Each closure removes its neighbour, adds NPCs, gives orders and sets closures, also on its own NPC.
    for (std::size_t i = 0; i < npcs.size(); ++i) {
      const Npc me = npcs[i], next = npcs[(i + 1) % npcs.size()];
      const auto kept = std::make_shared<Finally>([&world, &done, me, next, i] {
        ++done;
        for (int k = 0; k < 40; ++k) (void)world.add({.at = {0, 5, 0}});
        next.go_to({5, 5, 0}).on_act([](Npc, Npc, bool) {});
        me.go_to({7, 7, 0}).on_act([](Npc, Npc, bool) {});
        next.on_touch([](Npc, Npc, float) {});
        if (i % 2 == 0) next.remove();
      });
      const Order order = me.pause(1);
      i % 3 == 2 ? me.on_touch([kept](Npc, Npc, float) {}) : (void)order.on_act([kept](Npc, Npc, bool) {});
    }
    pass(world, 0.1);
    if (ends == 0) pass(world, 2);  // all orders end in one tick
    if (ends == 1)
      for (const Npc npc : npcs) npc.remove();
    if (ends == 2)
      for (const Npc npc : npcs) npc.go_to({1, 1, 0});
    if (ends == 3)
      for (const Npc npc : npcs) npc.on_touch({}), npc.cancel();
    pass(world, 1);
    for (const Npc npc : npcs) npc.remove();
    pass(world, 1);
    EXPECT_EQ(done, 6) << ends;
    EXPECT_EQ(static_cast<int>(world.size()), 6 * 40);
  }
}

/// Sets a new condition whenever a captured object is destroyed, on its own NPC or on a new one.
void watch_again(World& world, Npc npc, int& times) {
  const auto kept = std::make_shared<Finally>([&world, &times, npc] {
    if (++times > 1000) return;
    const auto other = world.add({.at = {1, 1, 0}});
    if (const Npc next = other ? *other : npc; next.alive()) watch_again(world, next, times);
  });
  npc.on_touch([kept](Npc, Npc, float) {});
  npc.pause(1).on_act([kept](Npc, Npc, bool) {}).on_end([kept](Npc, const Outcome&) {});
}

TEST(Lifetimes, ClosuresThatAreSetAgainAsTheyAreDestroyedEndWithTheWorld) {
  int times = 0;
  {
    World world;
    const Npc moth = *world.add({}), gone = *world.add({});
    watch_again(world, moth, times);
    pass(world, 0.2);
    gone.remove();
    // its order ended before; the callback would run in a tick that never comes
    watch_again(world, gone, times);
  }
  EXPECT_LT(times, 10);
}

TEST(Lifetimes, QuestionsWithinQuestionsKeepTheirAnswers) {
  World world;
  for (int i = 0; i < 6; ++i) (void)*world.add({.at = {static_cast<float>(i), 0, 0}});
  pass(world, 0.1);
  const auto all = world.others().near({0, 0, 0}, {.radius = 100});
  std::set<std::uint32_t> seen;
  for (const Neighbour& each : all) {
    EXPECT_EQ(world.others().near({0, 0, 0}, {.radius = 0.5f}).size(), 1U);
    seen.insert(each.id.slot);
    if (seen.size() == 3) break;  // three more conditions keep it
  }
  EXPECT_EQ(seen.size(), 3U);
}

/// A game's errand that builds its name at run time.
class NamedErrand final : public Errand {
 public:
  explicit NamedErrand(std::string name) : name_(std::move(name)) {}
  std::string_view name() const override { return name_; }
  Step step(const View&, float) override { return ended(Ending::done); }
  Progress progress(const View&) const override { return {}; }

 private:
  std::string name_;
};

TEST(Lifetimes, TheJournalKeepsTheNamesOfErrandsThatAreGone) {
  World world;
  const Npc cat = *world.add({.name = "cat"});
  cat.order<NamedErrand>("watch the ducks on the canal by night");
  pass(world, 1);
  EXPECT_TRUE(contains(told(world), "watch the ducks on the canal by night"));
}

RC_GTEST_PROP(Lifetimes, WhateverAGameDoesEveryOrderEndsOnceAndAllIsTheSameTwice, ()) {
  const auto numbers = *rc::gen::container<std::vector<int>>(400, rc::gen::inRange(0, 10'000));
  const bool avoid = *rc::gen::arbitrary<bool>();
  const float tick = *rc::gen::element(0.1f, 1 / 60.f, 0.9f);
  const Jobs three_threads = [](std::size_t count, const std::function<void(std::size_t)>& job) {
    std::vector<std::thread> threads;
    for (std::size_t thread = 0; thread < 3; ++thread)
      threads.emplace_back([&, thread] {
        for (std::size_t i = thread; i < count; i += 3) job(i);
      });
    for (std::thread& thread : threads) thread.join();
  };
  const Played once = play_game(numbers, avoid, tick, {});
  RC_ASSERT(once.wrong == "");
  RC_ASSERT(once.told == play_game(numbers, avoid, tick, {}).told);
  RC_ASSERT(once.told == play_game(numbers, avoid, tick, three_threads).told);
}

}  // namespace
}  // namespace ambulon
