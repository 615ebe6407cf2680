// What a game does to NPCs besides giving orders: pushes, removal, settings, events, poses, debug drawing.

#include <map>
#include <unordered_set>

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TileGround quay_of(const std::vector<std::string>& rows) {
  std::vector<std::uint8_t> cells;
  for (auto row = rows.rbegin(); row != rows.rend(); ++row)
    for (const char cell : *row) cells.push_back(cell == '#' ? TileMap::blocked : 1);
  return TileGround(*TileMap::make(
      cells, {.width = static_cast<int>(rows[0].size()), .height = static_cast<int>(rows.size())}));
}

TEST(Push, MovesEvenlyThenTheOrderResumes) {
  for (const float rate : {10.f, 30.f, 60.f, 144.f})
    for (const float speed : {0.02f, 1.f, 6.f, 30.f}) {
      World world;
      const Npc porter = *world.add({.name = "porter"});
      const Order order = porter.go_to({20, 0, 0});
      pass(world, 2, 1 / rate);
      const vec3 before = porter.position();
      ASSERT_TRUE(porter.push({0, speed}, 0.5f));
      pass(world, 0.5, 1 / rate);
      const float ticks = std::ceil(0.5f * rate - 1e-3f);
      EXPECT_NEAR(porter.position().y - before.y, 0.5f * speed, 1e-3f + speed * (ticks / rate - 0.5f));
      EXPECT_NEAR(porter.position().x, before.x, speed / rate + 0.15f);
      EXPECT_TRUE(order.running());
      pass(world, 60, 1 / rate, [&] { return !order.running(); });
      EXPECT_TRUE(order.outcome() && *order.outcome()) << speed << " m/s, rate " << rate;
      EXPECT_EQ(count(world, Event::knocked_back), 1);
    }
}

RC_GTEST_PROP(Push, NeverLeavesTheGround, ()) {
  const TileGround ground = quay_of({"..........", "..##......", "......#...", ".#........", ".........."});
  World world({.ground = &ground, .avoid = *rc::gen::arbitrary<bool>()});
  std::vector<Npc> npcs;
  for (const vec3 at : {vec3(0.5f, 0.5f, 0), vec3(5.5f, 1.5f, 0), vec3(8.5f, 3.5f, 0)})
    npcs.push_back(*world.add({.at = at, .body = {.radius = 0.3f}}));
  for (int i = 0; i < 200; ++i) {
    const Npc npc = *rc::gen::elementOf(npcs);
    switch (*rc::gen::inRange(0, 6)) {
      case 0:
        (void)npc.push(vec2(*rc::gen::inRange(-30, 31), *rc::gen::inRange(-30, 31)),
                       0.1f * static_cast<float>(*rc::gen::inRange(0, 20)));
        break;
      case 1:
        npc.go_to(vec2(*rc::gen::inRange(0, 10), *rc::gen::inRange(0, 5)));
        break;
      case 2:
        *rc::gen::arbitrary<bool>() ? npc.suspend() : npc.resume();
        break;
      case 3:
        npc.cancel();
        break;
      default:
        RC_ASSERT(world.tick(1.f / static_cast<float>(*rc::gen::element(10, 60))).has_value());
    }
    for (const Npc each : npcs) RC_ASSERT(bool(ground.snap(each.position(), 0.01f, each.body())));
  }
}

TEST(Push, RefusesWhatMakesNoSense) {
  World world;
  const Npc cat = *world.add({.name = "cat"});
  const Npc player = *world.add({.name = "player", .at = {5, 0, 0}, .drive = Drive::reported});
  for (const vec2 velocity : {vec2(NAN, 0), vec2(0, INFINITY), vec2(101, 0)})
    EXPECT_FALSE(cat.push(velocity, 1));
  for (const float seconds : {0.f, -1.f, NAN, 61.f}) EXPECT_FALSE(cat.push({1, 0}, seconds));
  EXPECT_TRUE(contains(player.push({1, 0}, 1).error().text, "the game moves this body"));
  pass(world, 1);
  EXPECT_EQ(cat.position(), vec3(0.f));
  ASSERT_TRUE(cat.push({1, 0}, 10));
  ASSERT_TRUE(cat.push({0, 1}, 1));  // replaces the first
  pass(world, 3);
  EXPECT_NEAR(cat.position().x, 0, 1e-3);
  EXPECT_NEAR(cat.position().y, 1, 0.15);
  cat.remove();
  EXPECT_TRUE(contains(cat.push({1, 0}, 1).error().text, "no longer in the world"));
}

