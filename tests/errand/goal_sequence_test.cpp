// Roam and hop: walks to spots that are chosen one at a time.

#include <algorithm>
#include <limits>
#include <map>

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

std::vector<Note> notes(const World& world, Event event) {
  std::vector<Note> all;
  for (auto number = world.journal().first(); number < world.journal().next(); ++number)
    if (world.journal()[number].event == event) all.push_back(world.journal()[number]);
  return all;
}

TEST(Roam, VisitsSpotsAllOverItsRingAndPausesAtEach) {
  World world({.seed = 3, .journal = 100'000});
  const vec3 home(20, -5, 0);
  const Npc cat =
      *world.add({.name = "cat", .at = home, .gait = {.speed = 6, .acceleration = 30, .braking = 30}});
  const Order order = cat.roam({.radius = 8, .not_nearer = 4, .pause = {0.1f, 0.3f}, .visits = 200});
  pass(world, 3000, 1.f / 20.f, [&] { return !order.running(); });
  ASSERT_EQ(order.outcome()->why(), "it has done so 200 times, as ordered");
  const auto visited = notes(world, Event::visited);
  ASSERT_EQ(visited.size(), 200U);
  EXPECT_EQ(cat.statistics().arrivals, 200U);
  int outer = 0, left = 0;
  for (const Note& note : visited) {
    const float away = flat_distance(note.where, home);
    EXPECT_GE(away, 4.f);
    EXPECT_LE(away, 8.f);
    outer += away > std::sqrt(40.f);  // half of the ring's area lies further outside
    left += note.where.x < home.x;
  }
  EXPECT_NEAR(outer, 100, 30);
  EXPECT_NEAR(left, 100, 30);
  for (const Note& note : notes(world, Event::pausing)) {
    EXPECT_GE(note.value, 0.1f);
    EXPECT_LE(note.value, 0.3f);
  }
}

TEST(Roam, TheCircleGoesAlongWhenAskedTo) {
  World world;
  const Npc cat = *world.add({.gait = {.speed = 6}});
  cat.roam({.radius = 5, .not_nearer = 4, .from_where_it_stands = true, .visits = 60});
  float furthest = 0.f;
  pass(world, 600, 1.f / 20.f, [&] {
    furthest = std::max(furthest, flat_distance(cat.position(), vec3(0.f)));
    return !cat.busy();
  });
  EXPECT_GT(furthest, 8.f);
}

/// An open quay of which one half cannot be reached.
class Divided final : public Ground {
 public:
  bool all_closed = false;
  Snap snap(vec3 point, float reach, const Body&) const override { return open_.snap(point, reach); }
  Snap nearest_reachable(const Spot& from, vec3 goal) const override {
    return open_.nearest_reachable(from, goal);
  }
  void route(const Spot& from, const Spot& to, Route& route) const override {
    open_.route(from, to, route);
    if (all_closed || to.position.x > 0.f) route.bends.clear();
  }
  bool sight(const Spot&, const Spot&) const override { return false; }
  Stretch straight(const Spot& from, vec2 way) const override { return open_.straight(from, way); }
  Spot random_spot(Random& random, const Spot& around, float radius) const override {
    return open_.random_spot(random, around, radius);
  }
  float distance(const Spot& from, const Spot& to) const override { return open_.distance(from, to); }
  std::uint64_t revision() const override { return 0; }

 private:
  OpenGround open_;
};

TEST(Roam, GoesOnAfterALegThatFailedAndEndsWhenAllOfThemDo) {
  Divided ground;
  World world({.ground = &ground});
  const Npc cat = *world.add({.name = "cat", .at = {-1, 0, 0}, .gait = {.speed = 5}});
  const Order order = cat.roam({.radius = 6, .visits = 20});
  pass(world, 300, 1.f / 30.f, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::done);
  EXPECT_GT(count(world, Event::gave_up), 3);
  EXPECT_TRUE(contains(told(world), "cat gave up going to ("));
  ground.all_closed = true;
  const Order hopeless = cat.roam({.unreachable = Unreachable::refuse});
  pass(world, 1);
  EXPECT_EQ(hopeless.outcome()->ending, Ending::no_route);
  const auto searches = world.route_figures().asked;
  const int gave_up = count(world, Event::gave_up);
  const Order patient = cat.roam();
  pass(world, 120);
  EXPECT_TRUE(patient.running());
  EXPECT_EQ(count(world, Event::waits), 1);
  EXPECT_EQ(count(world, Event::gave_up) - gave_up, 7);
  EXPECT_LE(world.route_figures().asked - searches, 8U * 12);
  ground.all_closed = false;
  pass(world, 60);
  EXPECT_TRUE(patient.running());
  EXPECT_EQ(count(world, Event::goes_on), 1);
  EXPECT_GT(count(world, Event::visited), 0);
}

TEST(Roam, NonsenseIsRefused) {
  World world;
  const Npc cat = *world.add({});
  const auto why = [&](const RoamOptions& options) {
    const Order order = cat.roam(options);
    pass(world, 0.05);
    return order.outcome() ? order.outcome()->why() : "it runs";
  };
  EXPECT_EQ(why({.radius = -2}), "radius is -2; it must lie between 0.1 and 100000");
  EXPECT_EQ(why({.radius = 10, .not_nearer = 12}), "not_nearer is 12; it must lie between 0 and 9.9");
  EXPECT_EQ(why({.pause = {3, 1}}), "pause is 1; it must lie between 3 and 1e+06");
  EXPECT_EQ(why({.home = vec3(std::numeric_limits<float>::quiet_NaN())}),
            "a coordinate of home is not a finite number");
  EXPECT_EQ(why({.home = vec3(3e5, 0, 0)}),
            "the goal is off the ground; the nearest spot is (100000.00, 0.00), 200000.00 m off");
}

TEST(Hop, ChoosesByWeightAndNeverTheSameTwiceInARow) {
  World world({.seed = 11, .journal = 100'000});
  const Npc moth =
      *world.add({.gait = {.speed = 20, .acceleration = 200, .braking = 200, .slowing_distance = 0.1f}});
  auto points = std::make_shared<Beat>();
  for (const auto& [x, weight] : {std::pair{0.f, 1.f}, {3.f, 1.f}, {6.f, 4.f}, {9.f, 0.f}})
    ASSERT_TRUE(points->add({.position = {x, 0, 0}, .weight = weight}));
  const Order order = moth.hop(points, {.visits = 600});
  pass(world, 3000, 1.f / 20.f, [&] { return !order.running(); });
  std::map<float, int> visits;
  float before = -1.f;
  for (const Note& note : notes(world, Event::visited)) {
    EXPECT_NE(note.where.x, before);
    before = note.where.x;
    ++visits[before];
  }
  EXPECT_EQ(visits[9], 0);
  // Of three points with weights 1, 1, 4 and no repeats, the heavy one is every 2.25th: 0.8 out of the light
  // ones.
  EXPECT_NEAR(visits[6], 600 / 2.25, 40);
}

TEST(Hop, TheSetMayChangeMeanwhileAndRepeatsMustBeAskedFor) {
  World world;
  const Npc cat = *world.add({.name = "cat", .gait = {.speed = 5}});
  auto points = *make_beat(lamps);
  const Order order = cat.hop(points);
  pass(world, 20);
  EXPECT_TRUE(order.running());
  while (points->size() > 1) points->remove(points->id(1));
  pass(world, 20);
  EXPECT_EQ(cat.doing(), "waiting until there is somewhere to go");
  EXPECT_TRUE(contains(told(world), "cat waits for a route: the set has one point"));
  points->remove(points->id(0));
  pass(world, 20);
  ASSERT_TRUE(points->add({.position = {-3, 0, 0}}));
  pass(world, 3);
  EXPECT_NEAR(cat.position().x, -3, 0.31) << "it goes there at once";
  EXPECT_TRUE(order.running());
  const Order again = cat.hop(points, {.repeats = true, .visits = 3});
  pass(world, 20);
  EXPECT_EQ(again.outcome()->ending, Ending::done);
  const Order none = cat.hop(std::make_shared<Beat>());
  pass(world, 0.05);
  EXPECT_EQ(none.outcome()->ending, Ending::refused);
}

TEST(Hop, LegsThatTakeTooLongAreGivenUpUntilEightInARowCameToNothing) {
  World world;
  const Npc cat = *world.add({.name = "cat"});
  const Order order = cat.hop(*make_beat(std::vector<vec3>{{1000, 0, 0}, {2000, 0, 0}}), {.leg_time = 3});
  pass(world, 60, 1.f / 60.f, [&] { return !order.running(); });
  EXPECT_EQ(count(world, Event::gave_up), 7);
  EXPECT_EQ(order.outcome()->ending, Ending::timed_out);
  EXPECT_NEAR(world.time(), 24, 0.5);
}

}  // namespace
}  // namespace ambulon
