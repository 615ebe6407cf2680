// Crowds: all NPCs arrive in good time, few touch, and none leaves the ground.

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "crowd/neighbour_index.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// All NPCs of a world, and the measures taken while it runs.
class Jam {
 public:
  explicit Jam(World& world) : world_(world) {
    world.each([&](Npc npc) { all_.push_back(npc); });
    for (const Npc& npc : all_) tracks_.push_back({.at = flat(npc.position()), .way = vec2(0.f)});
  }

  /// Until all are at their goals, or for at most `seconds`.
  void go_on(double seconds, const std::function<void()>& each_tick = [] {}) {
    int tick = 0;
    pass(world_, seconds, 1.f / 60, [&] {
      each_tick();
      count_trembling(tick);
      if (++tick % 3 == 0) look();
      return std::ranges::none_of(all_, [](const Npc& npc) { return npc.busy(); });
    });
  }

  void expect_all_arrived() const {
    for (const Npc& npc : all_) {
      ASSERT_TRUE(npc.errand().last) << npc.id().slot << " is still " << npc.doing();
      EXPECT_EQ(npc.errand().last->ending, Ending::arrived) << npc.id().slot;
    }
  }
  void expect_decent(float max_turned = 1.3f) const {  // radians a metre
    EXPECT_LT(deepest_, 0.05f) << "of a radius";
    EXPECT_LT(off_, 0.01f) << "metres off the ground";
    EXPECT_LE(trembling_, 1.2 * seconds_) << "times a second";
    EXPECT_LT(turned_, max_turned * metres_ + 1e-6f) << "radians a metre";
  }
  const std::vector<Npc>& all() const { return all_; }
  float metres() const { return metres_; }  ///< that all walked together

  /// Measures the present tick.
  void look() {
    std::vector<NeighbourIndex::Entry> entries;
    for (std::uint32_t i = 0; i < all_.size(); ++i) entries.push_back({flat(all_[i].position()), i});
    index_.build(entries, 1.f);
    for (const auto& entry : entries) {
      see_overlaps(entry);
      const Npc& npc = all_[entry.name];
      off_ = std::max(off_, world_.ground().snap(npc.position(), 1.f, npc.body()).off);
      Track& track = tracks_[entry.name];
      const vec2 gone = entry.at - track.at;
      if (glm::length(gone) < step) continue;
      if (track.way != vec2(0.f)) turned_ += std::abs(angle_between(track.way, direction(gone)));
      metres_ += glm::length(gone);
      track.at = entry.at;
      track.way = direction(gone);
    }
  }

 private:
  struct Track {
    vec2 at, way;
    vec2 velocity{0.f}, change{0.f};  // metres per second
  };

  /// Counts changes of velocity that undo the change of the tick before.
  void count_trembling(int tick) {
    constexpr float worth_seeing = 0.03f;  // metres per second
    for (std::size_t i = 0; i < all_.size(); ++i) {
      Track& track = tracks_[i];
      const vec2 change = all_[i].velocity() - track.velocity;
      const bool both = glm::length(change) > worth_seeing && glm::length(track.change) > worth_seeing;
      if (tick > 1 && both && glm::dot(change, track.change) < 0.f) ++trembling_;
      track.velocity += change;
      track.change = change;
      seconds_ += 1.0 / 60;
    }
  }

  static constexpr float step = 0.25f;  // metres between compared headings

  void see_overlaps(const NeighbourIndex::Entry& entry) {
    const float radius = all_[entry.name].body().radius;
    index_.near(entry.at, 2.f * radius, [&](std::uint32_t number, vec2 at) {
      const std::uint32_t name = index_.name(number);
      if (name == entry.name) return;
      const float overlap = radius + all_[name].body().radius - glm::distance(entry.at, at);
      deepest_ = std::max(deepest_, overlap / radius);
    });
  }

  World& world_;
  std::vector<Npc> all_;
  std::vector<Track> tracks_;
  NeighbourIndex index_;
  float deepest_ = 0.f, off_ = 0.f, turned_ = 0.f, metres_ = 0.f;
  double trembling_ = 0, seconds_ = 0;  // sums over all NPCs
};

