#include "motion/arc.hpp"

#include <algorithm>
#include <cmath>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float gravity = 9.81f;       // metres per second squared
constexpr float room = 0.05f;          // metres between the feet and the obstacle
constexpr float fastest_leap = 3.f;    // metres per second, for slower gaits
constexpr float climbing_part = 0.5f;  // of the speed of the gait
constexpr float shortest = 0.05f;      // seconds
constexpr float slowest = 0.1f;        // metres per second

Arc straight(vec3 from, vec3 to, float speed, Stance stance) {
  const float seconds = glm::distance(from, to) / std::max(speed, slowest);
  return {.from = from, .to = to, .seconds = std::max(shortest, seconds), .stance = stance};
}

}  // namespace

Arc Arc::jump(vec3 from, vec3 to, float over, const Gait& gait) {
  const float time = flat_distance(from, to) / std::max(gait.speed, fastest_leap);
  // Seconds to rise to a height, and seconds of the whole jump.
  const auto up = [&](float top) { return std::sqrt(2.f * (top - from.z) / gravity); };
  const auto seconds = [&](float top) { return up(top) + std::sqrt(2.f * (top - to.z) / gravity); };
  float top = std::max({over, from.z, to.z}) + room;
  if (seconds(top) < time) {
    // A slow leap takes as long as its length needs. Bisection finds the height that takes this long.
    float low = top, high = top + gravity * time * time;
    for (int i = 0; i < 24; ++i) (seconds(0.5f * (low + high)) < time ? low : high) = 0.5f * (low + high);
    top = high;
  }
  return {.from = from,
          .to = to,
          .seconds = std::max(shortest, seconds(top)),
          .rise = gravity * up(top),
          .stance = to.z < from.z && over <= from.z + room ? Stance::dropping : Stance::jumping,
          .falls = true};
}

Arc Arc::through(vec3 from, vec3 to, const Gait& gait) {
  return straight(from, to, gait.speed, Stance::walking);
}

Arc Arc::climb(vec3 from, vec3 to, const Gait& gait) {
  return straight(from, to, climbing_part * gait.speed, Stance::climbing);
}

vec3 Arc::at(float time) const {
  if (time >= seconds) return to;
  vec3 place = from + time / seconds * (to - from);
  if (falls) place.z = from.z + time * (rise - 0.5f * gravity * time);
  return place;
}

}  // namespace ambulon
