#include "ambulon/motion/motion.hpp"

#include <algorithm>
#include <limits>

#include "ambulon/motion/steering.hpp"
#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

Gait any_gait() {
  return {.speed = between(0.1f, 20),
          .acceleration = between(0.5f, 100),
          .braking = between(0.5f, 100),
          .turn_rate = between(0.2f, 20),
          .turn_first = *rc::gen::arbitrary<bool>(),
          .slowing_distance = between(0, 5),
          .floor_speed = between(0, 1),
          .stride = between(0.2f, 2)};
}

Motion any_motion() {
  return {.position = vec3(between(-50, 50), between(-50, 50), 0),
          .velocity = between(0, 20) * unit(between(0, 6)),
          .facing = unit(between(0, 6))};
}

Intent any_intent() {
  Intent intent{.velocity = between(0, 20) * unit(between(0, 6))};
  if (*rc::gen::arbitrary<bool>()) intent.velocity = vec2(0.f);
  if (*rc::gen::arbitrary<bool>()) intent.facing = unit(between(0, 6));
  if (*rc::gen::arbitrary<bool>())
    intent.edge_centre = vec2(between(-50, 50), between(-50, 50)), intent.edge_radius = between(0.01f, 20);
  return intent;
}

RC_GTEST_PROP(Advance, KeepsToTheLimitsOfTheGait, ()) {
  const Gait gait = any_gait();
  const Motion before = any_motion();
  const float seconds = between(0.004f, 0.25f);
  Motion motion = before;
  const float used = advance(motion, gait, any_intent(), seconds);
  RC_ASSERT(used >= 0.f && used <= seconds);
  RC_ASSERT(finite(motion.position));
  RC_ASSERT(std::abs(glm::length(motion.facing) - 1.f) < 1e-4f);
  RC_ASSERT(glm::length(motion.velocity - before.velocity) <=
            std::max(gait.acceleration, gait.braking) * seconds + 1e-3f);
  RC_ASSERT(std::abs(angle_between(before.facing, motion.facing)) <= gait.turn_rate * used + 2e-3f);
  RC_ASSERT(flat_distance(motion.position, before.position) <=
            std::max(before.speed(), motion.speed()) * used + 1e-3f);
}

RC_GTEST_PROP(Advance, EndsAtTheSamePlaceWhenCutIntoSmallerSteps, ()) {
  Gait gait = any_gait();
  gait.turn_first = false;
  Intent intent = any_intent();
  intent.edge_radius = -1.f;
  const Motion before = any_motion();
  // While the velocity changes: the sideways part is braked first, then the speed along the heading changes.
  const vec2 forward = direction(intent.velocity, direction(before.velocity));
  const float along = glm::dot(before.velocity, forward), change = glm::dot(intent.velocity, forward) - along;
  if (along < 0.f) return;  // it brakes, then accelerates: two rates in one step
  const float aside = glm::length(before.velocity - along * forward);
  const float rate = change < 0.f ? gait.braking : gait.acceleration;
  const float seconds = std::min(0.25f, aside / gait.braking + std::abs(change) / rate);
  if (seconds < 1e-3f) return;
  Motion once = before, often = before;
  advance(once, gait, intent, seconds);
  for (int i = 0; i < 8; ++i) advance(often, gait, intent, seconds / 8.f);
  RC_ASSERT(flat_distance(once.position, often.position) < 2e-3f);
  RC_ASSERT(glm::length(once.velocity - often.velocity) < 2e-2f);
}

RC_GTEST_PROP(Advance, IsTheSameInEveryFrame, ()) {
  const Gait gait = any_gait();
  Motion motion = any_motion();
  Intent intent = any_intent();
  const float angle = between(0, 6);
  const vec2 turn = unit(angle), shift(between(-20, 20), between(-20, 20));
  const auto rotated = [&](vec2 v) { return vec2(v.x * turn.x - v.y * turn.y, v.x * turn.y + v.y * turn.x); };
  Motion moved = motion;
  moved.position = lift(rotated(flat(motion.position)) + shift);
  moved.velocity = rotated(motion.velocity), moved.facing = rotated(motion.facing);
  Intent other = intent;
  other.velocity = rotated(intent.velocity), other.facing = rotated(intent.facing),
  other.edge_centre = rotated(intent.edge_centre) + shift;
  const float used = advance(motion, gait, intent, 0.05f), also_used = advance(moved, gait, other, 0.05f);
  if (std::abs(used - also_used) > 1e-4f) return;  // just across an edge or a threshold
  RC_ASSERT(glm::length(rotated(flat(motion.position)) + shift - flat(moved.position)) < 2e-3f);
  RC_ASSERT(glm::length(rotated(motion.velocity) - moved.velocity) < 2e-3f);
}

