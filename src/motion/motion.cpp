#include "ambulon/motion/motion.hpp"

#include <algorithm>
#include <cmath>

#include "base/circle.hpp"
#include "base/geometry.hpp"

namespace ambulon {

float Motion::speed() const { return glm::length(velocity); }
namespace {

constexpr float standing = 1e-3f;  // metres per second: slower counts as standing

/// The angle to the wanted direction within which a gait that turns first starts to move: small from a stand,
/// larger at a bend that it walks through. Cosines, and the angle that it turns down to.
constexpr float cosine_standing = 0.99939f /* of 2 degrees */, cosine_walking = 0.64279f /* of 50 */;
constexpr float turned_there = radians(1.f);

/// The displacement of a step, and the seconds in which the velocity changed evenly.
struct Gone {
  vec2 way;
  float seconds;
};

/// Brakes to a stand, for at most the time that this takes.
Gone brake(Motion& motion, float braking, float seconds) {
  const float stopping = motion.speed() / braking;
  const vec2 before = motion.velocity;
  motion.velocity *= stopping <= seconds ? 0.f : 1.f - seconds / stopping;
  const float time = std::min(stopping, seconds);
  return {0.5f * time * (before + motion.velocity), time};
}

/// Changes the velocity to `wanted` (not zero). The sideways component is braked first, so that the NPC
/// swings out of a bend as little as possible. Then the speed along the direction changes evenly.
Gone accelerate(Motion& motion, const Gait& gait, vec2 wanted, float seconds) {
  const vec2 forward = direction(wanted);
  const float along = glm::dot(motion.velocity, forward);
  vec2 aside = motion.velocity - along * forward;
  const float aside_speed = glm::length(aside);
  const float braking = std::min(seconds, aside_speed / gait.braking);  // seconds spent on it
  vec2 way(0.f);
  if (aside_speed > 0.f) {
    const vec2 before = aside;
    aside *= std::max(0.f, 1.f - gait.braking * braking / aside_speed);
    way = braking * (along * forward + 0.5f * (before + aside));
  }
  const float left = seconds - braking;
  const float change = glm::dot(wanted, forward) - along;
  // A backward speed is braked before the NPC accelerates.
  const float rate = change < 0.f || along < 0.f ? gait.braking : gait.acceleration;
  const float after = along + std::clamp(change, -rate * left, rate * left);
  motion.velocity = after * forward + aside;
  return {way + left * (0.5f * (along + after) * forward + aside), seconds};
}

float move_directly(Motion& motion, const Intent& intent, float seconds) {
  motion.velocity = intent.velocity;
  motion.position += seconds * lift(intent.velocity, intent.climb);
  if (intent.facing != vec2(0.f)) motion.facing = intent.facing;
  return seconds;
}

}  // namespace

float advance(Motion& motion, const Gait& gait, const Intent& intent, float seconds) {
  if (intent.direct) return move_directly(motion, intent, std::min(seconds, intent.lasts));
  float used = std::min(seconds, intent.lasts);
  vec2 wanted = intent.velocity;
  const vec2 forward = direction(wanted);
  const vec2 look = intent.facing != vec2(0.f) ? intent.facing : forward;

  if (gait.turn_first && forward != vec2(0.f)) {  // a very small velocity has no direction
    const bool moving = motion.speed() > standing;
    if (glm::dot(motion.facing, forward) < (moving ? cosine_walking : cosine_standing)) {
      wanted = vec2(0.f);
      const float angle = std::abs(angle_between(motion.facing, forward)) - turned_there;
      used = std::min(used, std::max(0.f, angle) / gait.turn_rate);
    }
  }

  const vec2 before = motion.velocity;
  auto [way, changing] =
      wanted == vec2(0.f) ? brake(motion, gait.braking, used) : accelerate(motion, gait, wanted, used);
  if (intent.edge_radius >= 0.f) {
    const float part = first_crossing(flat(motion.position), way, intent.edge_centre, intent.edge_radius);
    if (part < 1.f) {
      // The speed at that part of the way, and from it the time: v^2 is linear in the distance.
      const vec2 along = direction(way);
      const float from = glm::dot(before, along), to = glm::dot(motion.velocity, along);
      const float there = std::sqrt(std::max(0.f, from * from + part * (to * to - from * from)));
      used = std::min(changing, 2.f * part * glm::length(way) / std::max(1e-6f, from + there));
      way *= part;
      motion.velocity = glm::mix(before, motion.velocity, changing > 0.f ? used / changing : 1.f);
    }
  }
  motion.position += lift(way);
  if (look != vec2(0.f)) motion.facing = turned(motion.facing, look, gait.turn_rate * used);
  return used;
}

float run_speed(const Body& body) {
  constexpr float gravity = 9.81f, leg_part_of_height = 0.53f, froude = 0.5f;
  return std::sqrt(froude * gravity * leg_part_of_height * body.height);
}

void take_stance(Motion& motion, const Gait& gait, float run_speed, float metres, float speed, bool turned) {
  const float cycles = motion.stride_phase + metres / gait.stride;
  motion.stride_phase = cycles < 1.f ? cycles : cycles - std::floor(cycles);
  if (speed > run_speed)
    motion.stance = Stance::running;
  else if (speed > 0.02f)
    motion.stance = Stance::walking;
  else
    motion.stance = turned ? Stance::turning : Stance::idle;
}

std::string_view name(Stance stance) {
  switch (stance) {
    case Stance::idle:
      return "idle";
    case Stance::turning:
      return "turning";
    case Stance::walking:
      return "walking";
    case Stance::running:
      return "running";
    case Stance::jumping:
      return "jumping";
    case Stance::dropping:
      return "dropping";
    case Stance::climbing:
      return "climbing";
  }
  return "";
}

}  // namespace ambulon
