// Orders with a moving target: follow, chase, flee, escort.

#include <algorithm>
#include <limits>

#include "ambulon/motion/steering.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

Npc courier(World& world, vec3 at = vec3(0.f), float speed = 1.f) {
  return *world.add({.name = "courier", .at = at, .gait = {.speed = speed}});
}

TEST(Follow, StandsNearAndGoesOnOnlyWhenTheTargetIsFurtherThanItResumes) {
  World world;
  const Npc leader = courier(world, {6, 0, 0});
  const Npc cat = *world.add({.name = "cat", .gait = {.speed = 2}});
  cat.follow(leader, {.stop = 1.5f, .resume = 3});
  pass(world, 10);
  EXPECT_LE(flat_distance(cat.position(), leader.position()), 1.51f);
  EXPECT_GT(flat_distance(cat.position(), leader.position()), 1.3f);
  EXPECT_EQ(cat.motion().stance, Stance::idle);
  const vec3 stood = cat.position();
  leader.go_to({7.2f, 0, 0}, {.within = 0.01f});  // 2.7 m away: not far enough to start again
  pass(world, 5);
  EXPECT_EQ(cat.position(), stood);
  EXPECT_EQ(cat.doing(), "standing near");
  leader.go_to({9, 0, 0});
  pass(world, 10);
  EXPECT_LE(flat_distance(cat.position(), leader.position()), 1.51f);
}

TEST(Follow, WalksAlongBehindAtASteadyPaceWithoutJitter) {
  World world;
  const Npc leader = courier(world, {3, 0, 0});
  const Npc cat = *world.add({.name = "cat", .gait = {.speed = 2}});
  cat.follow(leader, {.stop = 1.5f, .resume = 2.5f});
  leader.go_to({200, 0, 0});
  pass(world, 20);
  float min = 9.f, max = 0.f, nearest = 99.f, furthest = 0.f;
  pass(world, 40, 1.f / 60.f, [&] {
    min = std::min(min, cat.motion().speed());
    max = std::max(max, cat.motion().speed());
    nearest = std::min(nearest, flat_distance(cat.position(), leader.position()));
    furthest = std::max(furthest, flat_distance(cat.position(), leader.position()));
    return false;
  });
  EXPECT_NEAR(min, 1.f, 0.01f);
  EXPECT_NEAR(max, 1.f, 0.01f);
  EXPECT_LT(furthest - nearest, 0.02f);
  EXPECT_NEAR(nearest, 1.5f, 0.1f);
}

TEST(Follow, KeepsItsPlaceBehindAndBesideTheTarget) {
  World world;
  const Npc leader = courier(world, {3, 0, 0});
  const Npc cat = *world.add({.gait = {.speed = 3}});
  cat.follow(leader, {.stop = 0.1f, .resume = 0.5f, .offset = {-1, 2}});
  leader.go_to({3, 100, 0});  // heads along +y, so its left is -x
  pass(world, 30);
  EXPECT_NEAR(cat.position().x - leader.position().x, -2.f, 0.1f);
  EXPECT_NEAR(cat.position().y - leader.position().y, -1.f, 0.1f);
  cat.follow(leader, {.stop = 0.1f, .resume = 0.5f, .offset = {-1, 2}, .frame = OffsetFrame::world});
  pass(world, 15);
  EXPECT_NEAR(cat.position().x - leader.position().x, -1.f, 0.1f);
  EXPECT_NEAR(cat.position().y - leader.position().y, 2.f, 0.1f);
}

TEST(Follow, TheFurtherTheFasterWhenAskedAndDiagonalsAreNoFaster) {
  for (const vec2 way : {vec2(1, 0), direction({1, 1})}) {
    World world;
    const Npc leader = courier(world, lift(12.f * way));
    const Npc cat = *world.add({.gait = {.speed = 9, .acceleration = 50}});
    cat.follow(leader, {.distances = {4, 12}, .speeds = {1, 3}});
    pass(world, 0.5);
    EXPECT_NEAR(cat.motion().speed(),
                speed_by_distance(flat_distance(cat.position(), leader.position()), {4, 12}, {1, 3}), 0.05f);
    float at_eight = 0.f;
    pass(world, 20, 1.f / 60.f, [&] {
      if (flat_distance(cat.position(), leader.position()) < 8.f && at_eight == 0.f)
        at_eight = cat.motion().speed();
      return false;
    });
    EXPECT_NEAR(at_eight, 2.f, 0.05f);
  }
}

