#include "ambulon/crowd/avoidance.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "ambulon/base/range.hpp"

namespace ambulon {
namespace {

constexpr double far_off = 1e4;    // times the speed; the nearest to there is the furthest that way
constexpr float tiny = 1e-6f;      // metres per second
constexpr double hair = 1e-9;      // metres per second
constexpr double parallel = 1e-9;  // sine of an angle

/// What must at least be added to the relative velocity, so that it lies on the rim of those that lead to a
/// touch; and the direction out of them there.
struct Escape {
  float change = 0.f;  // along `outward`
  vec2 outward{1.f, 0.f};
};

/// Out of the circle of relative velocities that lead to within `radius` at just that time.
Escape out_of_circle(vec2 offset, vec2 from_middle, float radius, float seconds) {
  const float away = glm::length(from_middle);
  // From the very middle every way is as short: back, then.
  const vec2 outward = away > tiny ? from_middle / away : -direction(offset, vec2(1.f, 0.f));
  return {radius / seconds - away, outward};
}

/// Out of the cone of those that lead to within `radius` at any time, over the nearer of its sides; over the
/// right one from its middle.
Escape out_of_cone(vec2 offset, float square, vec2 relative, float radius) {
  const float distance = std::sqrt(square), tangent = std::sqrt(square - radius * radius);
  const float side = cross(offset, relative) > 0.f ? 1.f : -1.f;  // left or right
  // The offset turned by the angle between it and the cone's side, to the side, and then outward.
  const vec2 along = (tangent * offset + side * radius * vec2(-offset.y, offset.x)) / (distance * distance);
  const vec2 outward = side * vec2(-along.y, along.x);
  return {-glm::dot(relative, outward), outward};
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

/// A half-plane in double, for going through many of them.
struct Bound {
  dvec2 at, inward;
};
Bound bound(const HalfPlane& plane) { return {dvec2(plane.at), dvec2(plane.inward)}; }

struct Nearest {
  dvec2 best;
  std::size_t heeded =
      0;  // bounds that it keeps to, from the first on; fewer than all when no velocity keeps to all
};

/// The nearest to `wanted` within `count` bounds, which `bound_of(i)` gives, and the circle of speeds.
template <class BoundOf>
Nearest nearest_within(std::size_t count, BoundOf&& bound_of, dvec2 wanted, double speed) {
  dvec2 best = wanted;
  if (const double fast = glm::length(wanted); fast > speed) best *= speed / fast;
  for (std::size_t i = 0; i < count; ++i) {
    const Bound here = bound_of(i);
    if (glm::dot(best - here.at, here.inward) >= -hair) continue;
    // What is best now lies on this line.
    auto line = chord(here.at, here.inward, speed);
    if (!line) return {best, i};
    for (std::size_t k = 0; k < i; ++k) {
      const Bound before = bound_of(k);
      if (!line->cut(before.at, before.inward)) return {best, i};
    }
    best =
        line->at + std::clamp(glm::dot(wanted - line->at, line->along), line->from, line->to) * line->along;
  }
  return {best, count};
}

/// The velocities that go against `other` no more than against `most`: a half-plane, too.
Bound no_worse(const Bound& other, const Bound& most) {
  const dvec2 across = other.inward - most.inward;
  const double size = glm::length(across);
  if (size < parallel) return {dvec2(0.0), dvec2(0.0)};  // all of them, since `most` was found the worse one
  const double off = (glm::dot(other.inward, other.at) - glm::dot(most.inward, most.at)) / size;
  return {off / size * across, across / size};
}

/// The velocity that goes against the planes as little as possible, in the one it goes against most; `so_far`
/// keeps to the first of them.
dvec2 least_against(std::span<const HalfPlane> planes, Nearest so_far, double speed) {
  dvec2 best = so_far.best;
  double against = 0;  // metres per second, the planes so far at the most
  for (std::size_t i = so_far.heeded; i < planes.size(); ++i) {
    const Bound most = bound(planes[i]);
    if (glm::dot(most.at - best, most.inward) <= against + hair) continue;
    // It goes against this one most, now, and as little as those before it allow: as far inward as possible.
    const auto before = [&](std::size_t k) { return no_worse(bound(planes[k]), most); };
    best = nearest_within(i, before, far_off * speed * most.inward, speed).best;
    against = glm::dot(most.at - best, most.inward);
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
  const vec2 offset = neighbour.offset, relative = velocity - neighbour.velocity;
  const float near = radius + neighbour.radius, square = glm::dot(offset, offset);
  const vec2 from_middle = relative - offset / horizon;
  // The rim is that of the circle where it bulges out of the cone: on the side towards standing still.
  const float towards = glm::dot(from_middle, offset);
  Escape escape;
  if (square <= near * near)
    escape = out_of_circle(offset, relative - offset / recovery, near, recovery);
  else if (towards < 0.f && towards * towards > near * near * glm::dot(from_middle, from_middle))
    escape = out_of_circle(offset, from_middle, near, horizon);
  else
    escape = out_of_cone(offset, square, relative, near);
  return {velocity + share * escape.change * escape.outward, escape.outward};
}

vec2 nearest_permitted(std::span<const HalfPlane> planes, vec2 wanted, float speed) {
  const auto plane = [&](std::size_t i) { return bound(planes[i]); };
  const Nearest nearest = nearest_within(planes.size(), plane, wanted, speed);
  return nearest.heeded == planes.size() ? nearest.best : least_against(planes, nearest, speed);
}

}  // namespace ambulon
