#include "ambulon/ground/open.hpp"

#include <algorithm>
#include <cmath>

#include <glm/common.hpp>

#include "ambulon/base/angle.hpp"

#include "base/disc.hpp"
#include "base/geometry.hpp"
#include "ground/arguments.hpp"

namespace ambulon {

OpenGround::OpenGround(vec2 corner, vec2 opposite)
    : min_(glm::clamp(glm::min(corner, opposite), vec2(-extent), vec2(extent))),
      max_(glm::clamp(glm::max(corner, opposite), vec2(-extent), vec2(extent))) {}

Snap OpenGround::snap(vec3 point, float reach, const Body&) const {
  if (!finite(point)) return {};
  const vec2 nearest = glm::clamp(flat(point), min_, max_);
  const float off = glm::length(nearest - flat(point));
  return {.spot = {.position = lift(nearest)}, .off = off, .found = true, .within = off <= reach};
}

void OpenGround::route(const Spot& from, const Spot& to, Route& route) const {
  route.clear();
  route.bends.push_back(from.position);
  route.bends.push_back(to.position);
  route.length_xy = glm::length(to.position - from.position);
  route.complete = true;
}

bool OpenGround::sight(const Spot&, const Spot&) const { return true; }

Stretch OpenGround::straight(const Spot& from, vec2 way) const {
  way = usable_way(way);
  const vec2 start = flat(from.position);
  float part = 1.f;
  vec2 inward(0.f);
  for (int axis = 0; axis < 2; ++axis) {
    if (way[axis] == 0.f) continue;
    const float edge = way[axis] > 0.f ? max_[axis] : min_[axis];
    const float here = std::max(0.f, (edge - start[axis]) / way[axis]);
    if (here >= part) continue;
    part = here;
    inward = vec2(0.f);
    inward[axis] = way[axis] > 0.f ? -1.f : 1.f;
  }
  const vec2 end = glm::clamp(start + part * way, min_, max_);
  return {.end = {.position = lift(end)},
          .metres = part * glm::length(way),
          .free = part >= 1.f,
          .inward = inward};
}

Clearance OpenGround::clearance(const Spot& spot, float max) const {
  const vec2 at = flat(spot.position), to_edge = glm::min(at - min_, max_ - at);
  return {.metres = std::clamp(std::min(to_edge.x, to_edge.y), 0.f, usable_metres(max)), .level = true};
}

Spot OpenGround::random_spot(Random& random, const Spot& around, float radius) const {
  radius = usable_metres(radius);
  // Rejection sampling in the circle. If almost none of it is on the ground, the part of its bounding square
  // that is on the ground is used.
  const vec2 centre = flat(around.position);
  for (int attempt = 0; attempt < 32; ++attempt) {
    const vec2 spot = centre + point_in_disc(random, radius);
    if (spot == glm::clamp(spot, min_, max_)) return {.position = lift(spot)};
  }
  const vec2 low = glm::max(min_, centre - radius), high = glm::min(max_, centre + radius);
  const float up = random.fraction(), across = random.fraction();
  const vec2 parts(across, up);
  return snap(lift(glm::mix(low, high, parts)), 0.f).spot;
}

Snap OpenGround::nearest_reachable(const Spot&, vec3 goal) const { return snap(goal, 0.f); }

float OpenGround::distance(const Spot& from, const Spot& to) const {
  return glm::length(to.position - from.position);
}

}  // namespace ambulon