constexpr float walk = Gait().speed;

TEST(Crowd, TwoHundredAndFiftyCrossACircle) {
  constexpr float radius = 40.f;
  World world({.avoid = true});
  for (int i = 0; i < 250; ++i) {
    const vec2 at = radius * unit(2.f * pi * static_cast<float>(i) / 250.f);
    world.add({.at = lift(at)})->go_to(lift(-at));
  }
  Jam jam(world);
  jam.go_on(2.5 * 2 * radius / walk);
  jam.expect_all_arrived();
  jam.expect_decent();
  EXPECT_LT(world.time(), 2.f * 2.f * radius / walk);
}

TEST(Crowd, StreamsThatCrossAtRightAnglesGetThroughEachOther) {
  World world({.avoid = true});
  for (int i = 0; i < 60; ++i) {
    const float along = -4.f - static_cast<float>(i / 6), across = static_cast<float>(i % 6) - 2.5f;
    world.add({.at = {along, across, 0}})->go_to({along + 24.f, across, 0});
    world.add({.at = {across, along, 0}})->go_to({across, along + 24.f, 0});
  }
  Jam jam(world);
  jam.go_on(100);
  jam.expect_all_arrived();
  jam.expect_decent();
  EXPECT_LT(world.time(), 4.5f * 24.f / walk);
}

// The number of NPCs that pass a door 1 m wide in a second. J. J. Fruin, "Pedestrian Planning and Design"
// (1971), counts 40 to 60 a minute through doors of about that width; the experiments compared by A. Seyfried
// and others in "New Insights into Pedestrian Flow Through Bottlenecks" (2009) reach 1.9 a second.
TEST(Crowd, TwoHundredPassADoorInTurnAsFastAsPeopleDo) {
  const auto ground =
      *MeshGround::make(Plan{.outlines = {{{0, 0}, {60, 0}, {60, 20}, {0, 20}}},
                             .solids = {{{20, 0}, {20.3f, 0}, {20.3f, 9.5f}, {20, 9.5f}},
                                        {{20, 10.5f}, {20.3f, 10.5f}, {20.3f, 20}, {20, 20}}}});
  World world({.ground = ground.get(), .avoid = true});
  for (int i = 0; i < 200; ++i) {
    const float along = 1.f + 0.9f * static_cast<float>(i / 15),
                across = 1.f + 1.25f * static_cast<float>(i % 15);
    world.add({.at = {along, across, 0}, .body = {.radius = 0.25f}})->go_to({along + 39.f, across, 0});
  }
  Jam jam(world);
  double twentieth = 0, last_but_twenty = 0;  // seconds
  jam.go_on(300, [&] {
    const auto through =
        std::ranges::count_if(jam.all(), [](const Npc& npc) { return npc.position().x > 20.5f; });
    if (through <= 20) twentieth = world.time();
    if (through <= 180) last_but_twenty = world.time();
  });
  jam.expect_all_arrived();
  jam.expect_decent();
  const double flow = 160 / (last_but_twenty - twentieth);
  EXPECT_GT(flow, 40.0 / 60);
  EXPECT_LT(flow, 1.9);
  EXPECT_LT(jam.metres(), 1.12f * 39.f * 200) << "they stand in the queue";
  // Those behind are reported as held up.
  EXPECT_GT(count(world, Event::held_up), 20);
}

TEST(Crowd, ThroughATunnelToASharedGoalAllComeOut) {
  // A tunnel that is 30 m long and a little wider than two bodies, and a yard behind it.
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {70, 0}, {70, 20}, {0, 20}}},
                                             .solids = {{{20, 0}, {50, 0}, {50, 9.55f}, {20, 9.55f}},
                                                        {{20, 10.45f}, {50, 10.45f}, {50, 20}, {20, 20}}}});
  World world({.ground = ground.get(), .avoid = true});
  for (int i = 0; i < 60; ++i)
    world
        .add({.at = {1 + 0.8f * static_cast<float>(i / 10), 4 + 1.2f * static_cast<float>(i % 10), 0},
              .body = {.radius = 0.22f}})
        ->go_to({54, 10, 0});
  Jam jam(world);
  jam.go_on(300);
  jam.expect_all_arrived();
  for (const Npc& npc : jam.all()) EXPECT_GT(npc.position().x, 50.f);
}