TEST(Advance, StopsWhereTheWayCrossesTheEdge) {
  Motion motion{.velocity = {10, 0}};
  const Intent intent{.velocity = {10, 0}, .edge_centre = {2, 0}, .edge_radius = 0.5f};
  const float used = advance(motion, {.speed = 10}, intent, 0.25f);
  EXPECT_NEAR(motion.position.x, 1.5f, 1e-4f);
  EXPECT_NEAR(used, 0.15f, 1e-4f);
}

TEST(Advance, GaitThatTurnsFirstStandsUntilItHasTurned) {
  const Gait gait{.turn_rate = radians(90.f), .turn_first = true};
  Motion motion;
  const Intent back{.velocity = {-1.4f, 0}};
  float time = 0.f;
  while (motion.position.x == 0.f && time < 5.f) time += advance(motion, gait, back, 1.f / 60.f);
  EXPECT_NEAR(time, 2.f, 0.05f);
  EXPECT_LT(std::abs(angle_between(motion.facing, {-1.f, 0.f})), radians(3.f));
}

TEST(Stance, StridePhaseGrowsWithTheWayWalkedSoThatFeetDoNotSlide) {
  const Gait gait{.stride = 1.5f};
  const Body body;
  Motion motion;
  const Intent intent{.velocity = {1.3f, 0.4f}};
  double metres = 0;
  for (int i = 0; i < 600; ++i) {
    const Motion before = motion;
    advance(motion, gait, intent, 1.f / 60.f);
    take_stance(motion, before, gait, intent, {.stride = gait.stride}, run_speed(body),
                glm::length(motion.position - before.position));
    metres += glm::length(motion.position - before.position);
    EXPECT_NEAR(motion.stride_phase, std::fmod(metres / 1.5, 1.0), 1e-3);
  }
  EXPECT_EQ(motion.stance, Stance::walking);
}

TEST(Stance, TallBodiesWalkWhereSmallOnesRun) {
  const Intent intent{.velocity = {1.8f, 0}};
  const Motion before{.velocity = {1.8f, 0}};
  Motion motion = before;
  take_stance(motion, before, {}, intent, {}, run_speed({.height = 1.7f}), 0.f);
  EXPECT_EQ(motion.stance, Stance::walking);
  take_stance(motion, before, {}, intent, {}, run_speed({.height = 0.5f}), 0.f);
  EXPECT_EQ(motion.stance, Stance::running);
}

TEST(Stance, HasPhasesThatSayHowFarToTurnAndToStop) {
  for (const float rate : {10.f, 30.f, 60.f, 144.f})
    for (const float slowing : {0.f, 0.6f, 2.f}) {
      World world;
      const Npc porter = *world.add({.heading = radians(170.f), .gait = {.slowing_distance = slowing}});
      porter.go_to({5, 0, 0});
      std::vector<Stance> phases{Stance::idle};
      float to_turn = 0, to_stop = 0;
      vec3 stop_at{0.f};
      pass(world, 8, 1 / rate, [&] {
        const Motion now = porter.motion();
        if (now.stance != phases.back()) {
          phases.push_back(now.stance);
          stop_at = now.position + vec3(now.stop, 0, 0);
        } else if (now.stance == Stance::turning_right) {
          EXPECT_NEAR(now.turn - to_turn, porter.gait().turn_rate / rate, 0.01f);
        } else if (now.stance == Stance::stopping) {
          EXPECT_LE(now.stop, to_stop);
          EXPECT_NEAR(now.position.x + now.stop, stop_at.x, 0.03f + 0.02f * slowing) << "it keeps its place";
        }
        to_turn = now.turn, to_stop = now.stop;
        EXPECT_EQ(now.turn != 0.f, now.stance == Stance::turning_right);
        EXPECT_EQ(now.stop != 0.f, now.stance == Stance::stopping);
        return false;
      });
      EXPECT_EQ(phases, (std::vector{Stance::idle, Stance::turning_right, Stance::starting, Stance::walking,
                                     Stance::stopping, Stance::idle}))
          << rate;
      EXPECT_NEAR(porter.position().x, stop_at.x, 0.03f + 0.02f * slowing);
    }
}

