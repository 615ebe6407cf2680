#include "route/route_service.hpp"

#include <algorithm>
#include <map>
#include <thread>

#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "map_of.hpp"
#include "quay.hpp"
#include "random_map.hpp"

namespace ambulon {
namespace {

/// A ground on which each search takes the number of expansions that its goal states, as x.
class Toll final : public Ground {
 public:
  Snap snap(vec3 point, float, const Body&) const override {
    return {.spot = {.position = point}, .found = true, .within = true};
  }
  void route(const Spot& from, const Spot& to, Route& route) const override {
    route.clear();
    route.bends = {from.position, to.position};
    route.expanded = static_cast<std::uint64_t>(to.position.x);
    route.complete = true;
  }
  bool sight(const Spot&, const Spot&) const override { return true; }
  Stretch straight(const Spot& from, vec2 way) const override {
    return {.end = {.position = from.position + lift(way)}, .metres = glm::length(way)};
  }
  Spot random_spot(Random&, const Spot& around, float) const override { return around; }
  Snap nearest_reachable(const Spot&, vec3 goal) const override { return snap(goal, 0, {}); }
  float distance(const Spot& from, const Spot& to) const override {
    return flat_distance(from.position, to.position);
  }
  std::uint64_t revision() const override { return 0; }
};

RouteRequest costing(float work, std::uint32_t asker, double time = 0, int priority = 0) {
  return {.to = {.position = {work, static_cast<float>(asker), 0}},
          .priority = priority,
          .time = time,
          .asker = asker};
}

// The result is compared with a plain queue. Each search takes the same work, so the budget alone determines
// what a tick serves.
RC_GTEST_PROP(RouteService, ServesInTurnWithinItsBudgetAndLosesNobody, ()) {
  const Toll ground;
  RouteService service;
  struct Asked {
    std::uint32_t asker;
    double due;
    RouteTicket ticket;
  };
  std::vector<Asked> waiting;
  const int each = *rc::gen::inRange(0, 40), budget = *rc::gen::inRange(1, 300);
  std::uint32_t asked = 0;
  std::int64_t work_left = 0;
  for (int tick = 0; tick < 60; ++tick) {
    const double now = tick;
    for (int i = *rc::gen::inRange(0, 12); tick < 30 && i > 0; --i) {
      const int priority = *rc::gen::inRange(-3, 4);
      auto ticket = service.ask(costing(static_cast<float>(each), asked, now, priority));
      waiting.push_back({asked++, now - priority, std::move(ticket)});
    }
    if (!waiting.empty() && *rc::gen::inRange(0, 4) == 0) {
      const auto gone = waiting.begin() + *rc::gen::inRange(0, static_cast<int>(waiting.size()));
      waiting.erase(gone);  // dropping its ticket withdraws a query
    }
    service.begin(static_cast<std::uint64_t>(budget));
    work_left = std::min<std::int64_t>(work_left, 0) + budget;
    const auto served = service.serve(ground, now);
    RC_ASSERT(std::ranges::is_sorted(served));
    // Those served are the first in the queue.
    std::ranges::stable_sort(waiting, {}, [](const Asked& a) { return std::pair(a.due, a.asker); });
    for (std::size_t i = 0; i < served.size(); ++i) {
      RC_ASSERT(std::ranges::binary_search(served, waiting[i].asker));
      Route way;
      RC_ASSERT(waiting[i].ticket.take(way));
      RC_ASSERT(way.bends.back().y == static_cast<float>(waiting[i].asker));
      RC_ASSERT(!waiting[i].ticket.take(way));  // it was taken already
      work_left -= each + 1;
    }
    waiting.erase(waiting.begin(), waiting.begin() + static_cast<std::ptrdiff_t>(served.size()));
    RC_ASSERT(waiting.empty() || work_left <= 0);  // nothing waits while work is left in the budget
    RC_ASSERT(work_left > -32 * (each + 1));       // and at most one batch is overdrawn
    RC_ASSERT(service.figures().waiting() == waiting.size());
  }
  RC_ASSERT(service.figures().asked == asked);
  RC_ASSERT(service.figures().work == service.figures().answered * static_cast<std::uint64_t>(each + 1));
}

TEST(RouteService, PriorityIsWorthSecondsAndNobodyWaitsForEver) {
  const Toll ground;
  RouteService service;
  const RouteTicket humble = service.ask(costing(1, 0, 0, -5));
  std::vector<RouteTicket> others;
  double waited = -1;
  for (int tick = 0; tick < 20 && waited < 0; ++tick) {
    others.push_back(service.ask(costing(1, 1, tick, 0)));  // one query a second; the budget suffices for one
    service.begin(1);
    (void)service.serve(ground, tick);
    service.begin(1);  // pays for the work beyond the budget
    if (humble.ready()) waited = tick;
  }
  EXPECT_EQ(waited, 5);
  EXPECT_EQ(service.figures().longest_wait, 5);
}

// Routes out of a flow field against routes searched one by one.
RC_GTEST_PROP(TileGround, WaysToOneGoalTogetherAreAsGoodAsOneByOne, ()) {
  const TileGround ground(random_map({}, false, 60));
  const Body body{.radius = between(0, 0.5f)};
  const auto some_spot = [&] { return ground.snap({between(0, 60), between(0, 60), 0}, 1e9f, body); };
  const Snap to = some_spot();
  std::vector<Spot> from;
  for (int i = 0; i < 12; ++i)
    if (const Snap spot = some_spot(); spot.found) from.push_back(spot.spot);
  RC_PRE(to.found && !from.empty());
  std::vector<Route> ways(from.size());
  std::vector<Route*> pointers;
  for (Route& way : ways) pointers.push_back(&way);
  ground.routes_to(to.spot, from, pointers);
  for (std::size_t i = 0; i < from.size(); ++i) {
    Route alone;
    ground.route(from[i], to.spot, alone);
    RC_ASSERT(ways[i].complete == alone.complete);
    if (!alone.complete) continue;
    RC_ASSERT(ways[i].bends.front() == from[i].position);
    RC_ASSERT(ways[i].bends.back() == to.spot.position);
    RC_ASSERT(ways[i].length_xy <= 1.15f * alone.length_xy + 1.f);
    for (std::size_t leg = 1; leg < ways[i].bends.size(); ++leg) {
      const Snap a = ground.snap(ways[i].bends[leg - 1], 1.f, body),
                 b = ground.snap(ways[i].bends[leg], 1.f, body);
      const vec2 leg_way = flat(b.spot.position - a.spot.position);
      RC_ASSERT(a.off < 0.01f && b.off < 0.01f);
      // Except for the tolerance by which a spot may be nearer to a wall than a walker gets.
      RC_ASSERT(ground.straight(a.spot, leg_way).metres >= glm::length(leg_way) - 1e-3f);
    }
  }
}

/// A yard with walls, in which all NPCs are sent somewhere at once.
struct Yard {
  TileGround ground{
      map_of({"........................................", "...####...####...####...####...####.....",
              "...#.........#......#......#......#.....", "...#..####......####...####...####......",
              "........................................", "....####....####....####....####........",
              "........................................"})};

