// Touching bodies are reported once, at any speed, with the closing speed.

#include <algorithm>
#include <map>

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Touch, AFastBodyIsNotMissedBetweenTwoTicks) {
  for (const float speed : {0.02f, 1.f, 7.f, 30.f})
    for (const float rate : {10.f, 30.f, 60.f, 144.f})
      for (const bool avoid : {false, true})
        for (const bool cat_is_told : {false, true}) {
          World world({.avoid = avoid});
          const Npc cat = *world.add({.name = "cat", .body = {.radius = 0.2f}});
          const Npc courier =
              *world.add({.name = "courier", .at = {-0.8f, 0.1f, 0}, .drive = Drive::reported});
          std::vector<float> told;
          const auto told_of = [&](Npc, Npc, float speed) { told.push_back(speed); };
          cat_is_told ? cat.on_touch(told_of) : courier.on_touch(told_of);
          const float end = 0.8f + (speed > 1 ? 2.f * speed : 0.f);  // the slow one barely reaches it
          float x = -0.8f;
          while (x < end && (speed > 1 || x < -0.45f)) {
            EXPECT_TRUE(world.tick(1 / rate));
            EXPECT_TRUE(courier.report({x += speed / rate, 0.1f, 0}));
          }
          pass(world, 2 / rate, 1 / rate);
          ASSERT_EQ(told.size(), 1U) << speed << " m/s, rate " << rate;
          EXPECT_NEAR(told[0] / speed, 1, 0.1) << speed << " m/s, rate " << rate;
          EXPECT_EQ(count(world, Event::touched), 1);
        }
}

TEST(Touch, IsToldAgainOnlyAfterTheTwoHaveParted) {
  World world;
  const Npc porter = *world.add({.name = "porter"});
  const Npc player = *world.add({.name = "player", .at = {5, 0, 0}, .drive = Drive::reported});
  int touches = 0;
  porter.on_touch([&](Npc me, Npc other, float) {
    EXPECT_EQ(me, porter);
    EXPECT_EQ(other, player);
    ++touches;
  });
  const auto stand_at = [&](float x) {
    EXPECT_TRUE(player.report({x, 0, 0}));
    pass(world, 1);
  };
  // it trembles at the distance of touch
  for (const float x : {0.62f, 0.6f, 0.63f, 0.59f, 0.3f, 0.64f}) stand_at(x);
  EXPECT_EQ(touches, 1);
  stand_at(0.7f);
  stand_at(0.5f);
  EXPECT_EQ(touches, 2);
  porter.on_touch({});
  stand_at(2);
  stand_at(0.5f);
  EXPECT_EQ(touches, 2);
}

TEST(Touch, CountsNeitherOtherStoreysNorRidersNorThoseItPassesThrough) {
  World world;
  const Tags cats = *world.tag("cats"), moths = *world.tag("moths");
  const Npc porter = *world.add({.name = "porter", .body = {.passes = moths}});
  (void)*world.add({.at = {0.2f, 0, 4}, .drive = Drive::reported});  // on the storey above
  (void)*world.add({.at = {0.2f, 0, 0}, .tags = moths});
  (void)*world.add({.at = {0, 0, 1.7f}, .drive = Drive::reported});  // stands on its head
  int touches = 0;
  porter.on_touch([&](Npc, Npc, float) { ++touches; });
  pass(world, 1);
  EXPECT_EQ(touches, 0);
  const Npc cat = *world.add({.at = {0.3f, 0, 0}, .tags = cats});
  const Npc thief = *world.add({.at = {0, 0.3f, 0}});
  pass(world, 1);
  EXPECT_EQ(touches, 2);
  thief.on_touch([&](Npc, Npc other, float) { EXPECT_EQ(other, cat); }, cats);
  pass(world, 1);
  // A body placed beside another touches it; it touched none on its way there.
  const Npc tea_seller = *world.add({.at = {30, 0, 0}});
  int met = 0;
  tea_seller.on_touch([&](Npc, Npc, float speed) {
    ++met;
    EXPECT_EQ(speed, 0);
  });
  ASSERT_TRUE(cat.teleport({60, 0, 0}));
  pass(world, 1);
  EXPECT_EQ(met, 0);
  ASSERT_TRUE(cat.teleport({30.4f, 0, 0}));
  pass(world, 1);
  EXPECT_EQ(met, 1);
}

