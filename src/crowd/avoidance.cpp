#include "ambulon/crowd/avoidance.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "ambulon/base/range.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "crowd/encounters.hpp"

namespace ambulon {
namespace {

// times the speed: the velocity nearest to such a point is the one furthest in its direction
constexpr double far_off = 1e4;
constexpr float tiny = 1e-6f;      // metres per second
constexpr double parallel = 1e-9;  // sine of an angle

/// A half-plane.
struct Line {
  float at_x, at_y, inward_x, inward_y;
};

/// The half-plane of `keep_clear_of` from an offset, a relative velocity and the sum of both radii. It has no
/// branches, so that the compiler vectorises it.
inline Line line_of(vec2 velocity, float horizon, float recovery, float x, float y, float relative_x,
                    float relative_y, float near, float share) {
  const float square = x * x + y * y;
  const bool touching = square <= near * near;
  // The offset from the centre of the cut-off circle: relative velocities that lead to contact at exactly the
  // horizon.
  const float per_second = touching ? 1.f / recovery : 1.f / horizon;
  const float from_x = relative_x - per_second * x, from_y = relative_y - per_second * y;
  const float from_square = from_x * from_x + from_y * from_y;
  const float towards = from_x * x + from_y * y;
  // The boundary of the velocity obstacle is the cut-off circle on the side of smaller relative speeds, and
  // the cone elsewhere.
  const bool before = (towards < 0.f) & (towards * towards > near * near * from_square);
  const bool at_circle = touching | before;

  // The shortest way out of the circle. At its centre all directions are equal, and backwards is used.
  const bool in_middle = from_square <= tiny * tiny, at_one_place = square <= tiny * tiny;
  const float out_x = in_middle ? (at_one_place ? -1.f : -x) : from_x;
  const float out_y = in_middle ? (at_one_place ? 0.f : -y) : from_y;
  const float size = std::sqrt(out_x * out_x + out_y * out_y);
  const float away = in_middle ? 0.f : size, per_size = 1.f / size;

  // The shortest way out of the cone, over the nearer leg; on its axis over the right one. The leg is the
  // offset turned by the angle between the axis and the leg.
  const float tangent = std::sqrt(touching ? 0.f : square - near * near);
  const float side = x * relative_y - y * relative_x > 0.f ? 1.f : -1.f;  // left or right
  const float per_square = 1.f / square;
  const float along_x = per_square * (tangent * x - side * near * y);
  const float along_y = per_square * (tangent * y + side * near * x);
  const float cone_x = -side * along_y, cone_y = side * along_x;

  const float inward_x = at_circle ? per_size * out_x : cone_x;
  const float inward_y = at_circle ? per_size * out_y : cone_y;
  const float change =
      share * (at_circle ? per_second * near - away : -(relative_x * cone_x + relative_y * cone_y));
  return {velocity.x + change * inward_x, velocity.y + change * inward_y, inward_x, inward_y};
}

/// A segment of a line: the part that is still feasible.
struct Chord {
  dvec2 at, along;
  double from, to;

