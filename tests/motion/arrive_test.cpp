#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/circle.hpp"
#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {
namespace {

/// Walks to the origin with `arrive`. Returns the seconds until it stands, or a negative number.
struct Arrival {
  float seconds = -1.f;
  float overshoot = 0.f;  // metres beyond the goal at most
};

Arrival walk_in(Motion motion, const Gait& gait, float radius, float tick, float max_seconds) {
  const vec2 from = direction(flat(motion.position));
  Arrival arrival;
  for (float time = 0.f; time < max_seconds; time += tick) {
    const vec2 target = -flat(motion.position);
    const float left = glm::length(target);
    const bool there = came_by(flat(motion.position), flat(motion.position), vec2(0.f), radius);
    if (there && motion.speed() == 0.f) {
      arrival.seconds = time;
      return arrival;
    }
    Intent intent;
    if (!there) {
      const Approach approach = arrive(motion, gait, target, left, radius, gait.speed, tick);
      intent = {.velocity = approach.velocity, .edge_radius = radius, .lasts = approach.lasts};
    }
    advance(motion, gait, intent, tick);
    arrival.overshoot = std::max(arrival.overshoot, -glm::dot(flat(motion.position), from));
  }
  return arrival;
}

RC_GTEST_PROP(Arrive, NeverOvershootsAndAlwaysSettles, ()) {
  const Gait gait{.speed = between(0.2f, 20),
                  .acceleration = between(0.5f, 100),
                  .braking = between(0.5f, 100),
                  .slowing_distance = between(0, 4),
                  .floor_speed = between(0, 1)};
  const float radius = between(0.05f, 1), tick = 1.f / between(15, 240), distance = between(0.1f, 60);
  const Motion start{.position = distance * vec3(unit(between(0, 6)), 0)};
  // The slowest permitted: accelerate and brake over the full range, and walk the slowing distance at the
  // minimum speed.
  const float limit = 2.f * distance / gait.speed + gait.speed / gait.acceleration +
                      gait.speed / gait.braking +
                      4.f * std::sqrt(distance / std::min(gait.acceleration, gait.braking)) + 30.f;
  const Arrival arrival = walk_in(start, gait, radius, tick, limit);
  RC_ASSERT(arrival.seconds >= 0.f);
  RC_ASSERT(arrival.overshoot <= radius + 1e-3f);
}

RC_GTEST_PROP(Arrive, SettlesFromAnyVelocityWithoutCircling, ()) {
  const Gait gait{
      .speed = between(0.2f, 20), .acceleration = between(0.5f, 100), .braking = between(0.5f, 100)};
  const Motion start{.position = between(0.1f, 30) * vec3(unit(between(0, 6)), 0),
                     .velocity = gait.speed * unit(between(0, 6))};
  const float slowest = std::min(gait.acceleration, gait.braking);
  const float limit = 60.f / gait.speed + 6.f * gait.speed / slowest + 8.f * std::sqrt(30.f / slowest) + 30.f;
  RC_ASSERT(walk_in(start, gait, 0.1f, 1.f / between(15, 240), limit).seconds >= 0.f);
}

TEST(Arrive, SlowsDownEvenlyOverTheSlowingDistanceButNotBelowTheFloor) {
  const Gait gait{.speed = 2, .acceleration = 50, .braking = 50, .slowing_distance = 2, .floor_speed = 0.25f};
  Motion motion{.position = vec3(-10, 0, 0)};
  const float radius = 0.1f, tick = 1.f / 240.f;
  while (-motion.position.x > radius + 0.02f) {
    const float left = -motion.position.x, to_edge = left - radius;
    const Approach approach = arrive(motion, gait, {left, 0}, left, radius, gait.speed, tick);
    advance(motion, gait, {.velocity = approach.velocity, .lasts = approach.lasts}, tick);
    if (to_edge > 2.1f && left < 9.f) {
      ASSERT_NEAR(motion.speed(), 2.f, 1e-3f);
    }
    // Constant braking: the square of the speed falls linearly with the distance.
    if (to_edge < 1.9f) {
      ASSERT_NEAR(motion.speed() * motion.speed(),
                  0.25f + 3.75f * std::max(0.f, to_edge - motion.speed() * tick) / 2.f, 0.08f);
    }
    ASSERT_GE(motion.speed(), left < 9.f ? 0.499f : 0.f);
  }
}

TEST(BendSpeed, ARoundedBendStaysWithinItsCircle) {
  // The arc taken at that speed misses the corner by at most the bend's radius.
  const vec2 in(1, 0), out(0, 1);
  const float speed = bend_speed(in, out, 0.3f, 4.f), arc = speed * speed / 4.f;
  EXPECT_NEAR(arc * (std::sqrt(2.f) - 1.f), 0.3f, 1e-3f);
  EXPECT_NEAR(bend_speed(in, -in, 0.3f, 4.f), 0.f, 1e-3f);
  EXPECT_GT(bend_speed(in, in, 0.3f, 4.f), 1e6f);
}

}  // namespace
}  // namespace ambulon