TEST(Follow, ATargetThatGoesAwayEndsItAsGone) {
  World world;
  const Npc leader = courier(world, {5, 0, 0});
  const Npc cat = *world.add({});
  const Order order = cat.follow(leader);
  pass(world, 1);
  leader.remove();
  pass(world, 0.1);
  EXPECT_EQ(order.outcome()->ending, Ending::gone);
  EXPECT_EQ(order.outcome()->why(), "its target is no longer in the world");
  const Order nobody = cat.follow(Npc());
  pass(world, 0.1);
  EXPECT_EQ(nobody.outcome()->ending, Ending::gone);
}

TEST(Follow, OfAGroupTheNearestAndAnotherOnlyWhenThatIsWorthwhile) {
  World world;
  const Tags cats = *world.tag("cat");
  const Npc tabby = *world.add({.name = "tabby", .at = {10, 0, 0}, .tags = cats});
  const Npc ginger = *world.add({.name = "ginger", .at = {-12, 0, 0}, .tags = cats});
  const Npc child = *world.add({.name = "child", .gait = {.speed = 0.01f}, .tags = cats});
  child.follow(World::one_of(cats));
  pass(world, 1);
  EXPECT_EQ(child.errand().target, tabby.id());  // not itself
  ASSERT_TRUE(ginger.teleport({-9, 0, 0}));
  pass(world, 2);
  EXPECT_EQ(child.errand().target, tabby.id());  // nearer, but only slightly
  ASSERT_TRUE(ginger.teleport({-4, 0, 0}));
  pass(world, 2);
  EXPECT_EQ(child.errand().target, ginger.id());
  ginger.remove();
  pass(world, 1);
  EXPECT_EQ(child.errand().target, tabby.id());
  EXPECT_TRUE(contains(told(world), "child has ginger as its target now"));
  tabby.remove();
  pass(world, 1);
  EXPECT_EQ(child.errand().last->why(), "no NPC in the world has the tag of its target");
}

TEST(Follow, NonsenseIsRefused) {
  World world;
  const Npc leader = courier(world, {5, 0, 0}), cat = *world.add({});
  const auto why = [&](const FollowOptions& options) {
    const Order order = cat.follow(leader, options);
    pass(world, 0.05);
    return order.outcome() ? order.outcome()->why() : "it runs";
  };
  EXPECT_EQ(why({.stop = 2, .resume = 1}), "resume is 1; it must lie between 2 and 100000");
  EXPECT_EQ(why({.offset = {std::numeric_limits<float>::infinity(), 0}}),
            "the offset is not a finite number");
  EXPECT_EQ(why({.distances = {1, 2}, .speeds = {1, 2000}}),
            "the second of speeds is 2000; it must lie between 0 and 100");
  const Order self = cat.follow(cat);
  pass(world, 0.05);
  EXPECT_EQ(self.outcome()->why(), "its target is the NPC itself");
}

RC_GTEST_PROP(Chase, CatchesWhoIsSlowerAndMakesForWhereTheyMeet, ()) {
  World world;
  const float heading = between(-3, 3), distance = between(5, 20);
  const Npc thief = courier(world, {distance, 0, 0}, 1.5f);
  thief.go_to({distance + 500.f * unit(heading).x, 500.f * unit(heading).y, 0});
  const Npc constable = *world.add({.gait = {.speed = 3, .acceleration = 10, .braking = 10}});
  const Order order = constable.chase(thief, {.reach = 0.8f, .foresight = 60});
  pass(world, 120, 1.f / 30.f, [&] { return !order.running(); });
  RC_ASSERT(order.outcome().has_value());
  RC_ASSERT(order.outcome()->ending == Ending::arrived);
  // Along the straight line to the meeting point; a pure pursuit would be longer.
  const vec2 meet = meeting_point({distance, 0}, 1.5f * unit(heading), 3.f, 1e3f);
  RC_ASSERT(constable.statistics().metres < glm::length(meet) + 1.5);
}

TEST(Chase, GivesUpByDistanceAndByTime) {
  World world;
  const Npc thief = courier(world, {5, 0, 0}, 4);
  thief.go_to({500, 0, 0});
  const Npc constable = *world.add({.name = "constable", .gait = {.speed = 2}});
  const Order far = constable.chase(thief, {.give_up = 12});
  pass(world, 30, 1.f / 60.f, [&] { return !far.running(); });
  EXPECT_EQ(far.outcome()->ending, Ending::gone);
  EXPECT_EQ(far.outcome()->why(), "its target escaped: it is 12.0 m away");
  const Order late = constable.chase(thief).time_limit(2.5f);
  EXPECT_NEAR(pass(world, 30, 1.f / 60.f, [&] { return !late.running(); }), 2.5, 0.05);
  EXPECT_EQ(late.outcome()->ending, Ending::timed_out);
}

