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
constexpr float sideways = 0.3f;    // cosine between an edge's normal and the line across a route
constexpr float half = 0.7071068f;  // sine and cosine of 45 degrees

/// A straight line across the ground from edge to edge.
struct Across {
  vec3 middle{0.f};                                       // metres
  vec2 left{0.f};                                         // unit vector
  float metres = std::numeric_limits<float>::infinity();  // its length, for the centre of the body
};

/// The shortest line through a spot, of at most `width` metres.
class Shortest {
 public:
  Shortest(const Ground& ground, const Spot& spot, float width)
      : ground_(ground), spot_(spot), width_(width) {}

  /// Considers the line along `left`. Returns both halves.
  std::array<Stretch, 2> look(vec2 left) {
    const Stretch to_left = ground_.straight(spot_, width_ * left),
                  to_right = ground_.straight(spot_, -width_ * left);
    const float metres = to_left.metres + to_right.metres;
    if (!to_left.free && !to_right.free && metres <= width_ && metres < found_.metres)
      found_ = {spot_.position + lift(0.5f * (to_left.metres - to_right.metres) * left), left, metres};
    return {to_left, to_right};
  }
  /// Considers the lines across `ahead`, at 45 degrees to it, and perpendicular to the edges that these meet,
  /// since a route may pass a doorway at an angle.
  std::optional<Across> across(vec2 ahead) {
    const vec2 left(-ahead.y, ahead.x);
    for (const vec2 way : {left, half * (left + ahead), half * (left - ahead)})
      for (const Stretch& stretch : look(way)) {
        const float cosine = stretch.free ? 0.f : glm::dot(stretch.inward, left);
        if (std::abs(cosine) > sideways) (void)look(cosine > 0.f ? stretch.inward : -stretch.inward);
      }
    return std::isfinite(found_.metres) ? std::optional(found_) : std::nullopt;
  }

 private:
  const Ground& ground_;
  const Spot& spot_;
  float width_;
  Across found_;
};

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
      const vec3 at = from + (here - gone) / leg * (bend - from);
      const Spot spot = ground.snap(at, std::numeric_limits<float>::infinity(), body).spot;
      // Where no edge is near, no place is narrow.
      const float open = ground.clearance(spot, within + max).metres - max;
      next += std::max(step, open);
      const auto across = open < 0.f ? Shortest(ground, spot, max).across(ahead) : std::nullopt;
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
    gone += leg;
    if (gone >= within) break;
    from = bend;
  }
  return found;
}

}  // namespace ambulon
