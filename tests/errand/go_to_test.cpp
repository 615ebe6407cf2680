#include <algorithm>
#include <limits>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

// A step of 2.5 m and an arrival distance of 5 cm: a test at the end of each tick would never see the
// arrival.
RC_GTEST_PROP(GoTo, ArrivesWhereStepsAreFarLongerThanTheArrivalDistance, ()) {
  World world;
  const Gait gait{.speed = 10,
                  .acceleration = between(0.5f, 1000),
                  .braking = between(0.5f, 1000),
                  .turn_first = *rc::gen::arbitrary<bool>()};
  const Npc courier =
      *world.add({.name = "courier", .at = {1, 2, 0}, .heading = between(-3, 3), .gait = gait});
  const vec3 goal(between(-60, 60), between(-60, 60), 0);
  const Order order = courier.go_to(goal, {.within = 0.05f});
  const float distance = flat_distance(goal, {1, 2, 0});
  // Straight there, with acceleration, braking and one turn, takes less than this; circling would not.
  const double limit = 3 + distance / 10 + 10 / gait.acceleration + 10 / gait.braking +
                       3 * std::sqrt(distance / std::min(gait.acceleration, gait.braking));
  pass(world, limit, 0.25f, [&] { return !order.running(); });
  RC_ASSERT(order.outcome().has_value());
  RC_ASSERT(order.outcome()->ending == Ending::arrived);
  RC_ASSERT(flat_distance(courier.position(), goal) <= 0.05f + 1e-3f);
  RC_ASSERT(courier.statistics().metres < distance * 1.05 + 0.1);
  pass(world, 2, 0.25f);
  RC_ASSERT(flat_distance(courier.position(), goal) <= 0.1f + 1e-3f);
}

TEST(GoTo, TakesTheSameTimeAtAnyTickRate) {
  for (const Gait gait : {Gait{}, Gait{.speed = 3, .acceleration = 1, .braking = 1},
                          Gait{.speed = 1.3f, .turn_rate = radians(200.f), .turn_first = true}}) {
    std::vector<double> times;
    for (const float rate : {30.f, 60.f, 144.f}) {
      World world;
      const Npc npc = *world.add({.heading = 2.f, .gait = gait});
      const Order order = npc.go_to({7, -3, 0});
      pass(world, 60, 1.f / rate, [&] { return !order.running(); });
      EXPECT_EQ(order.outcome()->ending, Ending::arrived);
      times.push_back(world.journal()[world.journal().next() - 1].time);
    }
    EXPECT_NEAR(times[0] / times[1], 1.0, 0.01);
    EXPECT_NEAR(times[2] / times[1], 1.0, 0.01);
  }
}