TEST(Push, ThrowsOutOfSleep) {
  World world;
  const Npc cat = *world.add({.name = "cat"});
  pass(world, 3);
  ASSERT_EQ(world.sleeping(), 1U);
  ASSERT_TRUE(cat.push({2, 0}, 1));
  pass(world, 2);
  EXPECT_NEAR(cat.position().x, 2, 0.3);  // and the braking distance
  pass(world, 3);
  EXPECT_EQ(world.sleeping(), 1U);
}

TEST(Removed, IsReportedOnceWhoeverRemovesIt) {
  World world;
  std::map<std::string, int> told;
  std::vector<Npc> cats;
  for (int i = 0; i < 6; ++i) {
    cats.push_back(
        *world.add({.name = "cat " + std::to_string(i), .at = {2.f * static_cast<float>(i), 0, 0}}));
    cats[static_cast<std::size_t>(i)].on_removed([&, i](Npc me) {
      EXPECT_FALSE(me.alive());
      EXPECT_EQ(me, cats[static_cast<std::size_t>(i)]);
      ++told["cat " + std::to_string(i)];
      if (i + 1 < 4) cats[static_cast<std::size_t>(i) + 1].remove();  // each removes the next one as well
    });
  }
  cats[4].on_removed({});
  cats[0].go_to({9, 9, 0}).on_end([&](Npc, const Outcome& outcome) {
    EXPECT_EQ(outcome.ending, Ending::gone);
    ++told["order"];
  });
  cats[0].remove();
  EXPECT_TRUE(told.empty());  // removed between ticks, so reported in the next one
  pass(world, 0.1);
  cats[4].remove();
  pass(world, 0.1);
  EXPECT_EQ(told, (std::map<std::string, int>{
                      {"cat 0", 1}, {"cat 1", 1}, {"cat 2", 1}, {"cat 3", 1}, {"order", 1}}));
  EXPECT_EQ(world.size(), 1U);  // its callback is destroyed with the world, uncalled
}

TEST(Settings, OfTagsNamesAndUserData) {
  World world;
  const Tags dogs = *world.tag("dogs"), cats = *world.tag("cats");
  const Npc cat = *world.add({.name = "cat", .at = {3, 0, 0}, .tags = cats, .user_data = 7});
  const Npc dog = *world.add({.name = "dog", .tags = dogs});
  EXPECT_EQ(cat.user_data(), 7U);
  cat.set_user_data(~std::uint64_t{0});
  EXPECT_EQ(cat.user_data(), ~std::uint64_t{0});
  dog.chase(World::one_of(cats));
  pass(world, 0.1);
  EXPECT_EQ(dog.errand().target, cat);
  cat.set_tags(dogs);
  EXPECT_FALSE(world.others().nearest(cats, {0, 0, 0}, 1.7f, {}));
  EXPECT_EQ(world.others().nearest(dogs, {3, 0, 0}, 1.7f, dog)->id, cat.id());
  cat.set_tags({});
  EXPECT_EQ(world.others().near({3, 0, 0}, {.radius = 1, .tags = dogs}).size(), 0U);
  cat.set_name("ginger");
  EXPECT_EQ(world.find("ginger"), cat);
  EXPECT_FALSE(world.find("cat").alive());
  EXPECT_FALSE(cat.set_avoidance({.horizon = -1}));
  EXPECT_TRUE(cat.set_avoidance({.priority = 5}));
  EXPECT_EQ(cat.avoidance().priority, 5);
  for (const int wrong : {1001, -1001, INT32_MIN}) EXPECT_FALSE(cat.set_route_priority(wrong));
  EXPECT_TRUE(cat.set_route_priority(-3));
  EXPECT_EQ(cat.route_priority(), -3);
  std::unordered_set<NpcId> ids{cat, dog, cat};
  EXPECT_EQ(ids.size(), 2U);
  cat.remove();
  cat.set_name("gone"), cat.set_tags(cats), cat.set_user_data(1);
  EXPECT_TRUE(cat.set_drive(Drive::advised));
  EXPECT_EQ(cat.user_data(), 0U);
  pass(world, 0.1);
}

