#include "ambulon/motion/steering.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ambulon {

float slowing_speed(float distance, float speed_now, float end_speed, float slowing, float seconds) {
  // The speed v at the end of the step leaves just enough way to slow down from v to the end speed:
  //   (speed_now + v) / 2 * seconds + (v^2 - end_speed^2) / (2 slowing) = distance
  const float half = 0.5f * seconds;
  const float way = 2.f * slowing * distance + end_speed * end_speed - slowing * seconds * speed_now;
  const float root = half * half + way / (slowing * slowing);
  return root <= half * half ? 0.f : slowing * (std::sqrt(root) - half);
}

float turning_speed(vec2 velocity, vec2 target, float change) {
  // The circle tangent to the velocity that runs through the target has radius d / (2 sin angle);
  // staying on it takes speed^2 / radius. Targets behind count as straight aside: it turns there first.
  constexpr float no_limit = std::numeric_limits<float>::infinity();
  const float ahead = glm::dot(velocity, target), aside = std::abs(cross(velocity, target));
  if (aside <= 1e-4f * ahead) return no_limit;  // nearly all steps of a walk end here
  const float speed = glm::length(velocity), distance = glm::length(target);
  if (speed < 1e-4f || distance < 1e-6f) return no_limit;
  const float sine = ahead > 0.f ? aside / (speed * distance) : 1.f;
  return std::sqrt(change * distance / (2.f * sine));
}

float bend_speed(vec2 in, vec2 out, float radius, float change) {
  // An arc that leaves the bend aside by at most `radius` has radius * cos(half) / (1 - cos(half)),
  // where half is half the angle between the directions.
  const float half_cosine = std::sqrt(std::max(0.f, 0.5f * (1.f + glm::dot(in, out))));
  if (half_cosine > 0.99999f) return std::numeric_limits<float>::infinity();
  return std::sqrt(change * radius * half_cosine / (1.f - half_cosine));
}

vec2 seek(const Motion& motion, const Gait& gait, vec2 target, float speed) {
  const float change = std::min(gait.acceleration, gait.braking);
  return std::min(speed, turning_speed(motion.velocity, target, change)) * direction(target);
}

namespace {

/// Metres per second that the NPC moves towards `target`; never negative.
float closing_speed(const Motion& motion, vec2 target) {
  const float ahead = glm::dot(motion.velocity, target);
  return ahead > 0.f ? ahead / glm::length(target) : 0.f;
}

/// Slows down at the rate `slowing` so as to have come to the speed `floor` after `distance` metres.
Approach slow_down(const Motion& motion, const Gait& gait, vec2 target, float distance, float speed,
                   float floor, float slowing, float seconds) {
  // Far from the end there is nothing to slow down for yet.
  if (speed * speed <= floor * floor + 2.f * slowing * (distance - std::max(speed, motion.speed()) * seconds))
    return {.velocity = seek(motion, gait, target, speed)};
  const float now = closing_speed(motion, target);
  const float wanted = slowing_speed(distance, now, floor, slowing, seconds);
  if (wanted > floor || now <= 1.001f * floor)
    return {.velocity = seek(motion, gait, target, std::clamp(wanted, std::min(floor, speed), speed))};
  // It gets there within the step: slowed down for just as long as that takes, and asked again.
  return {.velocity = seek(motion, gait, target, std::min(floor, speed)), .lasts = (now - floor) / slowing};
}

/// A floor speed from which it can still brake to a stand inside the circle.
float floor_for(const Gait& gait, float speed, float radius) {
  return std::min(gait.floor_speed * speed, std::sqrt(gait.braking * radius));
}

}  // namespace

Approach arrive(const Motion& motion, const Gait& gait, vec2 target, float left, float radius, float speed,
                float seconds) {
  // It aims a little inside, or it would only ever come nearer to the edge.
  const float to_edge = std::max(0.f, left - 0.9f * radius);
  const float now = closing_speed(motion, target);
  const float stopping = now * now / (2.f * gait.braking);
  if (stopping >= to_edge + 0.4f * radius) return {};  // it will stand inside without help

  const float floor = floor_for(gait, speed, radius);
  const float even = gait.slowing_distance > 0.f
                         ? (speed * speed - floor * floor) / (2.f * gait.slowing_distance)
                         : gait.braking;
  return slow_down(motion, gait, target, to_edge, speed, floor, std::clamp(even, 1e-3f, gait.braking),
                   seconds);
}

Approach pass_through(const Motion& motion, const Gait& gait, vec2 target, float left, float radius,
                      float speed, float passing_speed, float seconds) {
  if (passing_speed >= speed) return {.velocity = seek(motion, gait, target, speed)};
  const float floor = std::max(passing_speed, floor_for(gait, speed, radius));
  return slow_down(motion, gait, target, std::max(0.f, left - radius), speed, floor, gait.braking, seconds);
}

}  // namespace ambulon
