#include "ambulon/crowd/avoidance.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "ambulon/base/range.hpp"

namespace ambulon {
namespace {

constexpr int halvings = 20;       // of the range in which the least that must be given up lies
constexpr double hair = 1e-9;      // metres per second
constexpr double parallel = 1e-9;  // sine of an angle

/// What must at least be added to the relative velocity, so that it lies on the rim of those that lead to a
/// touch; and the direction out of them there.
struct Escape {
  dvec2 change{0.0}, outward{1.0, 0.0};
};

/// Out of the circle of relative velocities that lead to within `radius` at just that time.
Escape out_of_circle(dvec2 offset, dvec2 relative, double radius, double seconds) {
  const dvec2 from_middle = relative - offset / seconds;
  const double away = glm::length(from_middle);
  // From the very middle every way is as short: back, then.
  const dvec2 back = glm::length(offset) > 0 ? -glm::normalize(offset) : dvec2(-1.0, 0.0);
  const dvec2 outward = away > hair ? from_middle / away : back;
  return {(radius / seconds - away) * outward, outward};
}

/// Out of the cone of those that lead to within `radius` at any time, over the nearer of its sides; over the
/// right one from its middle.
Escape out_of_cone(dvec2 offset, dvec2 relative, double radius) {
  const double distance = glm::length(offset), sine = radius / distance, cosine = std::sqrt(1 - sine * sine);
  const dvec2 ahead = offset / distance;
  const double side = cross(ahead, relative) > 0 ? 1 : -1;  // left or right
  const dvec2 along(cosine * ahead.x - side * sine * ahead.y, side * sine * ahead.x + cosine * ahead.y);
  const dvec2 outward = side * dvec2(-along.y, along.x);
  return {-glm::dot(relative, outward) * outward, outward};
}

/// A line with the part of it that is permitted.
struct Chord {
  dvec2 at, along;
  double from, to;

  /// Leaves what lies in the half-plane; false when nothing does.
  bool cut(dvec2 on, dvec2 inward) {
    const double grows = glm::dot(along, inward), inside = glm::dot(at - on, inward);
    if (std::abs(grows) < parallel) return inside >= -hair;
    const double end = -inside / grows;
    if (grows > 0)
      from = std::max(from, end);
    else
      to = std::min(to, end);
    return from <= to;
  }
};

/// The part of a half-plane's line that lies within the circle of speeds, if any does.
std::optional<Chord> chord(dvec2 on, dvec2 inward, double speed) {
  const double off = glm::dot(on, inward), square = speed * speed - off * off;
  if (square < 0) return {};
  const double half = std::sqrt(square);
  return Chord{off * inward, {-inward.y, inward.x}, -half, half};
}

/// The same with every half-plane moved out by `slack`; nothing when it is too little.
std::optional<dvec2> nearest_with(std::span<const HalfPlane> planes, dvec2 wanted, double speed,
                                  double slack) {
  dvec2 best = wanted;
  if (const double fast = glm::length(wanted); fast > speed) best *= speed / fast;
  for (std::size_t i = 0; i < planes.size(); ++i) {
    const dvec2 inward(planes[i].inward), on = dvec2(planes[i].at) - slack * inward;
    if (glm::dot(best - on, inward) >= -hair) continue;
    // What is best now lies on this line.
    auto line = chord(on, inward, speed);
    if (!line) return {};
    for (std::size_t k = 0; k < i; ++k) {
      const dvec2 other(planes[k].inward);
      if (!line->cut(dvec2(planes[k].at) - slack * other, other)) return {};
    }
    best =
        line->at + std::clamp(glm::dot(wanted - line->at, line->along), line->from, line->to) * line->along;
  }
  return best;
}

}  // namespace

Expected<Avoidance> checked(const Avoidance& avoidance) {
  const auto out_of = [](std::string_view what, float value, Range range) {
    return problem(
        fmt::format("{} is {:g}; it must lie between {:g} and {:g}", what, value, range.least, range.most));
  };
  constexpr Range horizons{0.1f, 30.f}, sights{0.5f, 50.f}, sides{-1.f, 1.f};
  if (!horizons.holds(avoidance.horizon))
    return out_of("the horizon of avoidance", avoidance.horizon, horizons);
  if (!sights.holds(avoidance.sight)) return out_of("the sight of avoidance", avoidance.sight, sights);
  if (!sides.holds(avoidance.side)) return out_of("the side of avoidance", avoidance.side, sides);
  return avoidance;
}

HalfPlane keep_clear_of(const Neighbour& neighbour, vec2 velocity, float radius, float horizon, float share,
                        float recovery) {
  const dvec2 offset(neighbour.offset), relative = dvec2(velocity) - dvec2(neighbour.velocity);
  const double near = static_cast<double>(radius) + static_cast<double>(neighbour.radius);
  const dvec2 from_middle = relative - offset / static_cast<double>(horizon);
  // The rim is that of the circle where it bulges out of the cone: on the side towards standing still.
  const double towards = glm::dot(from_middle, offset);
  Escape escape;
  if (glm::dot(offset, offset) <= near * near)
    escape = out_of_circle(offset, relative, near, recovery);
  else if (towards < 0 && towards * towards > near * near * glm::dot(from_middle, from_middle))
    escape = out_of_circle(offset, relative, near, horizon);
  else
    escape = out_of_cone(offset, relative, near);
  return {velocity + share * vec2(escape.change), vec2(escape.outward)};
}

vec2 nearest_permitted(std::span<const HalfPlane> planes, vec2 wanted, float speed) {
  if (const auto best = nearest_with(planes, wanted, speed, 0)) return *best;
  double enough = 0, little = 0;  // standing still goes against none of them by more than this
  for (const HalfPlane& plane : planes)
    enough = std::max(enough, glm::dot(dvec2(plane.at), dvec2(plane.inward)) + hair);
  for (int i = 0; i < halvings; ++i) {
    const double half = 0.5 * (little + enough);
    (nearest_with(planes, wanted, speed, half) ? enough : little) = half;
  }
  return nearest_with(planes, wanted, speed, enough).value_or(dvec2(0.0));
}

}  // namespace ambulon