TEST(Settings, OfWhatMovesABody) {
  const TileGround ground = quay_of({"....", "....", "...."});
  World world({.ground = &ground});
  const Npc porter = *world.add({.name = "porter", .at = {0.5f, 0.5f, 0}});
  Order order = porter.go_to({3.5f, 2.5f, 0});
  pass(world, 0.5);
  ASSERT_TRUE(porter.set_drive(Drive::advised));  // the game takes over in the middle of an order
  vec3 at = porter.position();
  for (int i = 0; i < 400 && order.running(); ++i) {
    at += porter.advice().velocity / 60.f;
    ASSERT_TRUE(porter.report(at));
    ASSERT_TRUE(world.tick(1.f / 60));
  }
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
  order = porter.go_to({0.5f, 0.5f, 0});
  ASSERT_TRUE(porter.set_drive(Drive::reported));
  EXPECT_EQ(order.outcome()->cause, Cause::takes_no_orders);
  ASSERT_TRUE(porter.report({9, 9, 0}));
  pass(world, 0.1);
  EXPECT_TRUE(contains(porter.set_drive(Drive::own).error().text, "off the ground"));
  EXPECT_EQ(porter.drive(), Drive::reported);
  ASSERT_TRUE(porter.report({1.5f, 1.5f, 0}));
  pass(world, 0.1);
  ASSERT_TRUE(porter.set_drive(Drive::own));
  order = porter.go_to({3.5f, 0.5f, 0});
  pass(world, 10, 1.f / 60, [&] { return !order.running(); });
  EXPECT_EQ(order.outcome()->ending, Ending::arrived);
}

TEST(Events, AreReadOnceAndLossesAreCounted) {
  World world({.journal = 8});
  EventCursor cursor;
  const Npc cat = *world.add({.name = "cat"});
  EXPECT_EQ(world.events(cursor).size(), 1U);
  EXPECT_EQ(world.events(cursor).size(), 0U);
  for (int i = 0; i < 3; ++i) cat.go_to({1.f, 0, 0});  // 3 ordered, 2 ended
  std::vector<Event> seen;
  for (const Note& note : world.events(cursor)) seen.push_back(note.event);
  EXPECT_EQ(seen, (std::vector{Event::ordered, Event::ended, Event::ordered, Event::ended, Event::ordered}));
  EXPECT_EQ(cursor.lost, 0U);
  for (int i = 0; i < 10; ++i) cat.go_to({1.f, 0, 0});
  EXPECT_EQ(world.events(cursor).size(), 8U);
  EXPECT_EQ(cursor.lost, 12U);
  World silent({.journal = 0});
  EventCursor other;
  (void)silent.add({});
  EXPECT_EQ(silent.events(other).size(), 0U);
  EXPECT_EQ(other.lost, 0U);  // nothing is recorded, so nothing is lost
}

// A journal with room for a few events, read while orders push others out, between ticks and in callbacks.
TEST(Events, AreInOrderAndCompleteWhileOrdersAreGiven) {
  for (const std::size_t size : {1U, 3U, 16U, 4096U}) {
    World world({.journal = size});
    std::vector<Npc> cats;
    for (int i = 0; i < 8; ++i) cats.push_back(*world.add({.at = {static_cast<float>(i), 0, 0}}));
    EventCursor cursor;
    std::uint64_t seen = 0;
    double last = 0;
    const auto read = [&](int orders) {
      for (const Note& note : world.events(cursor)) {
        ++seen;
        EXPECT_GE(note.time, last) << size;
        last = note.time;
        if (orders-- > 0) Npc(world, note.who).turn_to_heading(1);
      }
    };
    for (int tick = 0; tick < 100; ++tick) {
      for (std::size_t i = 0; i < cats.size(); ++i)
        cats[i].pause(0.02f * static_cast<float>(i)).on_end([&](Npc, const Outcome&) { read(3); });
      read(20);
      ASSERT_TRUE(world.tick(0.1f));
    }
    read(0);
    EXPECT_EQ(seen + cursor.lost, world.journal().next());
    EXPECT_EQ(cursor.lost == 0, size == 4096);
  }
}

