#include "ambulon/motion/steering.hpp"

#include <algorithm>
#include <functional>
#include <limits>

#include "ambulon/motion/flocking.hpp"
#include "ambulon/motion/wish.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {
namespace {

/// The input of a behaviour: an NPC, a target and neighbours.
struct Situation {
  Motion me;
  Gait gait{.acceleration = 5, .braking = 5};
  vec2 target{0.f}, target_velocity{0.f};
  std::vector<Neighbour> neighbours{};
  std::vector<vec2> path{};
};

vec2 point(float size) { return {between(-size, size), between(-size, size)}; }

Situation any_situation() {
  Situation some{.me = {.position = lift(point(30)), .velocity = point(3), .facing = unit(between(-3, 3))},
                 .target = point(20),
                 .target_velocity = point(3)};
  for (int i = 0; i < 4; ++i)
    some.neighbours.push_back({.offset = point(4), .velocity = point(2), .radius = 0.3f});
  for (int i = 0; i < 4; ++i) some.path.push_back(point(30));
  return some;
}

/// A rotation, a mirroring and a translation. Every change of frame is a combination of these.
struct Frame {
  vec2 turn{1.f, 0.f};
  bool mirrored = false;
  vec2 shift{0.f};
  vec2 vector(vec2 v) const {
    if (mirrored) v.y = -v.y;
    return {turn.x * v.x - turn.y * v.y, turn.y * v.x + turn.x * v.y};
  }
  Situation operator()(Situation it) const {
    it.me.position = lift(vector(flat(it.me.position)) + shift);
    it.me.velocity = vector(it.me.velocity), it.me.facing = vector(it.me.facing);
    it.target = vector(it.target), it.target_velocity = vector(it.target_velocity);
    for (Neighbour& other : it.neighbours)
      other.offset = vector(other.offset), other.velocity = vector(other.velocity);
    for (vec2& bend : it.path) bend = vector(bend) + shift;
    return it;
  }
};

using Wished = std::function<vec2(const Situation&)>;
constexpr float speed = 2.f, tick = 1.f / 60.f;

const std::vector<std::pair<const char*, Wished>> behaviours = {
    {"seek", [](const Situation& it) { return seek(it.me, it.gait, it.target, speed); }},
    {"flee", [](const Situation& it) { return flee(it.me, it.gait, it.target, speed); }},
    {"arrive",
     [](const Situation& it) {
       return arrive(it.me, it.gait, it.target, glm::length(it.target), 0.3f, speed, tick).velocity;
     }},
    {"pursue",
     [](const Situation& it) { return pursue(it.me, it.gait, it.target, it.target_velocity, speed); }},
    {"evade",
     [](const Situation& it) { return evade(it.me, it.gait, it.target, it.target_velocity, speed); }},
    {"keep_distance",
     [](const Situation& it) { return keep_distance(it.me, it.gait, it.target, {3, 6}, speed, tick); }},
    {"follow_offset",
     [](const Situation& it) {
       return follow_offset(it.me, it.gait, it.target, it.target_velocity, speed, tick);
     }},
    {"follow_path", [](const Situation& it) { return follow_path(it.me, it.gait, it.path, 1.5f, speed); }},
    {"separation",
     [](const Situation& it) { return separation(it.me, 0.3f, it.neighbours, 2.f, speed).velocity; }},
    {"alignment", [](const Situation& it) { return alignment(it.neighbours, speed).velocity; }},
    {"cohesion", [](const Situation& it) { return cohesion(it.neighbours, 3.f, speed).velocity; }},
    {"queue",
     [](const Situation& it) {
       return queue(it.me, it.gait, 0.3f, it.neighbours, speed * direction(it.target), 0.2f, tick);
     }},
};

RC_GTEST_PROP(Steering, DoesNotDependOnTheFrameOfTheScene, ()) {
  const Situation it = any_situation();
  const Frame frame{unit(between(-3, 3)), *rc::gen::arbitrary<bool>(), point(50)};
  for (const auto& [name, behaviour] : behaviours) {
    const vec2 here = frame.vector(behaviour(it)), there = behaviour(frame(it));
    if (glm::length(here - there) > 2e-2f) RC_FAIL(name);
  }
}

RC_GTEST_PROP(Steering, KeepsToTheSpeedAndIsFiniteOnTopOfEachOther, ()) {
  Situation it = any_situation();
  if (*rc::gen::arbitrary<bool>()) it.target = vec2(0.f);
  if (*rc::gen::arbitrary<bool>()) it.me.velocity = vec2(0.f);
  if (*rc::gen::arbitrary<bool>()) it.target_velocity = vec2(0.f);
  if (*rc::gen::arbitrary<bool>()) it.neighbours[0].offset = it.neighbours[1].offset = vec2(0.f);
  if (*rc::gen::arbitrary<bool>()) it.path[1] = it.path[2] = it.path[0];
  for (const auto& [name, behaviour] : behaviours) {
    const vec2 wanted = behaviour(it);
    if (!finite(lift(wanted)) || glm::length(wanted) > speed * 1.0001f) RC_FAIL(name);
  }
}

RC_GTEST_PROP(Steering, OneWhoPursuesMeetsWhoGoesStraightOn, ()) {
  // Checked by walking: both reach the meeting point at the same time.
  const vec2 target = point(20), velocity = point(1.3f);
  const vec2 meet = meeting_point(target, velocity, speed, 1e6f);
  const float when = glm::length(meet) / speed;
  RC_ASSERT(glm::length(target + when * velocity - meet) < 0.02f + 1e-3f * glm::length(meet));
}

TEST(Steering, AFasterTargetIsMetWhereItComesByOrNotAtAll) {
  EXPECT_NEAR(glm::length(meeting_point({10, 0}, {-3, 0}, 1.f, 60.f) - vec2(2.5f, 0)), 0.f, 1e-3f);
  EXPECT_EQ(meeting_point({10, 0}, {3, 0}, 1.f, 2.f), vec2(16, 0));  // they never meet: as far as it predicts
}

/// Lets `behaviour` steer for `seconds`. Returns the motion at the end.
Motion steered(Motion motion, const Gait& gait, float seconds, float step,
               const std::function<vec2(const Motion&, float step)>& behaviour) {
  for (float time = 0.f; time < seconds - 1e-4f; time += step)
    advance(motion, gait, {.velocity = behaviour(motion, step)}, step);
  return motion;
}

RC_GTEST_PROP(KeepDistance, SettlesInItsBandFromAnywhereAndStaysThere, ()) {
  const Gait gait{.speed = between(0.5f, 8), .acceleration = between(0.5f, 50), .braking = between(0.5f, 50)};
  const Range band{between(1, 4), between(4.5f, 9)};
  const float step = 1.f / between(15, 240);
  const auto keep = [&](const Motion& motion, float seconds) {
    return keep_distance(motion, gait, -flat(motion.position), band, gait.speed, seconds);
  };
  Motion motion{.position = lift(point(20)), .velocity = gait.speed * unit(between(-3, 3))};
  motion = steered(motion, gait, 90.f, step, keep);
  const float distance = glm::length(motion.position);
  RC_ASSERT(distance > band.min - 0.05f);
  RC_ASSERT(distance < band.max + 0.05f);
  RC_ASSERT(motion.speed() < 0.05f);
}

RC_GTEST_PROP(FollowOffset, CatchesUpWithAMovingPlaceWithoutRunningPastIt, ()) {
  const Gait gait{.speed = 4, .acceleration = between(1, 50), .braking = between(1, 50)};
  const vec2 velocity = between(0.f, 2.f) * unit(between(-3, 3));
  const float step = 1.f / between(15, 240);
  vec2 slot = point(15);
  float past = 0.f;
  Motion motion;
  const vec2 towards = direction(slot);
  for (float time = 0.f; time < 40.f; time += step) {
    const vec2 offset = slot - flat(motion.position);
    if (glm::dot(velocity, towards) >= 0.f) past = std::max(past, -glm::dot(offset, towards));
    advance(motion, gait, {.velocity = follow_offset(motion, gait, offset, velocity, gait.speed, step)},
            step);
    slot += step * velocity;
  }
  RC_ASSERT(glm::length(slot - flat(motion.position)) < 0.1f);
  RC_ASSERT(glm::length(motion.velocity - velocity) < 0.05f);
  RC_ASSERT(past < 0.3f);
}

TEST(Wandering, IsTheSameAtAnyTickRateAndSmooth) {
  Random coarse_random(7), fine_random(7);
  Wandering coarse, fine;
  float before = 0.f;
  for (int i = 0; i <= 2000; ++i) {
    const double time = i * 0.01;
    const float heading = fine.at(time, 1.f, 0.8f, fine_random);
    EXPECT_LT(std::abs(heading - before), 0.03f);  // at most 1.5 turn / every radians a second
    before = heading;
    if (i % 25 == 0) {
      EXPECT_NEAR(heading, coarse.at(time, 1.f, 0.8f, coarse_random), 1e-5f);
    }
  }
}

TEST(SpeedByDistance, RunsEvenlyBetweenItsEndsAndIsClampedBeyond) {
  EXPECT_FLOAT_EQ(speed_by_distance(6, {4, 8}, {1, 3}), 2);
  EXPECT_FLOAT_EQ(speed_by_distance(1, {4, 8}, {1, 3}), 1);
  EXPECT_FLOAT_EQ(speed_by_distance(99, {4, 8}, {1, 3}), 3);
  EXPECT_FLOAT_EQ(speed_by_distance(5, {5, 5}, {1, 3}), 1);  // an empty range
}

TEST(Flocking, SeparationGoesAwayTheMoreTheNearerAndWantsNothingWhenAlone) {
  const Motion me;
  EXPECT_EQ(separation(me, 0.3f, {}, 2.f, speed).urgency, 0.f);
  const Neighbour far{.offset = {2.f, 0}, .radius = 0.3f}, close{.offset = {0.8f, 0}, .radius = 0.3f};
  const Wish from_far = separation(me, 0.3f, std::span(&far, 1), 2.f, speed);
  const Wish from_close = separation(me, 0.3f, std::span(&close, 1), 2.f, speed);
  EXPECT_LT(from_far.velocity.x, 0);
  EXPECT_LT(from_far.urgency, from_close.urgency);
  EXPECT_NEAR(from_close.urgency, 0.9f, 1e-4f);  // 0.2 m of 2 m left
}

TEST(Flocking, ObstaclesAheadArePassedOnTheWiderSideAndOthersAreLeftAlone) {
  const Motion me{.velocity = {2, 0}};
  const auto wish = [&](vec2 offset, vec2 velocity = vec2(0.f)) {
    const Neighbour crate{.offset = offset, .velocity = velocity, .radius = 0.5f};
    return avoid_obstacles(me, 0.3f, std::span(&crate, 1), 2.f, speed);
  };
  EXPECT_LT(wish({3, 0.2f}).velocity.y, 0);  // the neighbour is to the left
  EXPECT_GT(wish({3, -0.2f}).velocity.y, 0);
  EXPECT_LT(wish({3, 0}).velocity.y, 0);  // head-on, both keep right, as avoidance does
  EXPECT_GT(wish({1.5f, 0}).urgency, wish({3, 0}).urgency);
  EXPECT_EQ(wish({3, 1.1f}).urgency, 0.f);          // beside its path
  EXPECT_EQ(wish({-2, 0}).urgency, 0.f);            // behind it
  EXPECT_EQ(wish({9, 0}).urgency, 0.f);             // too far away
  EXPECT_EQ(wish({3, 0}, {2.5f, 0}).urgency, 0.f);  // the neighbour walks away faster
}

TEST(Flocking, AQueueStandsBehindWhoStandsAndWalksBehindWhoWalks) {
  const Gait gait{.acceleration = 5, .braking = 5};
  const auto follow_leader = [&](float leader_speed) {
    vec2 leader{4, 0};
    return steered({}, gait, 20.f, tick, [&](const Motion& motion, float step) {
      leader.x += leader_speed * step;
      const Neighbour ahead{
          .offset = leader - flat(motion.position), .velocity = {leader_speed, 0}, .radius = 0.3f};
      return queue(motion, gait, 0.3f, std::span(&ahead, 1), {2, 0}, 0.4f, step);
    });
  };
  const Motion behind_standing = follow_leader(0.f), behind_walking = follow_leader(0.7f);
  EXPECT_NEAR(behind_standing.position.x, 3.f, 0.02f);  // 4 - 2 * 0.3 - 0.4
  EXPECT_NEAR(behind_walking.position.x, 4 + 0.7f * 20 - 1.f, 0.1f);
  EXPECT_NEAR(behind_walking.speed(), 0.7f, 0.02f);
}

TEST(Flocking, EdgesAreTurnedFromTheMoreTheNearer) {
  const Motion me{.velocity = {2, 0}};
  const Feeler near{.way = {3, 0}, .free = 0.2f, .inward = {-1, 0}},
      far{.way = {3, 0}, .free = 0.9f, .inward = {-1, 0}};
  EXPECT_LT(avoid_edges(me, std::span(&near, 1), speed).velocity.x, 0);
  EXPECT_LT(avoid_edges(me, std::span(&far, 1), speed).urgency,
            avoid_edges(me, std::span(&near, 1), speed).urgency);
  const Feeler free{.way = {3, 0}};
  EXPECT_EQ(avoid_edges(me, std::span(&free, 1), speed).urgency, 0.f);
}

RC_GTEST_PROP(Blend, IsNoFasterThanItsFastestWish, ()) {
  std::vector<Wish> wishes;
  for (int i = 0; i < 5; ++i) wishes.push_back({between(0, 3) * unit(between(-3, 3)), between(0, 2)});
  RC_ASSERT(glm::length(blend_weighted(wishes)) <= 3.001f);
  RC_ASSERT(glm::length(blend_by_priority(wishes, between(0, 1))) <= 3.001f);
}

TEST(Blend, ByPriorityTheFirstHasTheFirstSayUntilTheBudgetIsUsedUp) {
  const Wish first{{1, 0}, 0.75f}, second{{0, 1}, 0.75f}, third{{0, -9}, 1};
  const Wish all[] = {first, second, third};
  EXPECT_EQ(blend_by_priority(all), vec2(0.75f, 0.25f));
  EXPECT_EQ(blend_by_priority(all, 0.5f), vec2(0.5f, 0));
  EXPECT_EQ(blend_weighted(std::span(all, 2)), vec2(0.5f, 0.5f));
  EXPECT_EQ(blend_weighted(std::span(all, 1)), vec2(0.75f, 0));  // the others stand still
}

TEST(WithMass, TheHeavySpeedUpBrakeAndTurnMoreSlowly) {
  const Gait laden = with_mass({.acceleration = 4, .braking = 6, .turn_rate = 3}, 2.f);
  EXPECT_FLOAT_EQ(laden.acceleration, 2);
  EXPECT_FLOAT_EQ(laden.braking, 3);
  EXPECT_FLOAT_EQ(laden.turn_rate, 1.5f);
}

TEST(Wandering, TurnsOfNoLengthTakeNoTime) {
  Random random;
  for (const float every : {1e-17f, 0.f, -1.f, std::nanf("")})
    for (const double time : {0.0, 5.0, 1e17, -1e17}) {
      Wandering wandering;
      (void)wandering.at(time, 1, every, random);
      (void)wandering.at(time + 100, 1, every, random);
    }
}

}  // namespace
}  // namespace ambulon