  /// Positions after some seconds, and the counts of queries and answers.
  std::pair<std::vector<vec3>, RouteFigures> after(double seconds, std::uint64_t work,
                                                   const Jobs& jobs = {}) {
    World world({.ground = &ground, .route_work = work, .jobs = jobs});
    Random random(4);
    for (int i = 0; i < 120; ++i) {
      const auto npc = world.add({.at = {0.5f + static_cast<float>(i % 40), i < 60 ? 0.5f : 6.5f, 0},
                                  .body = {.radius = 0.2f},
                                  .route_priority = i % 7 == 0 ? 2 : 0});
      npc->hop(std::vector<vec3>{{0.5f, 3, 0}, {random.within({1, 38}), 2.5f, 0}, {38, 0.5f, 0}});
    }
    pass(world, seconds);
    std::vector<vec3> places;
    world.each([&](Npc npc) { places.push_back(npc.position()); });
    return {places, world.route_figures()};
  }
};

TEST(RouteService, WithoutABudgetNobodyWaitsAndThreadsChangeNothing) {
  Yard yard;
  const auto [places, figures] = yard.after(12, 0);
  EXPECT_GT(figures.answered, 150U);
  EXPECT_EQ(figures.waited, 0);
  EXPECT_EQ(figures.waiting(), 0U);
  const Jobs threads = [](std::size_t count, const std::function<void(std::size_t)>& job) {
    std::thread other([&] {
      for (std::size_t i = count; i-- > 0;)
        if (i % 2 == 0) job(i);
    });
    for (std::size_t i = 1; i < count; i += 2) job(i);
    other.join();
  };
  EXPECT_EQ(yard.after(12, 0, threads).first, places);
  EXPECT_EQ(yard.after(12, 40, threads).first, yard.after(12, 40).first);
}

TEST(RouteService, WithABudgetTicksStaySmallAndAllGetTheirWay) {
  Yard yard;
  World world({.ground = &yard.ground, .route_work = 10});
  std::vector<Npc> all;
  for (int i = 0; i < 120; ++i)
    all.push_back(*world.add(
        {.at = {0.5f + static_cast<float>(i % 40), i < 60 ? 0.5f : 6.5f, 0}, .body = {.radius = 0.2f}}));
  for (const Npc npc : all) npc.go_to({20.5f, 2.5f, 0});
  std::uint64_t before = 0, max = 0;
  pass(world, 60, 1.f / 60, [&] {
    max = std::max(max, world.route_figures().work - before);
    before = world.route_figures().work;
    return std::ranges::none_of(all, &Npc::busy);
  });
  const RouteFigures figures = world.route_figures();
  for (const Npc npc : all) EXPECT_EQ(npc.errand().last->ending, Ending::arrived);
  EXPECT_EQ(figures.answered, 120U);
  EXPECT_GT(figures.longest_wait, 0.1);
  EXPECT_LT(figures.longest_wait, 3);
  EXPECT_LT(max, 60U);  // the first batch, whose work nothing could predict
  EXPECT_GT(figures.work, 400U);
}

TEST(RouteService, OrdersThatAreReplacedWhileTheyWaitLeaveNothingBehind) {
  Yard yard;
  World world({.ground = &yard.ground, .route_work = 1});
  std::vector<Npc> all;
  for (int i = 0; i < 30; ++i) all.push_back(*world.add({.at = {0.5f + static_cast<float>(i), 0.5f, 0}}));
  for (int round = 0; round < 5; ++round) {
    for (const Npc npc : all) npc.go_to({22.5f, 4.5f, 0});
    pass(world, 0.05);
  }
  for (const Npc npc : all) npc.cancel();
  pass(world, 0.05);
  const RouteFigures figures = world.route_figures();
  EXPECT_EQ(figures.waiting(), 0U);
  EXPECT_GT(figures.withdrawn, 100U);
  // A barrier encloses it while its query waits: the order ends with no_route.
  const Npc last = all.back();
  last.go_to({22.5f, 4.5f, 0});
  all.front().go_to({38, 6.5f, 0});
  yard.ground.put(*Barrier::box({27.5f, 0.5f}, {0.9f, 1}));
  yard.ground.put(*Barrier::box({32.5f, 0.5f}, {0.9f, 1}));
  pass(world, 2);
  EXPECT_EQ(last.errand().last->ending, Ending::no_route);
}

TEST(RouteService, ThousandsThatWaitCostNothingInATick) {
  const Toll ground;
  RouteService service;
  constexpr std::uint32_t count = 50'000;
  std::vector<RouteTicket> tickets;
  for (std::uint32_t i = 0; i < count; ++i)
    tickets.push_back(service.ask(costing(0, i)));  // each takes a budget of 1
  for (int tick = 0; tick < 100; ++tick) {
    service.begin(1);
    EXPECT_EQ(service.serve(ground, 1).size(), 1U);
  }
  EXPECT_LT(service.figures().looked_at, 1'000U);
  // Withdrawing in any order keeps the queue consistent.
  for (std::uint32_t i = 0; i < count; ++i) tickets[i * 7'919ULL % count].withdraw();
  EXPECT_EQ(service.figures().waiting(), 0U);
  service.begin(0);
  EXPECT_TRUE(service.serve(ground, 2).empty());
  // Queries with one goal are visited at most once for all that are answered together.
  for (std::uint32_t i = 0; i < count; ++i)
    tickets[i] = service.ask({.to = {.position = {1, 1, 0}}, .time = 3, .asker = i});
  const std::uint64_t before = service.figures().looked_at;
  service.begin(0);
  EXPECT_EQ(service.serve(ground, 3).size(), count);
  EXPECT_LT(service.figures().looked_at - before, 4U * count);
}

TEST(RouteService, AGoalThatIsNotANumberIsAsGoodAsAny) {
  const Toll ground;
  RouteService service;
  RouteTicket one = service.ask({.to = {.position = {1, std::nanf(""), 0}}, .asker = 1});
  RouteTicket other = service.ask({.to = {.position = {1, std::nanf(""), 0}}, .asker = 2});
  one.withdraw();
  service.begin(0);
  EXPECT_EQ(service.serve(ground, 0).size(), 1U);
}

}  // namespace
}  // namespace ambulon