/// Seconds until seventy of eighty NPCs have left a shed through the near one of two doors, or through the
/// other, which is `far` metres along the wall.
double seconds_to_leave(const Ground& ground, float far, int& went_round) {
  World world({.ground = &ground, .avoid = true, .route_work = 4000});
  for (int i = 0; i < 80; ++i) {
    const float x = 11.5f + 0.8f * static_cast<float>(i % 10), y = 1.f + 0.8f * static_cast<float>(i / 10);
    world.add({.at = {x, y, 0}, .body = {.radius = 0.25f}})->go_to({37, 5, 0});
  }
  Jam jam(world);
  double seventy = 0;
  jam.go_on(200, [&] {
    for (const Npc& npc : jam.all()) EXPECT_LT(npc.position().y, far + 3.f);
    const auto there = std::ranges::count_if(jam.all(), [](const Npc& npc) { return !npc.busy(); });
    if (there >= 70 && seventy == 0) seventy = world.time();
  });
  jam.expect_all_arrived();
  jam.expect_decent(2.f);  // an NPC that takes the other door turns around
  went_round = count(world, Event::takes_detour);
  return seventy;
}

TEST(Crowd, WhoIsHeldUpBeforeADoorGoesRoundByAnotherWhereThatTakesLessTime) {
  for (const bool tiles : {false, true}) {
    const auto leave = [&](float far, int& went_round) {
      if (tiles) {
        std::vector<std::uint8_t> cells(40 * 60, 1);
        for (std::size_t y = 0; y < 60; ++y)
          if (y != 5 && y != static_cast<std::size_t>(far)) cells[y * 40 + 20] = TileMap::blocked;
        const TileGround ground(*TileMap::make(cells, {.width = 40, .height = 60}));
        return seconds_to_leave(ground, far, went_round);
      }
      const auto ground =
          *MeshGround::make(Plan{.outlines = {{{0, 0}, {40, 0}, {40, 60}, {0, 60}}},
                                 .solids = {{{20, 0}, {20.3f, 0}, {20.3f, 4.5f}, {20, 4.5f}},
                                            {{20, 5.5f}, {20.3f, 5.5f}, {20.3f, far}, {20, far}},
                                            {{20, far + 1}, {20.3f, far + 1}, {20.3f, 60}, {20, 60}}}});
      return seconds_to_leave(*ground, far, went_round);
    };
    int near = 0, far = 0;
    const double soon = leave(15, near), late = leave(58, far);
    EXPECT_GT(near, 10);
    EXPECT_LT(near, 120) << "they go to and fro";
    EXPECT_EQ(far, 0) << "they wait for less";
    EXPECT_LT(soon, 0.98 * late);
  }
}

TEST(Crowd, ThreeHundredGoRoundACornerAndNobodyCutsIt) {
  const auto ground =
      *MeshGround::make(Plan{.outlines = {{{0, 0}, {60, 0}, {60, 60}, {54, 60}, {54, 6}, {0, 6}}}});
  World world({.ground = ground.get(), .avoid = true});
  for (int i = 0; i < 300; ++i) {
    const float along = 0.5f + 0.6f * static_cast<float>(i / 9), across = static_cast<float>(i % 9);
    world.add({.at = {along, 0.5f + 0.6f * across, 0}, .body = {.radius = 0.25f}})
        ->go_to({59.5f - 0.625f * across, 26.f + static_cast<float>(i / 9), 0});
  }
  Jam jam(world);
  jam.go_on(180);
  jam.expect_all_arrived();
  jam.expect_decent();
  EXPECT_LT(world.time(), 2.5f * 86.f / walk);
}