TEST(Touch, AWalkerMeetsAStandingBodyAtItsWalkingSpeed) {
  for (const bool avoid : {false, true})
    for (const float rate : {10.f, 60.f, 144.f}) {
      World world({.avoid = avoid});
      const Npc crate = *world.add({.at = {6, 0, 0}, .avoidance = {.takes_part = false}});
      const Npc cart = *world.add({.gait = {.speed = 3}, .avoidance = {.takes_part = false}});
      float speed = 0;
      cart.on_touch([&](Npc, Npc other, float closing) {
        EXPECT_EQ(other, crate);
        speed = closing;
      });
      cart.go_to({12, 0, 0});
      pass(world, 6, 1 / rate);
      EXPECT_NEAR(speed, 3, 0.1) << rate;
      EXPECT_EQ(count(world, Event::touched), 1);
    }
}

TEST(Touch, WhoeverIsToldMayRemoveReplaceAndEndAnything) {
  World world;
  std::vector<Npc> all;
  for (int i = 0; i < 6; ++i)
    all.push_back(*world.add({.at = {0.3f * static_cast<float>(i), 0, 0}, .drive = Drive::reported}));
  int told = 0;
  for (const Npc npc : all)
    npc.on_touch([&](Npc me, Npc other, float) {
      ++told;
      me.on_touch([&](Npc, Npc, float) { ++told; });
      if (told == 2) other.remove();
      if (told == 3) me.remove();
      if (told == 4) me.on_touch({});
      (void)world.add({.at = me.position(), .drive = Drive::reported});
    });
  pass(world, 2);
  EXPECT_GT(told, 4);
  EXPECT_LT(told, 60);
}

/// The touches of wandering bodies equal those found by sampling 300 times in each tick.
RC_GTEST_PROP(Touch, IsWhatOneSeesWhoLooksVeryOften, ()) {
  const auto count = *rc::gen::inRange<std::size_t>(2, 6);
  const float rate = *rc::gen::element(10.f, 30.f, 144.f);
  const auto numbers = *rc::gen::container<std::vector<int>>(60 * count, rc::gen::inRange(0, 1000));
  const float stride = *rc::gen::element(0.05f, 0.6f, 3.f);
  World world;
  std::vector<Npc> npcs;
  std::vector<float> radii;
  std::vector<std::vector<vec2>> paths(count);
  for (std::size_t i = 0; i < count; ++i) {
    radii.push_back(0.1f + 0.1f * static_cast<float>(i));
    vec2 at(3.f * static_cast<float>(i), 0);
    for (std::size_t k = 0; k < 30; ++k) {
      paths[i].push_back(at);
      const auto number = [&](std::size_t of) {
        return static_cast<float>(numbers[(2 * k + of) * count + i]) / 500 - 1;
      };
      at = glm::clamp(at + stride * vec2(number(0), number(1)), vec2(-1), vec2(5));
    }
    npcs.push_back(
        *world.add({.at = lift(paths[i][0]), .body = {.radius = radii[i]}, .drive = Drive::reported}));
  }
  std::map<std::pair<std::size_t, std::size_t>, int> told, seen;
  for (std::size_t i = 0; i < count; ++i)
    npcs[i].on_touch([&, i](Npc, Npc other, float) {
      ++told[{i, static_cast<std::size_t>(std::ranges::find(npcs, other) - npcs.begin())}];
    });
  for (std::size_t k = 0; k < 30; ++k) {
    for (std::size_t i = 0; i < count; ++i) RC_ASSERT(npcs[i].report(lift(paths[i][k])).has_value());
    RC_ASSERT(world.tick(1 / rate).has_value());
  }
  RC_ASSERT(world.tick(1 / rate).has_value());
  for (std::size_t i = 0; i < count; ++i)
    for (std::size_t j = 0; j < count; ++j) {
      if (i == j) continue;
      const float room = radii[i] + radii[j];
      bool touching = false;
      for (std::size_t k = 0; k < 30; ++k) {
        float nearest = 1e9f;
        for (int part = 0; part <= 300 && (k > 0 || part == 0); ++part) {
          const float t = static_cast<float>(part) / 300;
          const auto at = [&](std::size_t n) {
            return k == 0 ? paths[n][0] : glm::mix(paths[n][k - 1], paths[n][k], t);
          };
          nearest = std::min(nearest, glm::distance(at(i), at(j)));
        }
        const float now = glm::distance(paths[i][k], paths[j][k]);
        if (std::abs(nearest - room - 0.01f) < 0.004f || std::abs(now - room - 0.05f) < 1e-4f) RC_DISCARD();
        if (!touching && nearest < room + 0.01f) {
          ++seen[{i, j}];
          touching = true;
        }
        if (now > room + 0.05f) touching = false;
      }
    }
  RC_ASSERT(told == seen);
}

}  // namespace
}  // namespace ambulon
