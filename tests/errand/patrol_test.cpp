#include <algorithm>
#include <set>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"
#include "route/curve.hpp"

namespace ambulon {
namespace {

/// The numbers of the waypoints reached, from 1, in order.
std::vector<int> visits(const World& world) {
  std::vector<int> numbers;
  for (auto i = world.journal().first(); i < world.journal().next(); ++i)
    if (world.journal()[i].event == Event::reached)
      numbers.push_back(static_cast<int>(world.journal()[i].number));
  return numbers;
}

/// One NPC that patrols the lamps.
struct Round {
  World world;
  std::shared_ptr<Beat> beat;
  Npc npc;
  Order order;

  explicit Round(BeatOrder order_, BeatPath path = BeatPath::straight, PatrolOptions options = {},
                 vec3 at = {2, 3, 0}, Gait gait = {.speed = 5})
      : beat(*make_beat(lamps, order_, path)),
        npc(*world.add({.name = "watch", .at = at, .gait = gait})),
        order(npc.patrol(beat, options)) {}
};

TEST(Patrol, VisitsInTheOrderAskedFor) {
  Round around(BeatOrder::around), back(BeatOrder::back_and_forth), once(BeatOrder::once);
  pass(around.world, 20), pass(back.world, 20), pass(once.world, 20);
  const auto first = [](const World& world, std::size_t count) {
    auto numbers = visits(world);
    EXPECT_GE(numbers.size(), count);
    numbers.resize(count);
    return numbers;
  };
  EXPECT_EQ(first(around.world, 6), (std::vector{1, 2, 3, 4, 1, 2}));
  EXPECT_EQ(first(back.world, 8), (std::vector{1, 2, 3, 4, 3, 2, 1, 2}));
  EXPECT_EQ(visits(once.world), (std::vector{1, 2, 3, 4}));
  EXPECT_EQ(once.order.outcome()->ending, Ending::arrived);
  EXPECT_TRUE(around.order.running() && back.order.running());
}

TEST(Patrol, ShuffledNeverRepeatsAtOnceAndLeavesNoneOut) {
  Round round(BeatOrder::shuffled);
  pass(round.world, 300);
  const auto numbers = visits(round.world);
  std::array<int, 5> counts{};
  for (std::size_t i = 0; i < numbers.size(); ++i) {
    if (i > 0) {
      ASSERT_NE(numbers[i], numbers[i - 1]);
    }
    ++counts[static_cast<std::size_t>(numbers[i])];
  }
  ASSERT_GT(numbers.size(), 110U);
  for (int number = 1; number <= 4; ++number)
    EXPECT_NEAR(counts[static_cast<std::size_t>(number)], static_cast<double>(numbers.size()) / 4, 20)
        << number;
}

TEST(Patrol, BeginsAtTheNearestOrTheFirst) {
  Round nearest(BeatOrder::around, BeatPath::straight, {}, {16, 7, 0}),
      first(BeatOrder::around, BeatPath::straight, {.start = PatrolStart::first}, {16, 7, 0});
  pass(nearest.world, 4), pass(first.world, 4);
  EXPECT_EQ(visits(nearest.world).front(), 3);
  EXPECT_EQ(visits(first.world).front(), 1);
}

TEST(Patrol, PausesWithinTheRangeAndFacesWhereAsked) {
  Round round(BeatOrder::around);
  for (std::size_t i = 0; i < round.beat->size(); ++i)
    ASSERT_TRUE(round.beat->change(round.beat->id(i),
                                   {.position = lamps[i], .pause = {1, 3}, .facing = radians(-90.f)}));
  std::set<float> pauses;
  double stood_since = 0;
  pass(round.world, 120, 1.f / 60.f, [&] {
    if (!round.npc.doing().starts_with("pausing")) stood_since = round.world.time();
    if (round.world.time() - stood_since > 0.8) {
      EXPECT_NEAR(round.npc.heading(), radians(-90.f), 0.02f);
    }
    return false;
  });
  for (auto i = round.world.journal().first(); i < round.world.journal().next(); ++i)
    if (round.world.journal()[i].event == Event::pausing) pauses.insert(round.world.journal()[i].value);
  EXPECT_GT(pauses.size(), 20U);
  EXPECT_GE(*pauses.begin(), 1.f);
  EXPECT_LE(*pauses.rbegin(), 3.f);
  EXPECT_GT(*pauses.rbegin() - *pauses.begin(), 1.2f);
}

TEST(Patrol, TakesTheSameTimeAtAnyTickRate) {
  for (const BeatPath path : {BeatPath::straight, BeatPath::curve})
    for (const Gait gait : {Gait{}, Gait{.speed = 1.1f, .acceleration = 0.8f, .braking = 1.2f},
                            Gait{.speed = 1.3f, .turn_rate = radians(240.f), .turn_first = true}}) {
      std::vector<double> times;
      for (const float rate : {30.f, 60.f, 144.f}) {
        Round round(BeatOrder::once, path, {.start = PatrolStart::first}, {2, 3, 0}, gait);
        for (std::size_t i = 0; i < round.beat->size(); i += 2)
          ASSERT_TRUE(round.beat->change(round.beat->id(i),
                                         {.position = lamps[i], .pause = {1.5f, 1.5f}, .facing = 1.f}));
        pass(round.world, 90, 1.f / rate, [&] { return !round.order.running(); });
        ASSERT_EQ(round.order.outcome()->ending, Ending::arrived);
        times.push_back(round.world.journal()[round.world.journal().next() - 1].time);
      }
      EXPECT_NEAR(times[0] / times[1], 1.0, 0.01);
      EXPECT_NEAR(times[2] / times[1], 1.0, 0.01);
    }
}

TEST(Patrol, KeepsTheSecondsOfALap) {
  for (const BeatPath path : {BeatPath::straight, BeatPath::curve})
    for (const BeatOrder order : {BeatOrder::around, BeatOrder::back_and_forth})
      for (const float lap : {20.f, 40.f})
        for (const float pause : {0.f, 1.f}) {
          Round round(order, path, {.lap = lap}, {6, 3, 0}, {.speed = 0.5f, .acceleration = 8, .braking = 8});
          ASSERT_TRUE(round.beat->change(round.beat->id(1), {.position = lamps[1], .pause = {pause, pause}}));
          pass(round.world, 4 * lap + 4);
          std::vector<float> laps;
          for (auto i = round.world.journal().first(); i < round.world.journal().next(); ++i)
            if (const Note& note = round.world.journal()[i];
                note.event == Event::lap || note.event == Event::late)
              laps.push_back(note.value);
          ASSERT_GE(laps.size(), 3U);
          for (std::size_t i = 1; i < laps.size(); ++i)
            EXPECT_NEAR(laps[i], lap, 0.01f * lap)
                << name(path) << " " << name(order) << " " << lap << " " << pause;
        }
}

TEST(Patrol, CurveIsFollowedCloselyAndThroughEveryWaypoint) {
  Round round(BeatOrder::around, BeatPath::curve, {}, {6.5f, 3, 0}, {.speed = 1.5f});
  pass(round.world, 5);
  float off = 0.f;
  pass(round.world, 60, 1.f / 60.f, [&] {
    const float along = round.beat->curve().nearest(round.npc.position(), 0.f, round.beat->curve().length());
    off = std::max(off, flat_distance(round.beat->curve().position(along), round.npc.position()));
    return false;
  });
  EXPECT_LT(off, 0.12f);
  EXPECT_GT(visits(round.world).size(), 8U);
}

TEST(Patrol, ProgressRunsFromNothingToTheWholeLap) {
  for (const BeatPath path : {BeatPath::straight, BeatPath::curve}) {
    Round round(BeatOrder::around, path, {}, {6.5f, 3, 0}, {.speed = 1.4f});
    pass(round.world, 0.1);
    const float lap = round.npc.errand().progress.of_metres;
    EXPECT_NEAR(lap,
                path == BeatPath::curve ? round.beat->curve().length() : 5.522f + 5.590f + 5.315f + 9.192f,
                0.01f);
    float before = 0.f;
    int laps = 0;
    pass(round.world, 50, 1.f / 60.f, [&] {
      const Progress progress = round.npc.errand().progress;
      EXPECT_NEAR(progress.fraction, progress.metres / lap, 1e-4f);
      const bool new_lap = progress.metres < before - 0.7f * lap;
      laps += new_lap;
      EXPECT_TRUE(new_lap || progress.metres >= before - 0.35f);
      before = progress.metres;
      return false;
    });
    EXPECT_GE(laps, 2);
  }
}

TEST(Patrol, GoesOnWhenWaypointsAreAddedMovedAndRemovedUnderWay) {
  for (const BeatPath path : {BeatPath::straight, BeatPath::curve}) {
    Round round(BeatOrder::around, path, {.start = PatrolStart::first}, {6, 3, 0}, {.speed = 2});
    pass(round.world, 1.5);  // on the way to waypoint 2
    EXPECT_EQ(round.npc.doing(), "walking to waypoint 2 of 4");
    ASSERT_TRUE(round.beat->move(round.beat->id(1), {9, 8, 0}));
    pass(round.world, 1);
    EXPECT_GT(round.npc.velocity().y, 0.5f);
    ASSERT_TRUE(round.beat->add({.position = {8, 1, 0}},
                                round.beat->id(1)));  // before the one ahead: not visited this time
    pass(round.world, 0.1);
    EXPECT_EQ(round.npc.doing(), "walking to waypoint 3 of 5");
    round.beat->remove(round.beat->id(2));  // the one ahead
    pass(round.world, 0.1);
    EXPECT_EQ(round.npc.doing(), "walking to waypoint 3 of 4");
    pass(round.world, 20);
    EXPECT_TRUE(round.order.running());
    EXPECT_EQ(count(round.world, Event::ordered), 1);
    while (round.beat->size() > 0) round.beat->remove(round.beat->id(0));
    pass(round.world, 60);
    EXPECT_EQ(round.npc.doing(), "waiting for waypoints");
    EXPECT_TRUE(contains(told(round.world), "waits for a route: the beat has no waypoints"));
    ASSERT_TRUE(round.beat->add({.position = {-2, 0, 0}}));
    pass(round.world, 12);
    EXPECT_NEAR(round.npc.position().x, -2, 0.31);
    EXPECT_EQ(count(round.world, Event::waits), 1);
    EXPECT_EQ(count(round.world, Event::goes_on), 1);
  }
}

TEST(Patrol, SkipsWaypointsOffTheGroundAndSaysSo) {
  Round round(BeatOrder::around);
  ASSERT_TRUE(round.beat->move(round.beat->id(2), {200'000, 0, 0}));
  pass(round.world, 15);
  const auto numbers = visits(round.world);
  EXPECT_EQ(std::count(numbers.begin(), numbers.end(), 3), 0);
  EXPECT_GT(numbers.size(), 4U);
  EXPECT_TRUE(contains(told(round.world),
                       "watch skipped waypoint 3 of 4: the goal is off the ground; the nearest spot is"));
  for (std::size_t i = 0; i < 4; ++i) ASSERT_TRUE(round.beat->move(round.beat->id(i), {200'000, 0, 0}));
  pass(round.world, 1);
  ASSERT_TRUE(round.order.running());
  EXPECT_EQ(count(round.world, Event::waits), 1);
  ASSERT_TRUE(round.beat->move(round.beat->id(1), lamps[1]));
  pass(round.world, 10);
  EXPECT_EQ(count(round.world, Event::goes_on), 1);
}

TEST(Patrol, WaitsWhereNoWayLeadsToAnyOfItsWaypoints) {
  // Two jetties with the canal between them.
  const auto ground = *MeshGround::make(
      Plan{.outlines = {{{0, 0}, {10, 0}, {10, 4}, {0, 4}}, {{20, 0}, {30, 0}, {30, 4}, {20, 4}}}});
  for (const std::uint64_t work : {0U, 1U}) {
    World world({.ground = ground.get(), .route_work = work});
    const Npc watch = *world.add({.name = "watch", .at = {5, 2, 0}});
    const Order order = watch.patrol(std::vector<vec3>{{22, 2, 0}, {25, 3, 0}, {28, 2, 0}});
    pass(world, 2);
    EXPECT_TRUE(order.running());
    EXPECT_EQ(count(world, Event::waits), 1);
    EXPECT_EQ(count(world, Event::skipped), 3);
    const Order half = watch.patrol(std::vector<vec3>{{22, 2, 0}, {2, 2, 0}, {25, 3, 0}, {8, 2, 0}});
    pass(world, 30);
    EXPECT_TRUE(half.running());
    EXPECT_GT(watch.statistics().arrivals, 4U);
  }
}

TEST(Patrol, NonsenseIsRefusedWithAReason) {
  const auto why = [](BeatPtr beat, PatrolOptions options) {
    World world;
    const Order order = (*world.add({})).patrol(std::move(beat), options);
    pass(world, 0.1);
    EXPECT_EQ(order.outcome()->ending, Ending::refused);
    return order.outcome()->why();
  };
  EXPECT_EQ(why(nullptr, {}), "the beat has no waypoints; give it at least one");
  EXPECT_EQ(why(std::make_shared<Beat>(), {}), "the beat has no waypoints; give it at least one");
  EXPECT_TRUE(contains(why(*make_beat(lamps, BeatOrder::shuffled), {.lap = 10}), "no lap"));
  EXPECT_TRUE(contains(why(*make_beat(lamps, BeatOrder::shuffled, BeatPath::curve), {}), "no curve"));
  EXPECT_EQ(why(*make_beat(lamps), {.lap = -1}), "lap is -1; it must lie between 0 and 1e+06");
}

TEST(Patrol, BeatsOfOneWaypointOrOfWaypointsOnOnePlaceNeitherHangNorChatter) {
  World world;
  const Npc cat = *world.add({.name = "cat"}), dog = *world.add({.name = "dog"});
  cat.patrol(std::vector<vec3>{{1, 0, 0}});
  dog.patrol(std::vector<vec3>{{2, 0, 0}, {2, 0, 0}, {2, 0, 0}}, {.lap = 5});
  pass(world, 20);
  EXPECT_EQ(cat.statistics().arrivals, 1U);
  EXPECT_LT(dog.statistics().arrivals, 20U * 60U * 2U);
  EXPECT_LT(flat_distance(dog.position(), {2, 0, 0}), 0.5f);
}

/// A lane along the canal, which a barrier can shut in its middle.
struct Lane {
  std::unique_ptr<MeshGround> ground =
      *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 3}, {0, 3}}}});
  World world{{.ground = ground.get()}};
  std::optional<BarrierId> barrier;
  void shut() { barrier = ground->put(*Barrier::box({10, 1.5f}, {1, 4})); }
  void open() { EXPECT_TRUE(ground->remove(*barrier)); }
  std::uint64_t searches() const { return world.route_figures().answered; }
};

TEST(Patrol, WaitsWhileItsWayIsShutAndGoesOnWhenItOpens) {
  for (const double seconds : {5.0, 120.0}) {
    Lane lane;
    const Npc porter = *lane.world.add({.name = "porter", .at = {1, 1.5f, 0}});
    const Order order = porter.patrol(std::vector<vec3>{{1, 1.5f, 0}, {19, 1.5f, 0}});
    pass(lane.world, 4, 1.f / 30);  // on the way to the second
    lane.shut();
    const std::uint64_t before = lane.searches();
    pass(lane.world, seconds, 1.f / 30);
    ASSERT_TRUE(order.running());
    EXPECT_EQ(count(lane.world, Event::waits), 1);
    EXPECT_LE(count(lane.world, Event::skipped), 3);
    EXPECT_LE(lane.searches() - before, 12 + 2 * static_cast<std::uint64_t>(seconds / 16));
    EXPECT_TRUE(contains(told(lane.world), "porter waits for a route: no route leads to (19.00, 1.50)"))
        << told(lane.world);
    lane.open();
    pass(lane.world, 40, 1.f / 30);
    EXPECT_GE(visits(lane.world).size(), 2U);
    EXPECT_EQ(count(lane.world, Event::goes_on), 1);
    EXPECT_LT(lane.world.journal().next(), 40U);
  }
}

TEST(Follow, WaitsForAWayToATargetThatIsShutOff) {
  Lane lane;
  const Npc thief = *lane.world.add({.at = {19, 1.5f, 0}}),
            cat = *lane.world.add({.name = "cat", .at = {1, 1.5f, 0}});
  lane.shut();
  const Order order = cat.follow(thief);
  pass(lane.world, 60, 1.f / 30);
  ASSERT_TRUE(order.running());
  EXPECT_EQ(cat.doing(), "waiting for a way");
  EXPECT_EQ(count(lane.world, Event::waits), 1);
  EXPECT_LE(lane.searches(), 16U);
  lane.open();
  pass(lane.world, 30, 1.f / 30);
  EXPECT_LT(flat_distance(cat.position(), thief.position()), 2.f);
  EXPECT_EQ(count(lane.world, Event::goes_on), 1);
}

}  // namespace
}  // namespace ambulon
