// Callbacks and scripts may do anything to the world at any time, but destroy it.

#include <set>
#include <thread>

#include <fmt/format.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/script/routine.hpp"

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

/// Removes an NPC as it goes.
struct Removes {
  Npc whom;
  ~Removes() { whom.remove(); }
};

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
  // And so may what is left of them, and of callbacks, when the world ends.
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

TEST(Lifetimes, QuestionsWithinQuestionsKeepTheirAnswers) {
  World world;
  for (int i = 0; i < 6; ++i) (void)*world.add({.at = {static_cast<float>(i), 0, 0}});
  pass(world, 0.1);
  const auto all = world.others().near({0, 0, 0}, 100, 1.7f, {}, {}, {});
  std::set<std::uint32_t> seen;
  for (const Neighbour& each : all) {
    EXPECT_EQ(world.others().near({0, 0, 0}, 0.5f, 1.7f, {}, {}, {}).size(), 1U);
    seen.insert(each.id.slot);
    if (seen.size() == 3) break;  // three more questions keep it
  }
  EXPECT_EQ(seen.size(), 3U);
}

/// A game's errand that makes up its name.
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

/// Anything that a game may ask of a world, drawn number by number; from without, from callbacks and from
/// routines.
class Game {
 public:
  Game(World& world, BarrierGround& ground, std::vector<int> numbers)
      : world_(world), ground_(ground), numbers_(std::move(numbers)) {}

  bool over() const { return next_ >= numbers_.size(); }
  int begun = 0, ended_once = 0;

  void act(int depth = 0) {
    if (over()) return;
    const Npc npc = somebody(), other = somebody();
    switch (draw(20)) {
      case 0: {
        const auto made = world_.add(
            {.at = place(), .body = {.radius = 0.2f}, .gait = {.speed = 1.f + static_cast<float>(draw(5))}});
        if (made) npcs_.push_back(*made);
        return;
      }
      case 1:
        return npc.remove();
      case 2:
        return follow(npc.go_to(place(), {.unreachable = policy()}), depth);
      case 3:
        return follow(npc.patrol(std::vector{place(), place()}, {.unreachable = policy()}), depth);
      case 4:
        return follow(npc.chase(other, {.act_within = 2, .unreachable = policy()}), depth);
      case 5:
        return follow(npc.follow(other, {.act_within = 2, .unreachable = policy()}), depth);
      case 6:
        return follow(npc.flee(other), depth);
      case 7:
        return follow(npc.roam({.pause = {0, 0.2f}, .unreachable = policy()}), depth);
      case 8:
        return follow(npc.escort(other, {.unreachable = policy()}), depth);
      case 9:
        return follow(npc.pause(0.05f * static_cast<float>(draw(9))), depth);
      case 10:
        return npc.cancel();
      case 11:
        return draw(2) == 0 ? npc.halt() : npc.resume();
      case 12:
        (void)npc.teleport(place());
        return;
      case 13:
        (void)npc.set_gait({.speed = static_cast<float>(draw(9))});
        return;
      case 14:
        (void)npc.set_body(
            {.radius = 0.1f * static_cast<float>(draw(6)), .deck = draw(3) == 0 ? vec2(2) : vec2(0)});
        return;
      case 15:
        return world_.signal(draw(2) == 0 ? "bell" : "horn");
      case 16:
        return follow(npc.wait_for("bell"), depth);
      case 17: {
        if (barrier_) (void)ground_.remove(*barrier_);
        barrier_ = draw(2) == 0 ? std::optional<BarrierId>()
                                : ground_.put(*Barrier::disc(vec2(place()), draw(2) == 0 ? 0.7f : 4.f));
        return;
      }
      case 18:
        return draw(3) == 0
                   ? npc.on_touch({})
                   : npc.on_touch([this, removes = std::make_shared<Removes>()](Npc, Npc met, float) {
                       if (draw(5) == 0) removes->whom = met;
                       act(2);
                     });
      default:
        if (!npc.alive()) return;
        start(npc, [this, other](Npc me) -> Routine {
          const Removes removes{draw(4) == 0 ? other : Npc()};
          for (;;) {
            act(1);
            (void)co_await me.go_to(place());
            (void)co_await any_of(me.pause(0.3f), me.until_near(other, 1), me.until_signal("bell"));
            act(1);
          }
        });
    }
  }

 private:
  int draw(int end) { return over() ? 0 : numbers_[next_++] % end; }
  Unreachable policy() { return static_cast<Unreachable>(draw(3)); }
  vec3 place() {
    const auto x = static_cast<float>(draw(12)), y = static_cast<float>(draw(12));
    return {x, y, 0};
  }
  Npc somebody() {
    return npcs_.empty() ? Npc() : npcs_[static_cast<std::size_t>(draw(static_cast<int>(npcs_.size())))];
  }
  void follow(const Order& order, int depth) {
    if (!order.npc().alive()) return;
    ++begun;
    const auto times = std::make_shared<int>(0);
    order.on_end([this, times, depth](Npc, const Outcome&) {
      ended_once += ++*times == 1 ? 1 : -1000;
      if (depth < 2) act(depth + 1);
    });
    if (draw(3) == 0) order.on_act([this](Npc, Npc, bool) { act(2); });
    if (draw(5) == 0) order.time_limit(0.2f);
    if (draw(7) == 0) order.cancel();
  }

  World& world_;
  BarrierGround& ground_;
  std::vector<int> numbers_;
  std::size_t next_ = 0;
  std::vector<Npc> npcs_;
  std::optional<BarrierId> barrier_;
};

RC_GTEST_PROP(Lifetimes, WhateverAGameDoesEveryOrderEndsOnceAndAllIsTheSameTwice, ()) {
  const auto numbers = *rc::gen::container<std::vector<int>>(400, rc::gen::inRange(0, 10'000));
  const bool avoid = *rc::gen::arbitrary<bool>();
  const float tick = *rc::gen::element(0.1f, 1 / 60.f, 0.9f);
  const auto play = [&](const Jobs& jobs) {
    const auto ground = MeshGround::make(Plan{.outlines = {{{-1, -1}, {13, -1}, {13, 13}, {-1, 13}}},
                                              .solids = {{{4, 4}, {6, 4}, {6, 7}, {4, 7}}}})
                            .value();
    std::string all;
    {
      World world({.ground = ground.get(), .avoid = avoid, .jobs = jobs});
      Game game(world, *ground, numbers);
      for (int i = 0; i < 60 && !game.over(); ++i) {
        for (int k = 0; k < 4; ++k) game.act();
        RC_ASSERT(world.tick(tick).has_value());
      }
      double time = 0;
      for (auto number = world.journal().first(); number < world.journal().next(); ++number) {
        RC_ASSERT(world.journal()[number].time >= time);
        time = world.journal()[number].time;
      }
      all = told(world);
      RC_ASSERT(game.ended_once >= 0);
      RC_ASSERT(game.ended_once <= game.begun);
      world.each([&](Npc npc) {
        all += fmt::format("{} {} {}\n", npc.position().x, npc.position().y, npc.position().z);
      });
    }
    return all;
  };
  const std::string once = play({});
  RC_ASSERT(once == play({}));
  RC_ASSERT(once ==
            play([](std::size_t count, const std::function<void(std::size_t)>& job) {  // three threads
              std::vector<std::thread> threads;
              for (std::size_t thread = 0; thread < 3; ++thread)
                threads.emplace_back([&, thread] {
                  for (std::size_t i = thread; i < count; i += 3) job(i);
                });
              for (std::thread& thread : threads) thread.join();
            }));
}

}  // namespace
}  // namespace ambulon
