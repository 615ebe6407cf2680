#include "errand/narrow_place.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float max_step = 0.25f;   // metres between samples, and at most a radius
constexpr float doorway = 1.f;      // metres of a narrow place in which its direction is taken
constexpr float narrower = 0.01f;   // metres: smaller differences count as equal
constexpr float alike = 0.7f;       // cosine between the directions of two lines
constexpr float sideways = 0.3f;    // cosine between an edge's normal and the line across a route
constexpr float half = 0.7071068f;  // sine and cosine of 45 degrees

/// A straight line across the ground from edge to edge.
struct Across {
  vec2 middle{0.f};    // metres
  vec2 left{0.f};      // unit vector
  float metres = 0.f;  // its length, for the centre of the body
};

/// Returns the line through `spot` along `left`, if it ends at edges on both sides within `width` metres.
std::optional<Across> line(const Ground& ground, const Spot& spot, vec2 left, float width) {
  const Stretch to_left = ground.straight(spot, width * left);
  if (to_left.free) return {};
  const Stretch to_right = ground.straight(spot, (to_left.metres - width) * left);
  if (to_right.free) return {};
  // Perpendicular to both edges, where they are the sides of a doorway.
  const vec2 facing = to_right.inward - to_left.inward;
  const Across found{flat(spot.position) + 0.5f * (to_left.metres - to_right.metres) * left, left,
                     to_left.metres + to_right.metres};
  if (glm::dot(facing, left) < alike) return found;
  const vec2 better = direction(facing);
  const Stretch l = ground.straight(spot, width * better), r = ground.straight(spot, -width * better);
  if (l.free || r.free || l.metres + r.metres >= found.metres) return found;
  return Across{flat(spot.position) + 0.5f * (l.metres - r.metres) * better, better, l.metres + r.metres};
}

/// Returns the shortest of the lines through a spot across and at 45 degrees to `ahead`, and of those
/// perpendicular to the edges that they meet, since a route may pass a doorway at an angle.
std::optional<Across> shortest(const Ground& ground, const Spot& spot, vec2 ahead, float width) {
  const vec2 left(-ahead.y, ahead.x);
  std::optional<Across> found;
  const auto look = [&](vec2 way) {
    if (const auto other = line(ground, spot, way, found ? found->metres : width)) found = other;
  };
  for (const vec2 way : {left, half * (left + ahead), half * (left - ahead)}) {
    look(way);
    for (const float side : {1.f, -1.f}) {
      const Stretch stretch = ground.straight(spot, side * width * way);
      const float across = stretch.free ? 0.f : glm::dot(stretch.inward, left);
      if (std::abs(across) > sideways) look(across > 0.f ? stretch.inward : -stretch.inward);
    }
  }
  return found;
}

}  // namespace

std::optional<NarrowPlace> narrow_place_ahead(const Ground& ground, const Body& body, vec3 position,
                                              std::span<const vec3> bends, float within, float width) {
  std::optional<NarrowPlace> found;
  const float max = width - 2.f * body.radius;  // for the centre of the body
  if (max <= 0.f) return {};
  const float step = std::min(max_step, body.radius);
  // Metres along the route: to the start of the leg, to the next sample, and to where the direction is known.
  float gone = 0.f, next = step, known = 0.f;
  vec3 from = position;
  for (const vec3 bend : bends) {
    const float leg = flat_distance(from, bend);
    const vec2 ahead = direction(flat(bend - from));
    while (next <= gone + leg && next <= within) {
      const float here = next;
      const vec3 at = from + (next - gone) / leg * (bend - from);
      const Spot spot = ground.snap(at, std::numeric_limits<float>::infinity(), body).spot;
      // Where no edge is near, no place is narrow.
      const float open = ground.clearance(spot, within + max).metres - max;
      next += std::max(step, open);
      const auto across = open < 0.f ? shortest(ground, spot, ahead, max) : std::nullopt;
      if (!across) {
        if (found) return found;
        continue;
      }
      if (here == step) return {};
      if (!found) {
        found = {.entry = across->middle, .width = std::numeric_limits<float>::infinity()};
        known = here + doorway;
      }
      const float wide = across->metres + 2.f * body.radius;
      if (here <= known && wide < found->width - narrower)  // at its ends, the edges may be round
        found->through = {across->left.y, -across->left.x};
      found->exit = across->middle;
      found->width = std::min(found->width, wide);
    }
    if ((gone += leg) >= within) break;
    from = bend;
  }
  return found;
}

}  // namespace ambulon