TEST(Poses, LieBetweenTheLastTwoTicks) {
  World world;
  std::vector<Npc> cats;
  for (int i = 0; i < 5; ++i) {
    cats.push_back(
        *world.add({.at = {0, static_cast<float>(i), 0}, .user_data = 10U + static_cast<unsigned>(i)}));
    cats.back().go_to({10, 3, 0});
  }
  cats[2].remove();
  cats.erase(cats.begin() + 2);
  pass(world, 1);
  std::vector<vec3> before;
  for (const Npc cat : cats) before.push_back(cat.position());
  ASSERT_TRUE(world.tick(0.1f));
  std::array<NpcId, 9> ids;
  std::array<vec3, 9> positions;
  std::array<vec2, 2> facings;  // too short: holds the first
  std::array<std::uint64_t, 9> data{};
  ASSERT_EQ(world.poses({.ids = ids, .user_data = data, .positions = positions, .facings = facings}, 0.25f),
            4U);
  for (std::size_t i = 0; i < cats.size(); ++i) {
    EXPECT_EQ(ids[i], cats[i]);
    EXPECT_EQ(data[i], cats[i].user_data());
    EXPECT_LT(glm::distance(positions[i], glm::mix(before[i], cats[i].position(), 0.25f)), 1e-5f);
    EXPECT_EQ(cats[i].pose(0.25f).position, positions[i]);
    EXPECT_EQ(cats[i].pose().position, cats[i].position());
    EXPECT_LT(glm::distance(cats[i].pose(0).position, before[i]), 1e-6f);
    EXPECT_EQ(cats[i].pose(NAN).position, cats[i].position());
    EXPECT_EQ(cats[i].pose(7).position, cats[i].position());
    EXPECT_NEAR(glm::length(cats[i].pose(0.5f).facing), 1, 1e-5);
  }
  ASSERT_TRUE(cats[0].teleport({50, 0, 0}));
  EXPECT_EQ(cats[0].pose(0.5f).position, cats[0].position());  // not halfway there
  for (int i = 0; i < 8; ++i) ASSERT_TRUE(world.tick(0.1f));
  EXPECT_NE(cats[0].pose(0.5f).position, cats[0].position());  // it walks again
}

TEST(Patrol, ResumesAtTheWaypointThatItLeft) {
  World world;
  const auto beat = *make_beat(lamps);
  const Npc lamplighter = *world.add({.name = "lamplighter", .at = {6, 3, 0}});
  lamplighter.patrol(beat);
  pass(world, 9);
  const BeatPosition next = lamplighter.errand().on_beat;
  ASSERT_NE(next.waypoint, beat->id(0));
  lamplighter.go_to({2, 3, 0});
  pass(world, 60, 1.f / 60, [&] { return !lamplighter.busy(); });
  EXPECT_EQ(lamplighter.errand().on_beat, BeatPosition{});
  lamplighter.patrol(beat, {.from = next});
  pass(world, 0.1);
  EXPECT_EQ(lamplighter.errand().on_beat, next);
  ASSERT_TRUE(beat->remove(next.waypoint));
  lamplighter.patrol(beat, {.start = PatrolStart::first, .from = next});  // removed: as without `from`
  pass(world, 0.1);
  EXPECT_EQ(lamplighter.errand().on_beat.waypoint, beat->id(0));
}

// Interrupted again and again, it reaches the waypoints in the order of the beat.
TEST(Patrol, KeepsItsDirectionWhenItResumes) {
  for (const float rate : {10.f, 60.f, 144.f})
    for (const BeatPath path : {BeatPath::straight, BeatPath::curve}) {
      World world;
      const auto beat = *make_beat(lamps, BeatOrder::back_and_forth, path);
      const Npc lamplighter = *world.add({.at = {5, 3, 0}});
      lamplighter.patrol(beat, {.start = PatrolStart::first});
      for (int i = 0; i < 60; ++i) {
        pass(world, 0.9, 1 / rate);
        const BeatPosition next = lamplighter.errand().on_beat;
        lamplighter.pause(0.2f);
        pass(world, 0.3, 1 / rate);
        lamplighter.patrol(beat, {.from = next});
      }
      std::vector<std::uint32_t> reached;
      EventCursor cursor;
      for (const Note& note : world.events(cursor))
        if (note.event == Event::reached && (reached.empty() || reached.back() != note.number))
          reached.push_back(note.number);
      ASSERT_GT(reached.size(), 6U);
      const std::array<std::uint32_t, 6> lap = {1, 2, 3, 4, 3, 2};
      for (std::size_t i = 0; i < reached.size(); ++i) EXPECT_EQ(reached[i], lap[i % 6]) << rate;
    }
}

Routine naps(int times, int& taken) {
  for (int i = 0; i < times; ++i) {
    co_await seconds(0.05f);
    ++taken;
  }
}

TEST(Seconds, DoNotDriftWithTheTicks) {
  for (const float rate : {10.f, 30.f, 60.f, 144.f}) {
    World world;
    const Npc cat = *world.add({});
    int taken = 0;
    start(cat, [&](Npc) { return naps(100, taken); });
    const double end = pass(world, 9, 1 / rate, [&] { return !cat.directed(); });
    EXPECT_EQ(taken, 100);
    EXPECT_NEAR(end, 5, 2 / rate) << rate;
  }
}

Routine waits_then_walks(Npc me, float time) {
  co_await seconds(time);
  co_await me.until_signal("bell");
  co_await me.go_to(vec2(3, 0));
}