TEST(GoTo, BadGoalsAreRefusedWithAReasonAndTheNpcStaysAsItWas) {
  World world;
  const Npc npc = *world.add({.name = "porter", .at = {4, 4, 0}});
  const auto end_of = [&](const Order& order) {
    pass(world, 1, 1.f / 60.f, [&] { return !order.running(); });
    return order.outcome().value();
  };
  const float nan = std::numeric_limits<float>::quiet_NaN();
  EXPECT_EQ(end_of(npc.go_to({nan, 0, 0})).why(), "a coordinate of the goal is not a finite number");
  EXPECT_EQ(end_of(npc.go_to({1, 0, 0}, {.within = -1})).why(),
            "within is -1; it must lie between 0.001 and 1000");
  EXPECT_EQ(end_of(npc.go_to({1, 0, 0}, {.within = nan})).ending, Ending::refused);
  const Outcome off = end_of(npc.go_to({100'025, 7, 0}));
  EXPECT_EQ(off.ending, Ending::off_ground);
  EXPECT_EQ(off.why(), "the goal is off the ground; the nearest spot is (100000.00, 7.00), 25.00 m off");
  EXPECT_EQ(end_of(npc.pause(nan)).ending, Ending::refused);
  EXPECT_EQ(end_of(npc.turn_to({nan, 0, 0})).ending, Ending::refused);
  EXPECT_EQ(npc.position(), vec3(4, 4, 0));
}

TEST(GoTo, ProgressGrowsFromNothingToTheWholeWay) {
  World world;
  const Npc npc = *world.add({});
  const Order order = npc.go_to({10, 0, 0});
  float before = -1.f;
  while (world.tick(1.f / 60.f), order.running()) {
    const Progress progress = npc.errand().progress;
    EXPECT_FLOAT_EQ(progress.of_metres, 10.f);
    EXPECT_GE(progress.metres, before);
    EXPECT_NEAR(progress.fraction, progress.metres / 10.f, 1e-5f);
    before = progress.metres;
  }
  EXPECT_GT(before, 9.6f);
}

// A ground of the test's own: an L-shaped quay, so that the way has a bend.
class Corner final : public Ground {
 public:
  std::uint64_t changes = 0;
  bool closed = false;
  Snap snap(vec3 point, float reach, const Body&) const override { return open_.snap(point, reach); }
  Snap nearest_reachable(const Spot& from, vec3 goal) const override {
    return open_.nearest_reachable(from, goal);
  }
  void route(const Spot& from, const Spot& to, Route& route) const override {
    open_.route(from, to, route);
    if (closed) return route.bends.clear();
    if (from.position.x < 9.9f && to.position.y > 0.1f)
      route.bends.insert(route.bends.begin() + 1, vec3(10, 0, 0));
    route.length_xy = 0.f;
    for (std::size_t i = 1; i < route.bends.size(); ++i)
      route.length_xy += flat_distance(route.bends[i - 1], route.bends[i]);
  }
  bool sight(const Spot&, const Spot&) const override { return false; }
  Stretch straight(const Spot& from, vec2 way) const override { return open_.straight(from, way); }
  Spot random_spot(Random&, const Spot& around, float) const override { return around; }
  float distance(const Spot& from, const Spot& to) const override { return open_.distance(from, to); }
  std::uint64_t revision() const override { return changes; }

 private:
  OpenGround open_;
};

TEST(GoTo, RoundsTheBendsOfAUsersOwnGround) {
  for (const float tick : {1.f / 144.f, 1.f / 30.f, 0.25f}) {
    Corner ground;
    World world({.ground = &ground});
    const Npc npc = *world.add({.gait = {.speed = 6, .acceleration = 3, .braking = 3}});
    const Order order = npc.go_to({10, 10, 0});
    float off = 0.f;
    pass(world, 60, tick, [&] {
      const vec3 at = npc.position();
      off = std::max(off, std::min(std::abs(at.y), std::abs(at.x - 10.f)));  // from the nearer arm of the L
      return !order.running();
    });
    EXPECT_EQ(order.outcome()->ending, Ending::arrived);
    EXPECT_LT(off, 0.3f) << tick;
  }
}

TEST(GoTo, WalksRoundACornerWithoutCreeping) {
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {30, 0}, {30, 30}, {0, 30}}},
                                             .holes = {{{0, 10.7f}, {18, 10.7f}, {18, 30}, {0, 30}}}});
  for (const float speed : {1.1f, 1.3f, 2.f})
    for (const vec3 from : {vec3(8, 8, 0), vec3(3, 10.3f, 0)}) {
      World world({.ground = ground.get()});
      const Npc porter = *world.add({.at = from, .gait = {.speed = speed}});
      porter.go_to({18.9f, 25, 0});
      float min = speed;
      pass(world, 60, 1.f / 60, [&] {
        if (world.time() > 1 && flat_distance(porter.position(), {18.9f, 25, 0}) > 2)
          min = std::min(min, glm::length(porter.velocity()));
        return !porter.busy();
      });
      EXPECT_FALSE(porter.busy());
      EXPECT_GT(min, 0.6f) << speed << " m/s";
    }
}

TEST(GoTo, PlansAnewWhenTheGroundChangesAndEndsAsNoWayWhenThereIsNoneLeft) {
  Corner ground;
  World world({.ground = &ground});
  const Order order = (*world.add({})).go_to({10, 10, 0});
  pass(world, 2);
  ground.closed = true;
  pass(world, 1);
  EXPECT_TRUE(order.running());  // the ground has not reported a change
  ++ground.changes;
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::no_route);
  EXPECT_EQ(order.outcome()->why(), "no route leads to (10.00, 10.00)");
}

}  // namespace
}  // namespace ambulon