TEST(Chase, TheActHookFiresOnceOnComingNearAndOnceOnGoingApart) {
  World world;
  const Npc thief = courier(world, {6, 0, 0}, 1), constable = *world.add({.gait = {.speed = 2}});
  std::vector<bool> acts;
  Npc whom;
  constable.chase(thief, {.reach = 0.05f, .act_within = 2}).on_act([&](Npc, Npc other, bool near) {
    acts.push_back(near);
    whom = other;
  });
  pass(world, 3);
  EXPECT_EQ(acts, std::vector<bool>{true});
  EXPECT_EQ(whom, thief);
  ASSERT_TRUE(thief.teleport({40, 0, 0}));
  pass(world, 1);
  EXPECT_EQ(acts, (std::vector<bool>{true, false}));
  EXPECT_EQ(count(world, Event::moved_away), 1);
}

TEST(Chase, AnActMayGiveAnotherOrder) {
  World world;
  const Npc thief = courier(world, {4, 0, 0}), constable = *world.add({.name = "constable"});
  constable.chase(thief, {.reach = 0.05f, .act_within = 2}).on_act([](Npc me, Npc, bool near) {
    if (near) me.pause(5);
  });
  pass(world, 4);
  EXPECT_EQ(constable.errand().name, "pause");
}

RC_GTEST_PROP(Flee, GetsAwayFromWhoIsSlowerAndStaysOnTheQuayWhenThereIsAnEdge, ()) {
  const bool edged = *rc::gen::arbitrary<bool>();
  const OpenGround quay(vec2(-12, -12), vec2(12, 12)), open;
  World world({.ground = edged ? &quay : &open});
  const Npc thief = *world.add({.at = {between(0, 11), between(-11, 11), 0}, .gait = {.speed = 4}});
  const Npc constable = *world.add({.at = {between(-11, -3), between(-11, 11), 0}, .gait = {.speed = 2}});
  constable.chase(thief, {.reach = 0.1f});
  const Order order = thief.flee(constable, {.reach = 12});
  bool on_quay = true;
  pass(world, 60, 1.f / 30.f, [&] {
    on_quay = on_quay && (!edged || static_cast<bool>(quay.snap(thief.position(), 1e-3f)));
    return !order.running();
  });
  RC_ASSERT(on_quay);
  // On the quay it may be driven from corner to corner, but a chaser at half its speed does not catch it.
  RC_ASSERT(edged || order.outcome().has_value());
  if (const auto outcome = order.outcome()) RC_ASSERT(outcome->cause == Cause::far_enough);
  RC_ASSERT(world.time() < 3 || constable.busy());
}

TEST(Escort, StandsByUntilTheLeashIsTautAndThenTakesAFreePlaceFacingTheLeader) {
  World world({.seed = 4});
  const Npc seller = *world.add({.name = "tea-seller", .gait = {.speed = 1.4f}});
  std::vector<Npc> apprentices;
  for (int i = 0; i < 6; ++i) {
    apprentices.push_back(
        *world.add({.at = 1.5f * vec3(unit(static_cast<float>(i)), 0), .gait = {.speed = 2.2f}}));
    apprentices.back().escort(seller, {.leash = 4, .ring = {1.2f, 2.4f}});
  }
  const vec3 stood = apprentices[0].position();
  seller.go_to({2, 0, 0});
  pass(world, 8);
  EXPECT_EQ(apprentices[0].position(), stood);  // at most 3.5 m: no apprentice moves
  seller.go_to({25, 10, 0});
  pass(world, 40);
  for (std::size_t i = 0; i < apprentices.size(); ++i) {
    const vec3 at = apprentices[i].position();
    const float away = flat_distance(at, seller.position());
    EXPECT_GT(away, 1.f);
    EXPECT_LT(away, 2.61f);
    EXPECT_EQ(apprentices[i].motion().stance, Stance::idle);
    EXPECT_NEAR(angle_between(apprentices[i].motion().facing, direction(flat(seller.position() - at))), 0.f,
                0.05f);
    for (std::size_t j = 0; j < i; ++j) EXPECT_GT(flat_distance(at, apprentices[j].position()), 0.6f);
  }
}

TEST(Escort, EndsWithItsLeaderAndRefusesALeashShorterThanTheRing) {
  World world;
  const Npc seller = courier(world), apprentice = *world.add({.at = {1, 0, 0}});
  const Order wrong = apprentice.escort(seller, {.leash = 2, .ring = {1, 3}});
  pass(world, 0.05);
  EXPECT_EQ(wrong.outcome()->why(), "leash is 2; it must lie between 3 and 100000");
  const Order order = apprentice.escort(seller);
  pass(world, 1);
  seller.remove();
  pass(world, 0.05);
  EXPECT_EQ(order.outcome()->ending, Ending::gone);
}

}  // namespace
}  // namespace ambulon
