#include "ground/bottleneck.hpp"

#include <algorithm>
#include <limits>

#include "base/geometry.hpp"

namespace ambulon {

bool Bottleneck::sound() const { return glm::length(left) + glm::length(right) <= 1e6f && left != right; }
namespace {

constexpr float step = 0.25f;      // metres between samples
constexpr float furthest = 1e5f;   // metres
constexpr float narrower = 0.05f;  // metres: smaller differences count as equal

}  // namespace

std::optional<BottleneckAhead> bottleneck_ahead(const Ground& ground, const Body& body, vec3 position,
                                                std::span<const vec3> bends, float within, float width) {
  std::optional<BottleneckAhead> found;
  within = std::min(within, furthest);
  float min = width;
  float gone = 0.f;  // metres, to the start of the leg
  float next = step;
  vec3 from = position;
  for (const vec3 bend : bends) {
    const float leg = flat_distance(from, bend);
    const vec2 across = leg > 0.f ? vec2(from.y - bend.y, bend.x - from.x) / leg : vec2(0.f);
    for (; next <= gone + leg && next <= within; next += step) {
      const Spot middle =
          ground
              .snap(from + (next - gone) / leg * (bend - from), std::numeric_limits<float>::infinity(), body)
              .spot;
      const Stretch left = ground.straight(middle, width * across);
      if (left.free) continue;
      const Stretch right = ground.straight(middle, -width * across);
      const float wide = left.metres + right.metres;
      if (right.free || wide > min + (found ? narrower : 0.f)) continue;
      min = std::min(min, wide);
      found = {{.middle = middle, .left = left.metres * across, .right = -right.metres * across}, next};
    }
    if ((gone += leg) >= within) break;
    from = bend;
  }
  return found;
}

}  // namespace ambulon
