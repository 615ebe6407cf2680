#include "ambulon/errand/squad.hpp"

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/world/selection.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

std::vector<Npc> some(World& world, int count, vec2 at) {
  std::vector<Npc> all;
  for (int i = 0; i < count; ++i)
    all.push_back(*world.add({.at = lift(at + vec2(static_cast<float>(i % 3), static_cast<float>(i / 3)))}));
  return all;
}

/// The largest distance from a place in formation around their centre, rotated to `heading`.
float disorder(std::span<const Npc> all, Formation formation, float spacing, float heading) {
  vec2 middle(0.f);
  std::vector<vec2> at, places = places_in(formation, all.size(), spacing);
  for (const Npc npc : all) middle += flat(npc.position()) / static_cast<float>(all.size());
  for (const Npc npc : all) at.push_back(flat(npc.position()) - middle);
  for (vec2& place : places) place = rotated(place, heading);
  const auto taken = assign(at, places);
  float max = 0.f;
  for (std::size_t i = 0; i < all.size(); ++i) max = std::max(max, glm::distance(at[i], places[taken[i]]));
  return max;
}

TEST(Squad, MarchesInFormationAndArrivesInIt) {
  for (const Formation formation :
       {Formation::line, Formation::column, Formation::wedge, Formation::ring, Formation::block}) {
    World world({.avoid = true});
    const auto porters = some(world, 9, {-2, 0});
    const auto squad = *Squad::make({.formation = formation, .spacing = 1.2f});
    ASSERT_TRUE(squad->go_to({40, 0, 0}));
    for (const Npc npc : porters) npc.march(squad);
    pass(world, 24);
    EXPECT_LT(disorder(porters, formation, 1.2f, 0), 0.4f) << static_cast<int>(formation);  // on the way
    pass(world, 60, 1.f / 60, [&] { return std::ranges::none_of(porters, &Npc::busy); });
    for (const Npc npc : porters) EXPECT_EQ(npc.errand().last->ending, Ending::arrived);
    EXPECT_LT(disorder(porters, formation, 1.2f, 0), 0.4f) << static_cast<int>(formation);
    EXPECT_EQ(squad->size(), 0U);
  }
}

TEST(Squad, NarrowsThroughAGapAndOpensAgain) {
  // A wall with a gap of 1.2 m, too narrow for two side by side.
  const auto ground = *MeshGround::make({.outlines = {{{-6, -8}, {40, -8}, {40, 8}, {-6, 8}}},
                                         .holes = {{{12, -8}, {12, -0.6f}, {13, -0.6f}, {13, -8}},
                                                   {{12, 0.6f}, {12, 8}, {13, 8}, {13, 0.6f}}}});
  World world({.ground = ground.get(), .avoid = true});
  const auto porters = some(world, 6, {-2, -1});
  Selection selected;
  for (const Npc npc : porters) selected.add(npc);
  ASSERT_TRUE(selected.form(Formation::line, 1.2f));
  ASSERT_TRUE(selected.march({34, 0, 0}));
  float narrowest = 99.f, opened = 0.f;
  double held = 0;
  pass(world, 90, 1.f / 60, [&] {
    float low = 99.f, high = -99.f, back = 99.f;
    for (const Npc npc : porters) {
      low = std::min(low, npc.position().y), high = std::max(high, npc.position().y);
      back = std::min(back, npc.position().x);
    }
    narrowest = std::min(narrowest, high - low);
    if (back > 20) opened = std::max(opened, high - low);
    held = world.time();
    return std::ranges::none_of(porters, &Npc::busy);
  });
  for (const Npc npc : porters) {
    EXPECT_FALSE(npc.busy()) << npc.doing();
    EXPECT_GT(npc.position().x, 30.f);
  }
  EXPECT_LT(narrowest, 2.5f);  // a line of six is 6 m wide
  EXPECT_GT(opened, 5.f);
  EXPECT_LT(held, 80);
}

