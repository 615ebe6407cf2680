#include "ambulon/base/angle.hpp"

#include <cmath>

#include "base/disc.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr double quarter = 1.5707963267948966;

// Taylor series around 0; on [-pi/4, pi/4] the first dropped term is below 1e-9.
double short_sine(double x) {
  const double s = x * x;
  return x * (1 + s * (-1.0 / 6 + s * (1.0 / 120 + s * (-1.0 / 5040 + s * (1.0 / 362880)))));
}

double short_cosine(double x) {
  const double s = x * x;
  return 1 + s * (-1.0 / 2 + s * (1.0 / 24 + s * (-1.0 / 720 + s * (1.0 / 40320 - s / 3628800))));
}

// Arc tangent of t in [0, 1]: halved once (t to t / (1 + sqrt(1 + t^2))) so that the series converges fast.
double short_arc_tangent(double t) {
  const double h = t / (1 + std::sqrt(1 + t * t));
  const double s = h * h;
  double sum = 0;
  for (int k = 10; k >= 0; --k) sum = sum * -s + 1.0 / (2 * k + 1);
  return 2 * h * sum;
}

}  // namespace

vec2 unit(float heading) {
  // Small turns are the common case.
  const double turns = std::abs(heading) < 0.5f ? 0.0 : std::floor(heading / quarter + 0.5);
  const double rest = heading - turns * quarter;
  const auto s = static_cast<float>(short_sine(rest));
  const auto c = static_cast<float>(short_cosine(rest));
  switch (static_cast<int>(turns - 4 * std::floor(turns / 4))) {
    case 0:
      return {c, s};
    case 1:
      return {-s, c};
    case 2:
      return {-c, -s};
    default:
      return {s, -c};
  }
}

float heading_of(vec2 v) {
  const double x = std::abs(v.x), y = std::abs(v.y);
  if (x == 0 && y == 0) return 0.f;
  double angle = y <= x ? short_arc_tangent(y / x) : quarter - short_arc_tangent(x / y);
  if (v.x < 0) angle = 2 * quarter - angle;
  return static_cast<float>(v.y < 0 ? -angle : angle);
}

float angle_between(vec2 from, vec2 to) { return heading_of({glm::dot(from, to), cross(from, to)}); }

vec2 turned(vec2 from, vec2 to, float max) {
  // Nearly aligned is the common case and needs no arc tangent: the chord is within 1e-6 of the arc here.
  const float side = cross(from, to);
  if (glm::dot(from, to) > 0.9f && std::abs(side) <= 0.9f * max) return to;
  const float angle = angle_between(from, to);
  if (std::abs(angle) <= max) return to;
  const vec2 step = unit(angle < 0 ? -max : max);
  return direction({from.x * step.x - from.y * step.y, from.x * step.y + from.y * step.x}, to);
}

vec2 point_in_disc(Random& random, float radius) {
  // Two statements: within one expression the order of the draws is unspecified.
  const float heading = 2.f * pi * random.fraction();
  return radius * std::sqrt(random.fraction()) * unit(heading);
}

vec2 rotated(vec2 v, float angle) {
  const vec2 turn = unit(angle);
  return {turn.x * v.x - turn.y * v.y, turn.y * v.x + turn.x * v.y};
}

}  // namespace ambulon
