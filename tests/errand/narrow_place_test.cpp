// Narrow places on routes, and what NPCs from both sides do there.

#include "errand/narrow_place.hpp"

#include <algorithm>
#include <array>
#include <vector>

#include <rapidcheck/gtest.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// Two rooms of 20 x 24 m, with a door between them from x = 20 to 20 + `deep` that is `wide` metres wide.
std::unique_ptr<MeshGround> two_rooms(float wide, float deep) {
  const float below = 12 - 0.5f * wide, above = 12 + 0.5f * wide, end = 20 + deep;
  return *MeshGround::make(Plan{.outlines = {{{0, 0}, {40 + deep, 0}, {40 + deep, 24}, {0, 24}}},
                                .solids = {{{20, 0}, {end, 0}, {end, below}, {20, below}},
                                           {{20, above}, {end, above}, {end, 24}, {20, 24}}}});
}

std::optional<NarrowPlace> ahead_of(const Ground& ground, const Body& body, vec3 from, vec3 to, float width) {
  Route route;
  ground.route(ground.snap(from, 1, body).spot, ground.snap(to, 1, body).spot, route);
  return narrow_place_ahead(ground, body, from, std::span(route.bends).subspan(1), 12.f, width);
}

RC_GTEST_PROP(NarrowPlaces, AreTheSameFromBothSidesAndAtAnyAngle, ()) {
  const auto between = [](int low, int high, float unit) {
    return unit * static_cast<float>(*rc::gen::inRange(low, high + 1));
  };
  const float wide = between(7, 30, 0.1f), deep = between(2, 30, 0.1f);
  const Body body{.radius = 0.25f};
  const auto ground = two_rooms(wide, deep);
  // A thin doorway that is passed at more than 45 degrees may be missed.
  const float from = between(20, 60, 0.1f), to = between(20, 60, 0.1f);  // metres from the door
  const vec3 west(20 - from, 12 + from * between(-9, 9, 0.1f), 0),
      east(20 + deep + to, 12 + to * between(-9, 9, 0.1f), 0);
  const auto there = ahead_of(*ground, body, west, east, 3.2f);
  const auto back = ahead_of(*ground, body, east, west, 3.2f);
  RC_ASSERT(there.has_value());
  RC_ASSERT(back.has_value());
  for (const auto& [place, way] : {std::pair(*there, vec2(1, 0)), std::pair(*back, vec2(-1, 0))}) {
    RC_ASSERT(std::abs(place.width - wide) < 0.05f + 0.25f * wide);
    RC_ASSERT(glm::dot(place.through, way) > 0.9f);
    RC_ASSERT(std::abs(place.entry.y - 12) < 0.5f * wide);
    RC_ASSERT(place.entry.x > 19.5f);
    RC_ASSERT(place.entry.x < 20.5f + deep);
  }
}

TEST(NarrowPlaces, AreNoneInTheOpenAndNoneForThoseWhoAreInside) {
  const Body body{.radius = 0.25f};
  const auto ground = two_rooms(1.4f, 3);
  EXPECT_FALSE(ahead_of(*ground, body, {2, 12, 0}, {18, 12, 0}, 3.2f));
  EXPECT_FALSE(ahead_of(*ground, body, {21, 12, 0}, {35, 12, 0}, 3.2f)) << "it is in the door";
  EXPECT_FALSE(ahead_of(*ground, body, {15, 12, 0}, {35, 12, 0}, 1.2f)) << "the door is wider";
  EXPECT_FALSE(ahead_of(*ground, body, {2, 12, 0}, {35, 12, 0}, 3.2f)) << "it is too far off";
}

/// Two groups that change rooms, and the order in which their members pass the door.
struct Door {
  explicit Door(std::size_t each, float wide, float side = 0.25f) : ground(two_rooms(wide, 0.4f)) {
    for (std::size_t i = 0; i < 2 * each; ++i) {
      const auto k = static_cast<float>(i / 2);
      const vec3 west(15 - k / 8, 9.5f + std::fmod(k, 8.f), 0), east(25.4f + k / 8, west.y, 0);
      const bool from_west = i % 2 == 0;
      const Npc npc = *world.add({.at = from_west ? west : east, .body = {.radius = 0.22f}});
      EXPECT_TRUE(npc.set_avoidance({.side = side}));
      orders.push_back(npc.go_to(from_west ? east : west));
      npcs.push_back(npc);
    }
    passed.resize(npcs.size());
  }
  void play(double seconds, float tick) {
    pass(world, seconds, tick, [&] {
      for (std::size_t i = 0; i < npcs.size(); ++i)
        if (!passed[i] && (npcs[i].position().x > 20.2f) == (i % 2 == 0)) {
          passed[i] = true;
          order.push_back(i % 2 == 0);
        }
      return std::ranges::none_of(orders, [](const Order& each) { return each.running(); });
    });
    for (const Order& each : orders) ASSERT_EQ(each.outcome()->ending, Ending::arrived);
  }
  /// How often an NPC of the other group passed next.
  int changes() const {
    int changes = 0;
    for (std::size_t i = 1; i < order.size(); ++i) changes += order[i] != order[i - 1] ? 1 : 0;
    return changes;
  }

  std::unique_ptr<MeshGround> ground;
  World world{{.ground = ground.get(), .avoid = true}};
  std::vector<Npc> npcs;
  std::vector<Order> orders;
  std::vector<bool> passed, order;
};

TEST(NarrowPlaces, ArePassedInGroupsByTheSidesInTurn) {
  for (const float rate : {10.f, 30.f}) {
    Door door(100, 1.4f);
    door.play(200, 1 / rate);
    EXPECT_LT(door.world.time(), 130) << rate << ": 1.25 persons per second and metre, and the walk";
    EXPECT_LT(door.changes(), 25) << "of 199: they pass in groups";
    EXPECT_GT(door.changes(), 1) << "neither side waits until the other one is through";
    EXPECT_GT(count(door.world, Event::gives_way), 10);
    EXPECT_LE(count(door.world, Event::goes_on),
              count(door.world, Event::gives_way) + count(door.world, Event::held_up));
  }
}

TEST(NarrowPlaces, LetOneOfEachSidePassWithoutAWait) {
  Door door(1, 1.4f);
  door.play(20, 1 / 30.f);
  EXPECT_LT(door.world.time(), 1.3 * 11.5 / 1.4 + 1.5);  // they meet in the doorway
  EXPECT_EQ(count(door.world, Event::gives_way), 0);
}

TEST(NarrowPlaces, TooNarrowForTwoArePassedByOneAfterTheOther) {
  for (const float side : {0.25f, -0.25f}) {  // those who keep left wait on the left
    Door door(3, 0.8f, side);
    door.play(60, 1 / 30.f);
    EXPECT_LT(door.world.time(), 40);
    EXPECT_GT(count(door.world, Event::gives_way), 0);
  }
}

}  // namespace
}  // namespace ambulon