TEST(Squad, KeepsItsRanksBesideAWallAndMovesOverInstead) {
  // A street of 8 m. The route runs along its northern wall, where half a rank of five has no room.
  const auto street = *MeshGround::make({.outlines = {{{0, 0}, {60, 0}, {60, 8}, {0, 8}}}});
  for (const float y : {7.3f, 0.7f}) {
    World world({.ground = street.get(), .avoid = true});
    std::vector<Npc> porters;
    for (int i = 0; i < 5; ++i)
      porters.push_back(*world.add({.at = {2 + 0.7f * static_cast<float>(i), y, 0}}));
    const auto squad = *Squad::make({.formation = Formation::line, .spacing = 1.f});
    ASSERT_TRUE(squad->go_to({55, y, 0}));
    for (const Npc npc : porters) npc.march(squad);
    float narrowest = 99.f;
    pass(world, 60, 1.f / 30, [&] {
      float low = 99.f, high = 0.f, front = 0.f, back = 99.f;
      for (const Npc npc : porters) {
        const vec3 at = npc.position();
        low = std::min(low, at.y), high = std::max(high, at.y);
        front = std::max(front, at.x), back = std::min(back, at.x);
      }
      if (back > 20 && front < 50) narrowest = std::min(narrowest, high - low);
      return std::ranges::none_of(porters, &Npc::busy);
    });
    EXPECT_GT(narrowest, 3.6f) << "of 4 m";
  }
}

TEST(Squad, GoesWhereItsLeaderGoesRoundCorners) {
  const auto ground =
      *MeshGround::make({.outlines = {{{0, 0}, {30, 0}, {30, 30}, {24, 30}, {24, 6}, {0, 6}}}});
  World world({.ground = ground.get(), .avoid = true});
  const Npc leader = *world.add({.at = {8, 3, 0}, .gait = {.speed = 1}});
  const auto apprentices = some(world, 6, {2, 2});
  const auto squad = *Squad::make({.formation = Formation::column, .spacing = 1});
  squad->follow(leader.id());
  for (const Npc npc : apprentices) npc.march(squad);
  pass(world, 6);
  leader.go_to({27, 28, 0});
  float furthest = 0.f;
  pass(world, 60, 1.f / 60, [&] {
    for (const Npc npc : apprentices)
      furthest = std::max(furthest, flat_distance(npc.position(), leader.position()));
    return !leader.busy();
  });
  EXPECT_LT(furthest, 10.f);
  // They stand in the lane behind it, one behind the other.
  pass(world, 4);
  for (const Npc npc : apprentices) {
    EXPECT_TRUE(npc.busy());
    EXPECT_NEAR(npc.position().x, leader.position().x, 1.5f);
    EXPECT_LT(npc.position().y, leader.position().y);
    EXPECT_GT(npc.position().y, leader.position().y - 8);
  }
  leader.remove();
  pass(world, 0.1);
  for (const Npc npc : apprentices) EXPECT_EQ(npc.errand().last->ending, Ending::gone);
}

TEST(Squad, FollowsAPointAndClosesRanksWhenSomebodyLeaves) {
  World world;
  const auto cats = some(world, 4, {0, 0});
  const auto squad = *Squad::make({.offsets = {{0, 1}, {0, -1}, {-2, 0}, {-4, 0}}});
  for (const Npc npc : cats) npc.march(squad);
  vec3 point(0.f);
  const auto on = [&] {
    point.x += 1.f / 60;
    return !squad->follow(point);
  };
  ASSERT_TRUE(squad->follow(point));
  pass(world, 12, 1.f / 60, on);
  std::vector<float> ahead;
  for (const Npc npc : cats) ahead.push_back(npc.position().x - point.x);
  std::ranges::sort(ahead);
  EXPECT_NEAR(ahead[0], -4, 0.3f);
  EXPECT_NEAR(ahead[1], -2, 0.3f);
  EXPECT_NEAR(ahead[3], 0, 0.3f);
  cats[0].cancel();
  pass(world, 6, 1.f / 60, on);
  EXPECT_EQ(squad->size(), 3U);
}

TEST(Squad, GoesRoundWhatIsPutInItsWayAndWaitsTogetherWhileItIsShutIn) {
  const auto ground = *MeshGround::make({.outlines = {{{-6, -8}, {40, -8}, {40, 8}, {-6, 8}}}});
  World world({.ground = ground.get(), .avoid = true});
  const auto porters = some(world, 4, {-2, -1});
  const auto squad = *Squad::make({.formation = Formation::line});
  ASSERT_TRUE(squad->go_to({34, 0, 0}));
  for (const Npc npc : porters) npc.march(squad);
  pass(world, 6);
  ground->put(*Barrier::box({20, 1}, {1, 13}));  // all but a gap at the south
  pass(world, 60, 1.f / 60, [&] { return std::ranges::none_of(porters, &Npc::busy); });
  for (const Npc npc : porters) EXPECT_GT(npc.position().x, 30.f) << npc.doing();
  ASSERT_TRUE(squad->go_to({0, 0, 0}));
  const BarrierId crates = ground->put(*Barrier::box({20, -6}, {1, 6}));
  for (const Npc npc : porters) npc.march(squad);
  pass(world, 10);
  EXPECT_EQ(count(world, Event::waits), 1);
  for (const Npc npc : porters) EXPECT_GT(npc.position().x, 30.f);
  ASSERT_TRUE(ground->remove(crates));
  pass(world, 60, 1.f / 60, [&] { return std::ranges::none_of(porters, &Npc::busy); });
  for (const Npc npc : porters) EXPECT_EQ(npc.errand().last->ending, Ending::arrived);
}

