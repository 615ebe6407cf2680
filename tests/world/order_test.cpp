#include <algorithm>

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Order, ANewOrderEndsTheOldAsReplaced) {
  World world;
  const Npc npc = *world.add({.name = "porter"});
  const Order first = npc.go_to({9, 0, 0}), second = npc.pause(1);
  EXPECT_FALSE(first.running());
  EXPECT_EQ(first.outcome()->ending, Ending::replaced);
  EXPECT_EQ(first.outcome()->why(), "it was replaced by the order pause");
  EXPECT_TRUE(second.running());
  pass(world, 2);
  EXPECT_EQ(second.outcome()->ending, Ending::done);
  EXPECT_EQ(npc.position(), vec3(0.f));
}

TEST(Order, EveryOrderIsToldOfOnceAndOrdersNeverPileUp) {
  World world;
  const Npc npc = *world.add({});
  int given = 0, told_of = 0;
  const auto give = [&] { ++given, npc.go_to({500, 0, 0}).on_end([&](Npc, const Outcome&) { ++told_of; }); };
  for (int i = 0; i < 100; ++i) give(), pass(world, 0.05);
  EXPECT_EQ(told_of, 99);
  npc.cancel();
  pass(world, 0.1);
  EXPECT_EQ(told_of, given);
  EXPECT_EQ(npc.statistics().endings[static_cast<std::size_t>(Ending::replaced)], 99U);
}

TEST(Order, CancelledAndGoneOrdersSaySo) {
  World world;
  const Npc npc = *world.add({}), other = *world.add({});
  std::vector<Ending> endings;
  const auto note = [&](Npc, const Outcome& outcome) { endings.push_back(outcome.ending); };
  const Order cancelled = npc.go_to({9, 0, 0}).on_end(note);
  cancelled.cancel();
  cancelled.cancel();
  const Order gone = other.go_to({9, 0, 0}).on_end(note);
  other.remove();
  pass(world, 0.1);
  EXPECT_EQ(endings, (std::vector{Ending::cancelled, Ending::gone}));
  EXPECT_EQ(gone.outcome()->why(), "the NPC was removed");
  EXPECT_EQ(cancelled.outcome()->why(), "it was cancelled");
  npc.pause(1).on_end(note);
  pass(world, 3);
  gone.on_end(note);  // of an order that ended long ago
  pass(world, 0.1);
  EXPECT_EQ(endings, (std::vector{Ending::cancelled, Ending::gone, Ending::done, Ending::gone}));
}

TEST(Order, ACallbackThatGivesTheNextOrderLosesNoTime) {
  // A hundred pauses of 0.05 s take five seconds, although no pause ends at a tick.
  for (const float tick : {1.f / 30.f, 1.f / 144.f}) {
    World world;
    int left = 100;
    std::function<void(Npc, const Outcome&)> next = [&](Npc npc, const Outcome&) {
      if (--left > 0) npc.pause(0.05f).on_end(next);
    };
    (*world.add({})).pause(0.05f).on_end(next);
    EXPECT_NEAR(pass(world, 20, tick, [&] { return left == 0; }), 5.0, 0.05);
  }
}

TEST(Order, ACallbackThatAlwaysGivesAnOrderThatTakesNoTimeDoesNotHang) {
  World world;
  int ends = 0;
  std::function<void(Npc, const Outcome&)> again = [&](Npc npc, const Outcome&) {
    ++ends;
    npc.go_to(npc.position()).on_end(again);
  };
  (*world.add({})).go_to({0, 0, 0}).on_end(again);
  pass(world, 1);
  EXPECT_GE(ends, 60);
  EXPECT_LE(ends, 60 * 10);
}

TEST(Order, IsPolledWithoutCallbacksOrCoroutines) {
  World world;
  const Npc npc = *world.add({});
  EXPECT_EQ(npc.errand().name, "");
  EXPECT_FALSE(npc.errand().last);
  npc.go_to({2, 0, 0});
  pass(world, 0.5);
  EXPECT_EQ(npc.errand().name, "go_to");
  EXPECT_EQ(npc.errand().goal, vec3(2, 0, 0));
  EXPECT_EQ(npc.doing(), "walking to (2.0, 0.0)");
  pass(world, 3);
  EXPECT_FALSE(npc.busy());
  EXPECT_EQ(npc.errand().last->ending, Ending::arrived);
}

/// A game's own errand: dances around a lantern for some turns.
class Dance final : public Errand {
 public:
  Dance(vec3 lantern, int turns) : lantern_(lantern), left_(static_cast<float>(turns) * 2.f * pi) {}
  std::string_view name() const override { return "dance"; }
  Step step(const View& see, float seconds) override {
    if (left_ <= 0.f) return ended(Ending::done);
    const vec2 out = flat(see.me.position - lantern_);
    const vec2 along = direction({-out.y, out.x}, {1, 0}),
               inward = -direction(out) * (glm::length(out) - 1.f);
    left_ -= see.me.speed() / std::max(glm::length(out), 0.1f) * seconds;
    return {.intent = {.velocity = see.gait.speed * direction(along + inward),
                       .facing = -direction(out, {1, 0})}};
  }
  Progress progress(const View&) const override { return {}; }

 private:
  vec3 lantern_;
  float left_;
};

TEST(Order, AGamesOwnErrandIsAnOrderLikeAnyOther) {
  World world;
  const Npc moth = *world.add({.name = "moth", .at = {1, 0, 0}, .gait = {.acceleration = 20, .braking = 20}});
  const Order order = moth.order<Dance>(vec3(0.f), 3);
  pass(world, 60, 1.f / 60.f, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::done);
  EXPECT_NEAR(moth.statistics().metres, 3 * 2 * pi, 2.5);
  EXPECT_TRUE(contains(told(world), "moth's dance ended as done"));
}

}  // namespace
}  // namespace ambulon