TEST(Crowd, AHundredSentToOnePlaceStandAroundIt) {
  World world({.avoid = true});
  Random random(5, 1);
  for (int i = 0; i < 100; ++i) {
    const vec2 at = random.within({10, 25}) * unit(2.f * pi * static_cast<float>(i) / 100.f);
    world.add({.at = lift(at)})->go_to({0, 0, 0});
  }
  Jam jam(world);
  jam.go_on(60);
  jam.expect_all_arrived();
  jam.expect_decent();
  int short_of_it = 0;
  for (const Npc& npc : jam.all()) {
    EXPECT_LT(glm::length(flat(npc.position())), 5.5f);  // they fill two thirds of a circle of 4 m
    const Outcome last = *npc.errand().last;
    if (last.cause == Cause::place_taken) ++short_of_it;
    EXPECT_TRUE(last.cause != Cause::place_taken || contains(last.why(), "it stopped beside them"))
        << last.why();
  }
  EXPECT_GT(short_of_it, 80);
}

TEST(Crowd, WhoStandsOnTheRoofAboveTakesNobodysPlace) {
  for (const float up : {0.f, 3.f}) {
    World world({.avoid = true});
    const Npc player = *world.add({.at = {8, 0, 0}, .drive = Drive::advised});
    const Npc cat = *world.add({.at = {0, 0, 0}});
    cat.go_to({8, 0, 0});
    pass(world, 15, 1.f / 60, [&] { return !player.report({8, 0, up}); });
    ASSERT_TRUE(cat.errand().last);
    EXPECT_EQ(cat.errand().last->cause, up > 0.f ? Cause::none : Cause::place_taken);
    EXPECT_NEAR(flat_distance(cat.position(), {8, 0, 0}), up > 0.f ? 0.3f : 0.65f, 0.06f);
  }
}

TEST(Crowd, AThousandCatsRoamAMarket) {
  Plan market{.outlines = {{{0, 0}, {80, 0}, {80, 60}, {0, 60}}}};
  for (float x = 8; x < 72; x += 9)
    for (float y = 8; y < 52; y += 10)
      market.solids.push_back({{x, y}, {x + 4, y}, {x + 4, y + 3}, {x, y + 3}});
  const auto ground = *MeshGround::make(market);
  World world({.ground = ground.get(), .avoid = true});
  for (int i = 0; world.size() < 1000; ++i) {
    const vec3 at(0.5f + 2.f * static_cast<float>(i % 40), 0.5f + 1.7f * static_cast<float>(i / 40), 0.f);
    const auto cat =
        world.add({.at = at, .body = {.radius = 0.15f, .height = 0.3f}, .gait = {.speed = 1.2f}});
    if (cat) cat->roam({.radius = 10, .pause = {0.5f, 2}});
  }
  Jam jam(world);
  jam.go_on(10);
  jam.expect_decent();
  double metres = 0, seconds = 0;
  for (const Npc& npc : jam.all()) {
    metres += npc.statistics().metres, seconds += npc.statistics().moving_seconds;
    EXPECT_TRUE(npc.busy());
  }
  EXPECT_GT(metres / seconds, 0.8 * 1.2);
}

TEST(Crowd, APlayerWhoBargesThroughIsGivenWayTo) {
  World world({.avoid = true});
  for (int i = 0; i < 100; ++i)
    world.add({.at = {1.2f * static_cast<float>(i % 10), 1.2f * static_cast<float>(i / 10), 0}});
  const Npc player = *world.add({.name = "player", .at = {-5, 5.2f, 0}, .drive = Drive::advised});
  Jam jam(world);
  for (int tick = 1; tick < 60 * 8; ++tick) {
    ASSERT_TRUE(player.report({-5.f + 0.05f * static_cast<float>(tick), 5.2f, 0}));
    pass(world, 1.0 / 60);
    jam.look();
  }
  jam.expect_decent();
  EXPECT_NEAR(player.position().y, 5.2f, 1e-6f);
  EXPECT_GT(player.position().x, 15.f);
}

TEST(Crowd, WhoWalksIntoSleepersWakesAlsoThoseOntoWhomTheyArePushed) {
  World world({.avoid = true});
  for (int i = 0; i < 100; ++i)
    world.add({.at = {0.7f * static_cast<float>(i % 10), 0.7f * static_cast<float>(i / 10), 0}});
  pass(world, 2);
  EXPECT_EQ(world.sleeping(), 100U);
  const Npc constable =
      *world.add({.at = {-3, 3, 0}, .gait = {.speed = 1.8f}, .avoidance = {.takes_part = false}});
  constable.go_to({12, 3.2f, 0});
  Jam jam(world);
  for (int tick = 0; tick < 60 * 12; ++tick) {
    pass(world, 1.0 / 60);
    jam.look();
  }
  EXPECT_EQ(constable.errand().last->ending, Ending::arrived);
  jam.expect_decent();
}