TEST(Sleep, ComesToNpcsWhoseScriptWaitsAndChangesNothing) {
  std::vector<double> arrivals;
  for (const bool may_sleep : {true, false}) {
    World world;
    // A deck keeps its NPC awake.
    const Npc cat = *world.add({.name = "cat", .body = {.deck = may_sleep ? vec2(0.f) : vec2(0.1f)}});
    start(cat, waits_then_walks, 5.f);
    pass(world, 4);
    EXPECT_EQ(world.sleeping(), may_sleep ? 1U : 0U);
    pass(world, 4);
    EXPECT_EQ(world.sleeping(), may_sleep ? 1U : 0U);
    EXPECT_TRUE(cat.directed());
    world.signal("bell");
    arrivals.push_back(pass(world, 30, 1.f / 60, [&] { return !cat.directed(); }));
    EXPECT_GT(cat.position().x, 2.5f);
  }
  EXPECT_EQ(arrivals[0], arrivals[1]);
}

/// Sums up what is drawn.
struct Sums final : DebugSink {
  void line(vec3 from, vec3 to, DebugColour) override { ++lines, metres += glm::distance(from, to); }
  void triangle(vec3 a, vec3 b, vec3 c, DebugColour) override {
    const float twice = cross(flat(b - a), flat(c - a));
    EXPECT_GT(twice, 0.f);
    area += 0.5 * static_cast<double>(twice);
  }
  void text(vec3, std::string_view text, DebugColour) override { texts += std::string(text) + "\n"; }

  int lines = 0;
  double metres = 0, area = 0;
  std::string texts;
};

constexpr DebugDrawOptions nothing{.surface = false,
                                   .edges = false,
                                   .crossings = false,
                                   .routes = false,
                                   .goals = false,
                                   .bodies = false,
                                   .names = false};

TEST(DebugDraw, ShowsTheWholeSurfaceOnce) {
  const TileGround tiles = quay_of({"....#", ".##..", "....."});
  World on_tiles({.ground = &tiles});
  Sums sums;
  EXPECT_TRUE(debug_draw(on_tiles, sums, {.body = {.radius = 0.01f}}));
  EXPECT_NEAR(sums.area, 12, 1e-4);
  EXPECT_NEAR(sums.metres, 2 * 3 + 2 * 5 + 6, 1e-4);  // the rim, and the outlines of the two blocked cells
  const auto plan = MeshGround::make(
      Plan{.outlines = {{{0, 0}, {20, 0}, {20, 10}, {0, 10}}}, .solids = {{{5, 5}, {7, 5}, {7, 7}, {5, 7}}}});
  ASSERT_TRUE(plan);
  World on_plan({.ground = plan->get()});
  Sums whole, part;
  EXPECT_TRUE(debug_draw(on_plan, whole, {.body = {.radius = 0.5f}}));
  EXPECT_NEAR(whole.area, 19 * 9 - (9 - (4 - pi) * 0.25), 0.02);
  for (const World* world : {&on_plan, &on_tiles})
    EXPECT_TRUE(debug_draw(*world, part, {.body = {.radius = 0.5f}, .centre = {500, 500}, .radius = 3}));
  for (const DebugDrawOptions& wrong : {DebugDrawOptions{.centre = {NAN, 0}},
                                        {.radius = -1},
                                        {.radius = INFINITY},
                                        {.body = {.radius = 1e9f}}})
    EXPECT_FALSE(debug_draw(on_tiles, part, wrong));
  EXPECT_EQ(part.area + part.metres, 0);
}

TEST(DebugDraw, ShowsEachNpcWithItsRouteAndGoal) {
  const TileGround ground = quay_of({".....", ".###.", "....."});
  World world({.ground = &ground});
  const Npc cat = *world.add({.name = "cat", .at = {2.5f, 0.5f, 0}, .body = {.radius = 0.1f}});
  cat.go_to({2.5f, 2.5f, 0});
  pass(world, 0.2);
  Sums route, names;
  DebugDrawOptions options = nothing;
  options.routes = true;
  ASSERT_TRUE(debug_draw(world, route, options));
  EXPECT_NEAR(route.metres, cat.errand().progress.of_metres - cat.errand().progress.metres, 0.05);
  options = nothing;
  options.names = true;
  ASSERT_TRUE(debug_draw(world, names, options));
  EXPECT_EQ(names.texts, "cat: " + cat.doing() + "\n");
  Sums none;
  ASSERT_TRUE(debug_draw(world, none, nothing));
  EXPECT_EQ(none.lines, 0);
}

}  // namespace
}  // namespace ambulon
