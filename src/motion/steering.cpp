#include "ambulon/motion/steering.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/geometry.hpp"

namespace ambulon {

float slowing_speed(float distance, float speed_now, float end_speed, float slowing, float seconds) {
  // The speed v at the end of the step leaves exactly the distance that it takes to slow down from v to the
  // end speed:
  //   (speed_now + v) / 2 * seconds + (v^2 - end_speed^2) / (2 slowing) = distance
  const float half = 0.5f * seconds;
  const float way = 2.f * slowing * distance + end_speed * end_speed - slowing * seconds * speed_now;
  const float root = half * half + way / (slowing * slowing);
  return root <= half * half ? 0.f : slowing * (std::sqrt(root) - half);
}

float turning_speed(vec2 velocity, vec2 target, float change) {
  // The circle that is tangent to the velocity and runs through the target has radius d / (2 sin angle).
  // Staying on it takes the acceleration speed^2 / radius. For targets behind, the angle counts as 90
  // degrees: the NPC turns first.
  constexpr float no_limit = std::numeric_limits<float>::infinity();
  const float ahead = glm::dot(velocity, target), aside = std::abs(cross(velocity, target));
  if (aside <= 1e-4f * ahead) return no_limit;  // the case of nearly all steps
  const float speed = glm::length(velocity), distance = glm::length(target);
  if (speed < 1e-4f || distance < 1e-6f) return no_limit;
  const float sine = ahead > 0.f ? aside / (speed * distance) : 1.f;
  return std::sqrt(change * distance / (2.f * sine));
}

float bend_speed(vec2 in, vec2 out, float radius, float change) {
  // An arc whose distance from the bend is at most `radius` has the radius r * cos(half) / (1 - cos(half)),
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

/// Returns the speed towards `target`, metres per second, >= 0.
float closing_speed(const Motion& motion, vec2 target) {
  const float ahead = glm::dot(motion.velocity, target);
  return ahead > 0.f ? ahead / glm::length(target) : 0.f;
}

/// Returns the velocity that slows down at the rate `slowing`, so that the speed is `floor` after `distance`
/// metres.
Approach slow_down(const Motion& motion, const Gait& gait, vec2 target, float distance, float speed,
                   float floor, float slowing, float seconds) {
  // Fast path: too far from the end to slow down.
  if (speed * speed <= floor * floor + 2.f * slowing * (distance - std::max(speed, motion.speed()) * seconds))
    return {.velocity = seek(motion, gait, target, speed)};
  const float now = closing_speed(motion, target);
  const float wanted = slowing_speed(distance, now, floor, slowing, seconds);
  if (wanted > floor || now <= 1.001f * floor)
    return {.velocity = seek(motion, gait, target, std::clamp(wanted, std::min(floor, speed), speed))};
  // The end lies within the step: slow down until then, and let the errand decide again.
  return {.velocity = seek(motion, gait, target, std::min(floor, speed)), .lasts = (now - floor) / slowing};
}

/// Returns a floor speed from which the NPC can still stop inside the circle.
float floor_for(const Gait& gait, float speed, float radius) {
  return std::min(gait.floor_speed * speed, std::sqrt(gait.braking * radius));
}

}  // namespace

Approach arrive(const Motion& motion, const Gait& gait, vec2 target, float left, float radius, float speed,
                float seconds) {
  // Aims at 0.9 of the radius. At the full radius the NPC would approach the edge and never cross it.
  const float to_edge = std::max(0.f, left - 0.9f * radius);
  const float now = closing_speed(motion, target);
  const float stopping = now * now / (2.f * gait.braking);
  if (stopping >= to_edge + 0.4f * radius) return {.stop = stopping};  // it stops inside without slowing down

  const float floor = floor_for(gait, speed, radius);
  const float even = gait.slowing_distance > 0.f
                         ? (speed * speed - floor * floor) / (2.f * gait.slowing_distance)
                         : gait.braking;
  Approach approach =
      slow_down(motion, gait, target, to_edge, speed, floor, std::clamp(even, 1e-3f, gait.braking), seconds);
  if (to_edge <= gait.slowing_distance) approach.stop = to_edge + floor * floor / (2.f * gait.braking);
  return approach;
}

Approach pass_through(const Motion& motion, const Gait& gait, vec2 target, float left, float radius,
                      float speed, float passing_speed, float seconds) {
  if (passing_speed >= speed) return {.velocity = seek(motion, gait, target, speed)};
  const float floor = std::max(passing_speed, floor_for(gait, speed, radius));
  return slow_down(motion, gait, target, std::max(0.f, left - radius), speed, floor, gait.braking, seconds);
}

vec2 flee(const Motion& motion, const Gait& gait, vec2 threat, float speed) {
  return seek(motion, gait, direction(-threat, motion.facing), speed);
}

vec2 meeting_point(vec2 target, vec2 target_velocity, float speed, float horizon) {
  // Solves |target + t velocity| = speed t for the smallest t > 0; b is half of the usual linear coefficient.
  const float a = speed * speed - glm::dot(target_velocity, target_velocity);
  const float b = glm::dot(target, target_velocity), c = glm::dot(target, target);
  const float root = b * b + a * c;
  float when = horizon;
  if (std::abs(a) < 1e-6f) {
    if (b < -1e-9f) when = -c / (2.f * b);
  } else if (root >= 0.f) {
    // If the target is faster, both solutions may be positive. The smaller one counts.
    const float first = (b - std::sqrt(root)) / a, second = (b + std::sqrt(root)) / a;
    const float min = std::min(first, second), max = std::max(first, second);
    if (max >= 0.f) when = min >= 0.f ? min : max;
  }
  return target + std::min(when, horizon) * target_velocity;
}

vec2 pursue(const Motion& motion, const Gait& gait, vec2 target, vec2 target_velocity, float speed,
            float horizon) {
  return seek(motion, gait, meeting_point(target, target_velocity, speed, horizon), speed);
}

vec2 evade(const Motion& motion, const Gait& gait, vec2 threat, vec2 threat_velocity, float speed,
           float horizon) {
  return flee(motion, gait, meeting_point(threat, threat_velocity, speed, horizon), speed);
}

vec2 keep_distance(const Motion& motion, const Gait& gait, vec2 target, Range band, float speed,
                   float seconds) {
  const float distance = glm::length(target);
  const vec2 towards = direction(target, motion.facing);
  const float now = glm::dot(motion.velocity, towards);
  const auto over = [&](float metres, float speed_now) {
    return std::min(speed, slowing_speed(metres, std::max(0.f, speed_now), 0.f, gait.braking, seconds));
  };
  if (distance > band.max) return over(distance - band.max, now) * towards;
  if (distance < band.min) return -over(band.min - distance, -now) * towards;
  return vec2(0.f);
}

vec2 follow_offset(const Motion& motion, const Gait& gait, vec2 slot, vec2 slot_velocity, float speed,
                   float seconds) {
  // In the frame of the slot, this is an approach to a point that stands.
  const vec2 towards = direction(slot);
  const float closing = std::max(0.f, glm::dot(motion.velocity - slot_velocity, towards));
  // A change of velocity at an angle is made in two parts, one after the other. It takes up to 1.41 times as
  // long as a straight one.
  const float slowing = 0.7f * std::min(gait.acceleration, gait.braking);
  const vec2 wanted =
      slot_velocity + slowing_speed(glm::length(slot), closing, 0.f, slowing, seconds) * towards;
  const float length = glm::length(wanted);
  return length > speed ? wanted * (speed / length) : wanted;
}

vec2 follow_path(const Motion& motion, const Gait& gait, std::span<const vec2> path, float look_ahead,
                 float speed) {
  if (path.empty()) return vec2(0.f);
  const vec2 here = flat(motion.position);
  std::size_t leg = 0;
  vec2 nearest = path[0];
  float min = std::numeric_limits<float>::infinity();
  for (std::size_t i = 0; i + 1 < path.size(); ++i) {
    const vec2 point = nearest_on(path[i], path[i + 1], here), off = point - here;
    if (glm::dot(off, off) >= min) continue;
    min = glm::dot(off, off);
    leg = i, nearest = point;
  }
  for (float left = look_ahead; leg + 1 < path.size(); ++leg) {
    const float metres = glm::length(path[leg + 1] - nearest);
    if (metres > left) {
      nearest += left / metres * (path[leg + 1] - nearest);
      break;
    }
    left -= metres;
    nearest = path[leg + 1];
  }
  return seek(motion, gait, nearest - here, speed);
}

float speed_by_distance(float distance, Range distances, Range speeds) {
  if (distance <= distances.min) return speeds.min;
  if (distance >= distances.max) return speeds.max;
  return speeds.min +
         (speeds.max - speeds.min) * (distance - distances.min) / (distances.max - distances.min);
}

float Wandering::at(double time, float max_turn, float every, Random& random) {
  constexpr float min_every = 1e-3f;  // seconds
  constexpr int max_turns = 1'000;    // turns in one step; after a long absence the earlier ones are left out
  if (!(every >= min_every)) every = min_every;
  if (!(time - began <= max_turns * static_cast<double>(every))) began = time;
  for (int turns = 0; turns < max_turns && time >= began + every; ++turns) {
    heading += turn;
    turn = random.within({-max_turn, max_turn});
    began += every;
  }
  const float part = std::max(0.f, static_cast<float>((time - began) / every));
  return heading + turn * part * part * (3.f - 2.f * part);
}

void Wandering::head(float new_heading, double time) {
  heading = new_heading;
  turn = 0.f;
  began = time;
}

Gait with_mass(Gait gait, float mass) {
  const float heavier = mass / gait.mass;
  gait.acceleration /= heavier;
  gait.braking /= heavier;
  gait.turn_rate /= heavier;
  gait.mass = mass;
  return gait;
}

}  // namespace ambulon
