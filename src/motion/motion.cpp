#include "ambulon/motion/motion.hpp"

#include <algorithm>
#include <cmath>

namespace ambulon {
namespace {

constexpr float standing = 1e-3f;  // metres per second: slower than this is not moving

/// How far a gait that turns first may be off its direction: little when it sets off, more at the
/// bends of a way it is already walking. As cosines, and what it then turns to.
constexpr float cosine_standing = 0.99939f /* of 2 degrees */, cosine_walking = 0.64279f /* of 50 */;
constexpr float turned_there = radians(1.f);

vec2 limited(vec2 change, float most) {
  const float length = glm::length(change);
  return length <= most ? change : change * (most / length);
}

/// The part of the way `from` to `from + way`, from 0 to 1, at which it first crosses into the
/// circle; 1 when it does not, or begins inside.
float first_crossing(vec2 from, vec2 way, vec2 centre, float radius) {
  const vec2 offset = from - centre;
  const float a = glm::dot(way, way), b = glm::dot(offset, way), c = glm::dot(offset, offset) - radius * radius;
  if (c <= 0.f || b >= 0.f || a == 0.f) return 1.f;
  const float inside = b * b - a * c;
  return inside <= 0.f ? 1.f : std::min(1.f, c / (-b + std::sqrt(inside)));
}

/// Brakes to a stand; returns the way gone in `seconds`.
vec2 brake(Motion& motion, float braking, float seconds) {
  const float speed = motion.speed();
  const float stopping = speed / braking;
  if (stopping <= seconds) {
    const vec2 way = 0.5f * stopping * motion.velocity;
    motion.velocity = vec2(0.f);
    return way;
  }
  const vec2 before = motion.velocity;
  motion.velocity *= 1.f - seconds / stopping;
  return 0.5f * seconds * (before + motion.velocity);
}

/// Changes speed evenly towards the wanted velocity; returns the way gone in `seconds`.
vec2 accelerate(Motion& motion, const Gait& gait, vec2 wanted, float seconds) {
  const vec2 before = motion.velocity;
  const vec2 change = wanted - before;
  const float rate = glm::dot(change, before) < 0.f ? gait.braking : gait.acceleration;
  motion.velocity += limited(change, rate * seconds);
  return 0.5f * seconds * (before + motion.velocity);
}

}  // namespace

float advance(Motion& motion, const Gait& gait, const Intent& intent, float seconds) {
  float used = std::min(seconds, intent.lasts);
  vec2 wanted = intent.velocity;
  const vec2 forward = direction(wanted);
  const vec2 look = intent.facing != vec2(0.f) ? intent.facing : forward;

  if (gait.turn_first && wanted != vec2(0.f)) {
    const bool moving = motion.speed() > standing;
    if (glm::dot(motion.facing, forward) < (moving ? cosine_walking : cosine_standing)) {
      wanted = vec2(0.f);
      used = std::min(used, (std::abs(angle_between(motion.facing, forward)) - turned_there) / gait.turn_rate);
    }
  }

  const vec2 before = motion.velocity;
  vec2 way = wanted == vec2(0.f) ? brake(motion, gait.braking, used) : accelerate(motion, gait, wanted, used);
  if (intent.edge_radius >= 0.f) {
    const float part = first_crossing(flat(motion.position), way, intent.edge_centre, intent.edge_radius);
    if (part < 1.f) {
      used *= part;
      way *= part;
      motion.velocity = glm::mix(before, motion.velocity, part);
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

void take_stance(Motion& motion, const Gait& gait, float run_speed, float metres, bool turned) {
  const float cycles = motion.stride_phase + metres / gait.stride;
  motion.stride_phase = cycles - std::floor(cycles);
  const float speed = motion.speed();
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
  }
  return "";
}

}  // namespace ambulon