TEST(Squad, AsksForItsWayAsEverybodyDoesAndGoesOnAlongTheOldOneMeanwhile) {
  const auto ground = *MeshGround::make({.outlines = {{{-6, -8}, {40, -8}, {40, 8}, {-6, 8}}},
                                         .solids = {{{10, -2}, {14, -2}, {14, 2}, {10, 2}}}});
  const auto squad = *Squad::make({.formation = Formation::block});
  {
    World world({.ground = ground.get(), .avoid = true, .route_work = 1});
    std::vector<Npc> porters;
    for (int i = 0; i < 4; ++i)
      porters.push_back(*world.add({.at = {static_cast<float>(i), 0, 0}, .route_priority = -5}));
    const std::vector<vec3> stalls = {{5, 5, 0}, {30, -5, 0}, {20, 6, 0}};
    std::vector<Npc> cats;
    for (int i = 0; i < 30; ++i) cats.push_back(*world.add({.at = {static_cast<float>(i), 5, 0}}));
    for (const Npc cat : cats) cat.hop(stalls);
    ASSERT_TRUE(squad->go_to({34, 0, 0}));
    for (const Npc npc : porters) npc.march(squad);
    pass(world, 0.5);
    for (const Npc npc : porters) EXPECT_EQ(npc.velocity(), vec2(0.f)) << "others are first";
    pass(world, 12);
    for (const Npc npc : porters) EXPECT_GT(npc.velocity().x, 0.3f) << npc.doing();
    ASSERT_TRUE(squad->go_to({34, 6, 0}));
    pass(world, 1.0 / 60);
    for (const Npc npc : porters) EXPECT_GT(npc.velocity().x, 0.3f) << npc.doing();
    porters[0].cancel();  // another member requests the route
    pass(world, 90, 1.f / 60, [&] { return std::ranges::none_of(porters, &Npc::busy); });
    for (const Npc npc : std::span(porters).subspan(1)) EXPECT_EQ(npc.errand().last->ending, Ending::arrived);
    ASSERT_TRUE(squad->go_to({0, 0, 0}));
    for (const Npc npc : porters) npc.march(squad);
    for (const Npc cat : cats) cat.hop(stalls);
    pass(world, 1.0 / 60);
    EXPECT_GT(world.route_figures().waiting(), 0U);
  }  // the squad outlives the world in which it waits for a route
  EXPECT_EQ(squad->size(), 0U);
}

TEST(Squad, NonsenseIsRefused) {
  EXPECT_FALSE(Squad::make({.spacing = 0}));
  EXPECT_FALSE(Squad::make({.formation = Formation::as_they_are}));
  EXPECT_FALSE(Squad::make({.offsets = {{NAN, 0}}}));
  const auto squad = *Squad::make();
  EXPECT_FALSE(squad->go_to({NAN, 0, 0}));
  World world;
  const Npc npc = *world.add({});
  npc.march(squad);  // which goes nowhere
  pass(world, 0.1);
  EXPECT_EQ(npc.errand().last->ending, Ending::refused);
  squad->follow(npc.id());
  npc.march(squad);
  pass(world, 0.1);
  EXPECT_EQ(npc.errand().last->cause, Cause::after_itself);
  npc.march(nullptr);
  pass(world, 0.1);
  EXPECT_EQ(npc.errand().last->ending, Ending::refused);
  ASSERT_TRUE(squad->go_to({1e5f, 0, 0}));
  npc.march(squad, {.within = -1});
  pass(world, 0.1);
  EXPECT_EQ(npc.errand().last->ending, Ending::refused);
  EXPECT_FALSE(Selection().march({1, 1, 0}));
}

}  // namespace
}  // namespace ambulon