  /// Cuts the segment by a half-plane. Returns false if nothing is left.
  bool cut(dvec2 on, dvec2 inward) {
    const double grows = glm::dot(along, inward), inside = glm::dot(at - on, inward);
    if (std::abs(grows) < parallel) return inside >= -tolerance::half_plane_speed;
    const double end = -inside / grows;
    if (grows > 0)
      from = std::max(from, end);
    else
      to = std::min(to, end);
    return from <= to;
  }
};

/// Returns the part of a half-plane's boundary that lies within the speed limit, if any.
std::optional<Chord> chord(dvec2 on, dvec2 inward, double speed) {
  const double off = glm::dot(on, inward), square = speed * speed - off * off;
  if (square < 0) return {};
  const double half = std::sqrt(square);
  return Chord{off * inward, {-inward.y, inward.x}, -half, half};
}

/// A half-plane in double precision.
struct Bound {
  dvec2 at, inward;
};
Bound bound(const HalfPlane& plane) { return {dvec2(plane.at), dvec2(plane.inward)}; }

struct Nearest {
  dvec2 best;
  std::size_t heeded =
      0;  // how many constraints it meets, from the first; fewer than all if the problem is infeasible
};

/// Two-dimensional linear program (incremental): returns the velocity nearest to `wanted` within the `count`
/// half-planes of `bound_of(i)` and the speed limit.
template <class BoundOf>
Nearest nearest_within(std::size_t count, BoundOf&& bound_of, dvec2 wanted, double speed) {
  dvec2 best = wanted;
  if (const double fast = glm::length(wanted); fast > speed) best *= speed / fast;
  for (std::size_t i = 0; i < count; ++i) {
    const Bound here = bound_of(i);
    if (glm::dot(best - here.at, here.inward) >= -tolerance::half_plane_speed) continue;
    // The new optimum lies on this boundary.
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

/// Returns the velocities that violate `other` by at most as much as `max`: a half-plane, too.
Bound no_worse(const Bound& other, const Bound& max) {
  const dvec2 across = other.inward - max.inward;
  const double size = glm::length(across);
  // all velocities, since `max` is the worse constraint
  if (size < parallel) return {dvec2(0.0), dvec2(0.0)};
  const double off = (glm::dot(other.inward, other.at) - glm::dot(max.inward, max.at)) / size;
  return {off / size * across, across / size};
}

/// Infeasible case: minimises the largest violation of the half-planes. `so_far` meets the first of them.
dvec2 min_against(std::span<const HalfPlane> planes, Nearest so_far, double speed) {
  dvec2 best = so_far.best;
  double against = 0;  // metres per second: the largest violation so far
  for (std::size_t i = so_far.heeded; i < planes.size(); ++i) {
    const Bound max = bound(planes[i]);
    if (glm::dot(max.at - best, max.inward) <= against + tolerance::half_plane_speed) continue;
    // This half-plane is violated most. Move as far inward as the previous ones allow.
    const auto before = [&](std::size_t k) { return no_worse(bound(planes[k]), max); };
    best = nearest_within(i, before, far_off * speed * max.inward, speed).best;
    against = glm::dot(max.at - best, max.inward);
  }
  return best;
}

/// Returns the velocity nearest to `wanted` that violates no half-plane more than `best` does: two that
/// squeeze each other between walls go on side by side.
dvec2 no_worse_than(std::span<const HalfPlane> planes, dvec2 best, dvec2 wanted, double speed) {
  const auto relaxed = [&](std::size_t i) {
    const Bound plane = bound(planes[i]);
    return Bound{plane.at + std::min(0.0, glm::dot(best - plane.at, plane.inward)) * plane.inward,
                 plane.inward};
  };
  const Nearest nearest = nearest_within(planes.size(), relaxed, wanted, speed);
  return nearest.heeded == planes.size() ? nearest.best : best;
}

}  // namespace

Expected<void> validate(const Avoidance& avoidance) {
  const auto out_of = [](std::string_view what, float value, Range range) {
    return problem(
        fmt::format("{} is {:g}; it must lie between {:g} and {:g}", what, value, range.min, range.max));
  };
  constexpr Range horizons{0.1f, 30.f}, sights{0.5f, 50.f}, sides{-1.f, 1.f};
  if (!horizons.holds(avoidance.horizon))
    return out_of("the horizon of avoidance", avoidance.horizon, horizons);
  if (!sights.holds(avoidance.sight)) return out_of("the sight of avoidance", avoidance.sight, sights);
  if (!sides.holds(avoidance.side)) return out_of("the side of avoidance", avoidance.side, sides);
  return {};
}

HalfPlane keep_clear_of(const Neighbour& neighbour, vec2 velocity, float radius, float horizon, float share,
                        float recovery) {
  const vec2 offset = neighbour.offset, relative = velocity - neighbour.velocity;
  const Line line = line_of(velocity, horizon, recovery, offset.x, offset.y, relative.x, relative.y,
                            radius + neighbour.radius, share);
  return {{line.at_x, line.at_y}, {line.inward_x, line.inward_y}};
}

void Encounters::keep_clear(vec2 velocity, float horizon, std::span<HalfPlane> planes, float recovery) const {
  std::array<float, max> at_x, at_y, inward_x, inward_y;
  const std::size_t rounded = (count_ + lanes - 1) / lanes * lanes;
  for (std::size_t i = 0; i < rounded; ++i) {
    const Line line = line_of(velocity, horizon, recovery, x_[i], y_[i], velocity.x - velocity_x_[i],
                              velocity.y - velocity_y_[i], near_[i], share_[i]);
    at_x[i] = line.at_x, at_y[i] = line.at_y, inward_x[i] = line.inward_x, inward_y[i] = line.inward_y;
  }
  for (std::size_t i = 0; i < count_; ++i) planes[i] = {{at_x[i], at_y[i]}, {inward_x[i], inward_y[i]}};
}

vec2 nearest_permitted(std::span<const HalfPlane> planes, vec2 wanted, float speed) {
  const auto plane = [&](std::size_t i) { return bound(planes[i]); };
  const Nearest nearest = nearest_within(planes.size(), plane, wanted, speed);
  if (nearest.heeded == planes.size()) return nearest.best;
  return no_worse_than(planes, min_against(planes, nearest, speed), wanted, speed);
}

}  // namespace ambulon
