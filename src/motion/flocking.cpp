#include "ambulon/motion/flocking.hpp"

#include <algorithm>
#include <cmath>

#include "ambulon/motion/steering.hpp"

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float wide_berth = 1.3f;  // of the sum of both radii: no reaction to bodies that pass this far off

}  // namespace

Wish separation(const Motion& motion, float radius, std::span<const Neighbour> neighbours, float distance,
                float speed) {
  vec2 away(0.f);
  float nearest = 0.f;  // how close the nearest one is: 0 at the limit distance, 1 at contact
  for (const Neighbour& other : neighbours) {
    const float gap = glm::length(other.offset) - other.radius - radius;
    const float closeness = std::clamp(1.f - gap / distance, 0.f, 1.f);
    // Two NPCs in one place have no direction to each other: use a fixed one.
    away += closeness * direction(-other.offset, -motion.facing);
    nearest = std::max(nearest, closeness);
  }
  return {.velocity = speed * direction(away), .urgency = away == vec2(0.f) ? 0.f : nearest};
}

Wish alignment(std::span<const Neighbour> neighbours, float speed) {
  if (neighbours.empty()) return {};
  vec2 mean(0.f);
  for (const Neighbour& other : neighbours) mean += other.velocity;
  mean /= static_cast<float>(neighbours.size());
  const float length = glm::length(mean);
  if (length > speed) mean *= speed / length;
  return {.velocity = mean, .urgency = 1.f};
}

Wish cohesion(std::span<const Neighbour> neighbours, float distance, float speed) {
  if (neighbours.empty()) return {};
  vec2 mean(0.f);
  for (const Neighbour& other : neighbours) mean += other.offset;
  mean /= static_cast<float>(neighbours.size());
  return {.velocity = speed * direction(mean), .urgency = std::min(1.f, glm::length(mean) / distance)};
}

Wish avoid_obstacles(const Motion& motion, float radius, std::span<const Neighbour> obstacles, float seconds,
                     float speed) {
  Wish wish;
  for (const Neighbour& other : obstacles) {
    // In the NPC's frame the other one moves past. Find the moment of closest approach.
    const vec2 velocity = motion.velocity - other.velocity;
    const float square = glm::dot(velocity, velocity), ahead = glm::dot(other.offset, velocity);
    if (square < 1e-6f || ahead <= 0.f) continue;
    const float when = ahead / square, room = radius + other.radius, berth = wide_berth * room;
    const vec2 miss = other.offset - when * velocity;
    const float missed = glm::length(miss);
    if (missed >= berth) continue;
    const float touches = when - std::sqrt((berth * berth - missed * missed) / square);
    if (touches > seconds) continue;
    // The urgency falls with the expected miss distance. Without this, the NPC would waver between evading
    // and going on.
    const float closeness = std::min(1.f, (berth - missed) / (berth - room));
    const float urgency = closeness * (1.f - std::max(0.f, touches) / seconds);
    if (urgency <= wish.urgency) continue;
    // Head on, the NPC keeps to its right, as avoidance does.
    const vec2 forward = velocity / std::sqrt(square), left(-forward.y, forward.x);
    const float side = cross(forward, miss) < -1e-4f * room ? 1.f : -1.f;
    wish = {.velocity = speed * direction(forward + side * left), .urgency = urgency};
  }
  return wish;
}

Wish avoid_edges(const Motion& motion, std::span<const Feeler> feelers, float speed) {
  Wish wish;
  for (const Feeler& feeler : feelers) {
    const float urgency = 1.f - feeler.free;
    if (feeler.inward == vec2(0.f) || urgency <= wish.urgency) continue;
    const vec2 forward = direction(motion.velocity, motion.facing);
    const vec2 along = forward - glm::dot(forward, feeler.inward) * feeler.inward;
    wish = {.velocity = speed * direction(along + urgency * feeler.inward, feeler.inward),
            .urgency = urgency};
  }
  return wish;
}

vec2 queue(const Motion& motion, const Gait& gait, float radius, std::span<const Neighbour> neighbours,
           vec2 wanted, float gap, float seconds) {
  const vec2 forward = direction(wanted);
  float speed = glm::length(wanted);
  const float now = std::max(0.f, glm::dot(motion.velocity, forward));
  for (const Neighbour& other : neighbours) {
    const float ahead = glm::dot(other.offset, forward), room = radius + other.radius;
    if (ahead <= 0.f || std::abs(cross(forward, other.offset)) >= room) continue;
    const float theirs = std::max(0.f, glm::dot(other.velocity, forward));
    const float left = std::max(0.f, ahead - room - gap);
    speed = std::min(speed, slowing_speed(left, now, theirs, gait.braking, seconds));
  }
  return speed * forward;
}

}  // namespace ambulon
