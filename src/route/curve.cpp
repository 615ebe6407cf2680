#include "route/curve.hpp"

#include <algorithm>
#include <cmath>

#include <glm/common.hpp>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float same_place = 1e-3f;  // metres: closer points count as one

vec3 between(vec3 a, vec3 b, float from, float to, float t) {
  return to > from ? ((to - t) * a + (t - from) * b) / (to - from) : a;
}

/// One leg of the curve, from `b` to `c`; its neighbours `a` and `d` define the tangents.
struct Leg {
  vec3 a, b, c, d;
  float ta, tb, tc, td;

  Leg(vec3 a_, vec3 b_, vec3 c_, vec3 d_) : a(a_), b(b_), c(c_), d(d_), ta(0.f) {
    tb = ta + std::sqrt(glm::length(b - a));
    tc = tb + std::sqrt(glm::length(c - b));
    td = tc + std::sqrt(glm::length(d - c));
  }

  vec3 at(float part) const {
    const float t = glm::mix(tb, tc, part);
    const vec3 ab = between(a, b, ta, tb, t), bc = between(b, c, tb, tc, t), cd = between(c, d, tc, td, t);
    return between(between(ab, bc, ta, tc, t), between(bc, cd, tb, td, t), tb, tc, t);
  }
};

}  // namespace

Curve::Curve(std::pmr::memory_resource* memory) : samples_(memory), metres_(memory), at_point_(memory) {}

void Curve::lay(std::span<const vec3> points, bool closed) {
  samples_.clear(), metres_.clear(), at_point_.clear();
  closed_ = closed;

  std::pmr::vector<vec3> knots(samples_.get_allocator());
  std::pmr::vector<std::size_t> knot_of(samples_.get_allocator());
  for (vec3 point : points) {
    if (knots.empty() || glm::length(point - knots.back()) > same_place) knots.push_back(point);
    knot_of.push_back(knots.size() - 1);
  }
  if (closed && knots.size() > 1 && glm::length(knots.back() - knots.front()) <= same_place) knots.pop_back();
  const auto count = knots.size();
  if (count < 2) {
    at_point_.assign(points.size(), 0.f);
    return;
  }

  // The ends of an open curve are continued by point reflection.
  const auto knot = [&](std::ptrdiff_t index) {
    const auto n = static_cast<std::ptrdiff_t>(count);
    if (closed) return knots[static_cast<std::size_t>((index + n) % n)];
    if (index < 0) return 2.f * knots[0] - knots[1];
    if (index >= n) return 2.f * knots[count - 1] - knots[count - 2];
    return knots[static_cast<std::size_t>(index)];
  };

  std::pmr::vector<float> at_knot(samples_.get_allocator());
  const std::size_t legs = closed ? count : count - 1;
  samples_.push_back(knots[0]), metres_.push_back(0.f), at_knot.push_back(0.f);
  for (std::size_t i = 0; i < legs; ++i) {
    const auto k = static_cast<std::ptrdiff_t>(i);
    const Leg leg(knot(k - 1), knot(k), knot(k + 1), knot(k + 2));
    // A chord of at most 0.25 m; at least 8 and at most 64 pieces a leg.
    const int pieces = std::clamp(static_cast<int>(4.f * glm::length(leg.c - leg.b)), 8, 64);
    for (int piece = 1; piece <= pieces; ++piece) {
      const vec3 sample = leg.at(static_cast<float>(piece) / static_cast<float>(pieces));
      metres_.push_back(metres_.back() + glm::length(sample - samples_.back()));
      samples_.push_back(sample);
    }
    at_knot.push_back(metres_.back());
  }
  for (std::size_t index : knot_of) at_point_.push_back(at_knot[index]);
}

float Curve::wrapped(float metres) const {
  if (!closed_ || length() <= 0.f) return std::clamp(metres, 0.f, length());
  const float rest = std::fmod(metres, length());
  return rest < 0.f ? rest + length() : rest;
}

std::size_t Curve::segment_at(float metres) const {
  const auto after = std::upper_bound(metres_.begin() + 1, metres_.end() - 1, metres);
  return static_cast<std::size_t>(after - metres_.begin()) - 1;
}

vec3 Curve::position(float metres) const {
  if (samples_.size() < 2) return samples_.empty() ? vec3(0.f) : samples_.front();
  metres = wrapped(metres);
  const std::size_t i = segment_at(metres);
  const float span = metres_[i + 1] - metres_[i];
  return glm::mix(samples_[i], samples_[i + 1], span > 0.f ? (metres - metres_[i]) / span : 0.f);
}

float Curve::nearest(vec3 position, float from, float to) const {
  if (samples_.size() < 2) return 0.f;
  if (!closed_) from = wrapped(from), to = wrapped(to);
  // Works in metres after `from`, since far along a closed curve one float step exceeds a segment. One lap
  // contains all places.
  const float first = wrapped(from), reach = std::min(to - from, closed_ ? length() : to - from);
  float best = 0.f, best_off = flat_distance(position, this->position(first));
  std::size_t i = segment_at(first);
  float start = metres_[i] - first;  // of sample i
  for (std::size_t looked_at = 0; start < reach && looked_at <= samples_.size(); ++looked_at) {
    const vec2 corner = flat(samples_[i]), along = flat(samples_[i + 1]) - corner;
    const float span = metres_[i + 1] - metres_[i], square = glm::dot(along, along);
    const float part = square > 0.f ? glm::dot(flat(position) - corner, along) / square : 0.f;
    const float here = std::clamp(start + glm::clamp(part, 0.f, 1.f) * span, 0.f, reach);
    const vec2 there = corner + (span > 0.f ? (here - start) / span : 0.f) * along;
    const float off = glm::length(flat(position) - there);
    if (off < best_off) best = here, best_off = off;
    start += span;
    if (++i + 1 == samples_.size()) {
      if (!closed_) break;
      i = 0;
    }
  }
  return from + best;
}

}  // namespace ambulon