/// Slow turners and slow walkers that are pushed and sent elsewhere all the time.
RC_GTEST_PROP(Stance, TurnsToTheSideOfWhatIsLeftAndHasNothingLeftElsewhere, ()) {
  World world({.avoid = *rc::gen::arbitrary<bool>()});
  const float rate = *rc::gen::element(10.f, 30.f, 144.f), turn_rate = *rc::gen::element(0.05f, 1.f, 6.f);
  const Gait gait{.speed = *rc::gen::element(0.02f, 1.4f, 8.f),
                  .turn_rate = turn_rate,
                  .turn_first = *rc::gen::arbitrary<bool>()};
  const Npc porter = *world.add({.gait = gait});
  for (int order = 0; order < 6; ++order) {
    porter.go_to(vec3(between(-8, 8), between(-8, 8), 0));
    if (order % 3 == 2) RC_ASSERT(porter.push({between(-3, 3), between(-3, 3)}, 0.3f).has_value());
    pass(world, between(0.2f, 4), 1 / rate, [&] {
      const Motion now = porter.motion();
      RC_ASSERT(finite(now.position) && now.stride > 0.f && now.stride_phase >= 0.f &&
                now.stride_phase < 1.f);
      RC_ASSERT(now.stop >= 0.f && (now.stop == 0.f || now.stance == Stance::stopping));
      const bool left = now.stance == Stance::turning_left, right = now.stance == Stance::turning_right;
      RC_ASSERT(left || right || now.turn == 0.f);
      const float off = std::abs(angle_between(now.facing, now.velocity));
      if (steps_aside(now.stance)) RC_ASSERT(off > 0.025f);
      const float to_left = cross(now.facing, now.velocity);
      RC_ASSERT(now.stance != Stance::sidestepping_left || to_left > 0.f);
      RC_ASSERT(now.stance != Stance::sidestepping_right || to_left <= 0.f);
      RC_ASSERT((now.stance == Stance::stepping_back) == (steps_aside(now.stance) && off > radians(120.f)));
      const bool either_side = std::abs(now.turn) > 3.f || std::abs(now.turn) < 0.1f;
      RC_ASSERT(either_side || (now.turn > 0.f) == left);
      return false;
    });
  }
}

TEST(Advance, WhoTurnsBackStopsFirstAndThenTurnsSoThatItsFeetDoNotSlide) {
  const Gait gait;
  for (const float rate : {10.f, 60.f}) {
    Motion motion{.velocity = {1.4f, 0}};
    double slid = 0;
    for (int i = 0; i < static_cast<int>(2 * rate); ++i)
      for (float left = 1 / rate; left > 1e-6f;) {
        const Motion before = motion;
        left -= advance(motion, gait, {.velocity = {-1.4f, 0}}, left);
        const vec2 way = flat(motion.position - before.position);
        slid += glm::length(way - glm::length(way) * direction(before.facing + motion.facing));
      }
    EXPECT_LT(slid, 0.06) << "metres";
    EXPECT_LT(motion.position.x, -1);
  }
}

TEST(Limits, BrokenValuesAreNamedWithTheirRange) {
  EXPECT_EQ(validate(Gait{.speed = -1.f}).error().text,
            "gait speed is -1 m/s; it must lie between 0.01 and 100");
  EXPECT_FALSE(validate(Gait{.turn_rate = std::numeric_limits<float>::quiet_NaN()}));
  EXPECT_FALSE(validate(Body{.radius = std::numeric_limits<float>::infinity()}));
  EXPECT_TRUE(validate(Gait{}));
  EXPECT_TRUE(validate(Body{}));
}

// In a crowd, avoidance leaves velocities of a micrometre per second.
TEST(Advance, TakesVelocitiesWithoutADirection) {
  for (const float speed : {0.f, 1e-30f, 1e-8f, 8e-7f, 1e-6f, 2e-6f, 1e-3f})
    for (const bool turn_first : {false, true}) {
      Motion motion;
      const float used = advance(motion, {.turn_first = turn_first}, {.velocity = {0, speed}}, 0.02f);
      EXPECT_GE(used, 0.f) << speed;
      EXPECT_LE(used, 0.02f) << speed;
      EXPECT_TRUE(finite(motion.position) && finite(lift(motion.velocity))) << speed;
    }
}

}  // namespace
}  // namespace ambulon
