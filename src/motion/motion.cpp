#include "ambulon/motion/motion.hpp"

#include <algorithm>
#include <cmath>

#include "base/circle.hpp"
#include "base/geometry.hpp"
#include "motion/reversing.hpp"

namespace ambulon {

float Motion::speed() const { return glm::length(velocity); }
namespace {

constexpr float standing = 1e-3f;  // metres per second: slower counts as standing
constexpr float slow = 0.02f;      // metres per second: slower NPCs face where they want to go

/// The angles to the wanted direction above which an NPC turns on the spot, as cosines, and the angles that
/// it turns down to. A gait that turns first does so at bends, too.
constexpr float cosine_first = 0.99939f /* of 2 degrees */, cosine_any = 0.69466f /* of 46 */,
                cosine_walking = 0.64279f /* of 50 */;
constexpr float turned_first = radians(1.f), turned_any = radians(45.f);

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

/// Returns the seconds for which the NPC turns on the spot before it moves on along `forward`.
float seconds_on_the_spot(const Motion& motion, const Gait& gait, const Intent& intent, vec2 forward) {
  if (forward == vec2(0.f)) return 0.f;  // a very small velocity has no direction
  const bool moving = motion.speed() > standing;
  if (!gait.turn_first && (moving || intent.facing != vec2(0.f))) return 0.f;
  const float limit = moving ? cosine_walking : gait.turn_first ? cosine_first : cosine_any;
  if (glm::dot(motion.facing, forward) >= limit) return 0.f;
  const float there = gait.turn_first ? turned_first : turned_any;
  return (std::abs(angle_between(motion.facing, forward)) - there) / gait.turn_rate;
}

}  // namespace

float advance(Motion& motion, const Gait& gait, const Intent& intent, float seconds) {
  if (intent.direct) return move_directly(motion, intent, std::min(seconds, intent.lasts));
  float used = std::min(seconds, intent.lasts);
  vec2 wanted = intent.velocity;
  const vec2 forward = direction(wanted);

  const bool reverses = is_reversing(motion, intent);
  const float on_the_spot = reverses ? 0.f : seconds_on_the_spot(motion, gait, intent, forward);
  if (reverses || on_the_spot > 0.f) {
    wanted = vec2(0.f);
    used = std::min(used, reverses ? motion.speed() / gait.braking : on_the_spot);
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
  if (reverses) return used;  // its facing stays until it stands
  const bool travels = wanted != vec2(0.f) && motion.speed() > std::min(slow, 0.5f * gait.speed);
  const vec2 travel = travels ? direction(motion.velocity) : forward;
  const vec2 look = intent.facing != vec2(0.f) ? intent.facing : travel;
  if (look != vec2(0.f))
    motion.facing = turned(motion.facing, look, std::min(gait.turn_rate, intent.turn_rate) * used);
  return used;
}

}  // namespace ambulon