TEST(Crowd, WhoStandsInTheWayOfOneHeldUpMakesRoom) {
  // A row of stallholders across a walled lane, with gaps too narrow to pass.
  const auto ground = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 4}, {0, 4}}}});
  World world({.ground = ground.get(), .avoid = true});
  for (int i = 0; i < 5; ++i) world.add({.at = {10, 0.4f + 0.8f * static_cast<float>(i), 0}});
  const Npc porter = *world.add({.name = "porter", .at = {2, 2, 0}});
  porter.go_to({18, 2, 0});
  Jam jam(world);
  jam.go_on(60);
  EXPECT_EQ(porter.errand().last->ending, Ending::arrived);
  EXPECT_EQ(porter.errand().last->cause, Cause::none);
  jam.expect_decent();
}

TEST(Crowd, AnNpcThatMadeRoomReturnsToWhereItStood) {
  const auto alley = *MeshGround::make(Plan{.outlines = {{{0, 0}, {20, 0}, {20, 1.3f}, {0, 1.3f}}}});
  for (const float rate : {20.f, 60.f}) {
    World world({.ground = alley.get(), .avoid = true});
    const Body body{.radius = 0.25f};
    const vec3 place(10, 0.65f, 0);
    const Npc seller = *world.add({.name = "tea-seller", .at = place, .body = body});
    const Npc porter = *world.add({.name = "porter", .at = {2, 0.65f, 0}, .body = body});
    const Order past = porter.go_to(vec3(18, 0.65f, 0));
    float aside = 0;
    pass(world, 60, 1 / rate, [&] {
      aside = std::max(aside, glm::distance(seller.position(), place));
      return !past.running();
    });
    EXPECT_TRUE(*past.outcome());
    EXPECT_GT(aside, 0.04f) << "the alley is too narrow to pass";
    pass(world, 5, 1 / rate);
    EXPECT_LT(glm::distance(seller.position(), place), 0.06f);
    pass(world, 10, 1 / rate);
    EXPECT_EQ(world.sleeping(), 2U);
    // An order ends it: the next place is where that order ended.
    const Order on = seller.go_to(vec3(14, 0.65f, 0));
    pass(world, 20, 1 / rate, [&] { return !on.running(); });
    pass(world, 5, 1 / rate);
    EXPECT_LT(glm::distance(seller.position(), vec3(14, 0.65f, 0)), 0.31f);
  }
}

TEST(Crowd, LateComersReachTheirOwnPlacesBetweenOthers) {
  // The first to arrive have the nearest places, so that the others have to pass them.
  const auto yard = *MeshGround::make(Plan{.outlines = {{{-16, -16}, {16, -16}, {16, 16}, {-16, 16}}}});
  World world({.ground = yard.get(), .avoid = true});
  std::vector<Npc> all;
  std::vector<vec3> places;
  for (int i = 0; i < 100; ++i) {
    const auto x = static_cast<float>(i % 10), y = static_cast<float>(i / 10);
    all.push_back(*world.add({.at = {-14 + x, -4.5f + y, 0}, .body = {.radius = 0.25f}}));
    places.push_back({12 - 0.9f * x, -4.f + 0.9f * y, 0});
  }
  for (std::size_t i = 0; i < all.size(); ++i) all[i].go_to(places[i]);
  pass(world, 180, 1 / 30.f,
       [&] { return std::ranges::none_of(all, [](const Npc& npc) { return npc.busy(); }); });
  pass(world, 20, 1 / 30.f);
  int short_of_it = 0;
  for (std::size_t i = 0; i < all.size(); ++i)
    short_of_it += glm::distance(all[i].position(), places[i]) > 0.6f ? 1 : 0;
  EXPECT_LE(short_of_it, 12) << "about 22 without ways back";
}

}  // namespace
}  // namespace ambulon
