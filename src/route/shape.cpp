#include "route/shape.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <span>

#include "ambulon/base/angle.hpp"

#include "base/geometry.hpp"
#include "base/trig.hpp"

namespace ambulon {
namespace {

constexpr float parts[] = {1.f, 0.5f, 0.25f, 0.125f};  // of the requested distance, tried in turn
constexpr float min_part = 0.2f;                       // the last one, halved once more
constexpr float chord = radians(12.f);                 // of an arc
constexpr float min_apart = 0.25f;   // metres between the places where the free width is measured
constexpr float max_places = 500.f;  // of those, on a leg
constexpr float gentle = 0.35f;      // metres sideways per metre forward
constexpr float wobble = 0.05f;      // metres that a straight leg may be off, to save bends

class Walker {
 public:
  Walker(const Ground& ground, const Body& body) : ground_(ground), body_(body) {}

  bool free(vec3 from, vec3 to) const { return ground_.straight(spot(from), flat(to - from)).free; }
  Stretch stretch(vec3 from, vec2 way) const { return ground_.straight(spot(from), way); }

 private:
  Spot spot(vec3 at) const { return ground_.snap(at, body_.radius, body_).spot; }

  const Ground& ground_;
  const Body& body_;
};

/// Returns the direction from the inner to the outer side of a bend; zero for a straight one.
vec2 outward(vec3 before, vec3 bend, vec3 after) {
  return direction(direction(flat(bend - before)) - direction(flat(after - bend)));
}

void measure(Route& route) {
  route.length_xy = 0.f;
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    route.length_xy += flat_distance(route.bends[i], route.bends[i - 1]);
}

/// Returns true if a crossing begins or ends at a bend.
bool is_end_of_crossing(const Route& route, std::size_t bend) {
  return route.crossing_at(bend) != nullptr || route.crossing_at(bend - 1) != nullptr;
}

/// Writes the arc of `radius` that is tangent to both legs of a bend, as points. Returns false if the legs
/// are too short.
bool lay_arc(vec3 before, vec3 bend, vec3 after, float radius, std::pmr::vector<vec3>& arc) {
  arc.clear();
  const vec2 in = direction(flat(bend - before)), out = direction(flat(after - bend));
  const float angle = angle_between(in, out);
  const float reach = radius * tangent(0.5f * std::abs(angle));
  if (reach > flat_distance(before, bend) || reach > 0.5f * flat_distance(bend, after)) return false;
  const float side = angle > 0.f ? 1.f : -1.f;
  const vec2 centre = flat(bend) - reach * in + side * radius * vec2(-in.y, in.x);
  const int chords = std::max(1, static_cast<int>(std::ceil(std::abs(angle) / chord)));
  for (int i = 0; i <= chords; ++i) {
    const vec2 ahead = turned(in, out, std::abs(angle) * static_cast<float>(i) / static_cast<float>(chords));
    arc.push_back(lift(centre - side * radius * vec2(-ahead.y, ahead.x), bend.z));
  }
  return true;
}

bool all_free(const Walker& walker, vec3 from, std::span<const vec3> points, vec3 to) {
  for (const vec3 point : points) {
    if (!walker.free(from, point)) return false;
    from = point;
  }
  return walker.free(from, to);
}

}  // namespace

namespace {

/// Moves bends outwards from the corners that they touch: all in one step, since a round corner has several.
/// Bends whose neighbours then lose sight are moved less far.
void leave_corners(const Walker& walker, float metres, Route& route) {
  const std::size_t count = route.bends.size();
  std::pmr::vector<vec3> moves(count, vec3(0.f), route.bends.get_allocator());
  std::pmr::vector<float> part(count, 0.f, route.bends.get_allocator());
  for (std::size_t i = 1; i + 1 < count; ++i) {
    const vec2 out = outward(route.bends[i - 1], route.bends[i], route.bends[i + 1]);
    if (out == vec2(0.f) || is_end_of_crossing(route, i)) continue;
    part[i] = 1.f;
    moves[i] = lift(std::min(metres, 0.5f * walker.stretch(route.bends[i], 2.f * metres * out).metres) * out);
  }
  const auto at = [&](std::size_t i) { return route.bends[i] + part[i] * moves[i]; };
  for (bool again = true; again;) {
    again = false;
    for (std::size_t i = 0; i + 1 < count; ++i) {
      if ((part[i] == 0.f && part[i + 1] == 0.f) || walker.free(at(i), at(i + 1))) continue;
      for (const std::size_t end : {i, i + 1}) part[end] = part[end] > min_part ? 0.5f * part[end] : 0.f;
      again = true;
    }
  }
  for (std::size_t i = 0; i < count; ++i) route.bends[i] = at(i);
}

/// Returns how far to the left of a leg the free width is `metres` on both sides, or equal on both.
float to_middle(const Walker& walker, vec3 at, vec2 left, float metres) {
  const float on_left = walker.stretch(at, 2.f * metres * left).metres,
              on_right = walker.stretch(at, -2.f * metres * left).metres;
  const float middle = 0.5f * (on_left - on_right);  // offset to the left
  if (on_left >= metres && on_right >= metres) return 0.f;
  return std::clamp(middle, std::min(on_left - metres, 0.f), std::max(metres - on_right, 0.f));
}

/// Limits the sideways offsets of consecutive places, so that they change by at most `max` from one to the
/// next. Both ends have offset 0.
void make_gentle(std::span<float> aside, float max) {
  const auto limit = [&](float& here, float before) {
    here = std::clamp(here, std::min(before, 0.f) - max, std::max(before, 0.f) + max);
  };
  for (std::size_t i = 0; i < aside.size(); ++i) limit(aside[i], i > 0 ? aside[i - 1] : 0.f);
  for (std::size_t i = aside.size(); i-- > 0;) limit(aside[i], i + 1 < aside.size() ? aside[i + 1] : 0.f);
}

float off_line(vec3 from, vec3 to, vec3 at) {
  const vec2 way = flat(to - from);
  return glm::length(way) > 0.f ? std::abs(cross(direction(way), flat(at - from))) : flat_distance(from, at);
}

/// Appends `points` to `bends`, without those on straight lines. Returns false, and appends nothing, if a leg
/// is not free.
bool add_thinned(const Walker& walker, std::span<const vec3> points, std::pmr::vector<vec3>& bends) {
  const std::size_t before = bends.size();
  for (std::size_t next = 0; next < points.size(); ++next) {
    const vec3 from = bends.back();
    if (!walker.free(from, points[next])) return bends.resize(before), false;
    const auto on_line = [&](std::size_t end) {
      for (std::size_t i = next; i < end; ++i)
        if (off_line(from, points[end], points[i]) > wobble) return false;
      return walker.free(from, points[end]);
    };
    while (next + 1 < points.size() && on_line(next + 1)) ++next;
    bends.push_back(points[next]);
  }
  return true;
}

/// Moves legs away from the edges that they follow.
void leave_edges(const Walker& walker, float metres, Route& route) {
  std::pmr::vector<vec3> bends(route.bends.get_allocator()), points(route.bends.get_allocator());
  std::pmr::vector<float> aside(route.bends.get_allocator());
  bends.push_back(route.bends.front());
  std::size_t crossing = 0;
  for (std::size_t i = 0; i + 1 < route.bends.size(); ++i) {
    const vec3 from = route.bends[i], to = route.bends[i + 1];
    if (crossing < route.crossings.size() && route.crossings[crossing].bend == i) {
      route.crossings[crossing++].bend = static_cast<std::uint32_t>(bends.size() - 1);
      bends.push_back(to);
      continue;
    }
    points.clear(), aside.clear();
    const float length = flat_distance(from, to);
    const vec2 way = direction(flat(to - from)), left(-way.y, way.x);
    const int count =
        static_cast<int>(std::fmin(std::ceil(length / std::max(metres, min_apart)), max_places));
    for (int place = 1; place < count; ++place) {
      points.push_back(glm::mix(from, to, static_cast<float>(place) / static_cast<float>(count)));
      aside.push_back(to_middle(walker, points.back(), left, metres));
    }
    make_gentle(aside, gentle * length / static_cast<float>(std::max(count, 1)));
    bool moved = false;
    for (std::size_t place = 0; place < points.size(); ++place) {
      moved = moved || std::abs(aside[place]) > wobble;
      points[place] += lift(aside[place] * left);
    }
    points.push_back(to);
    if (!moved || !add_thinned(walker, points, bends)) bends.push_back(to);
  }
  route.bends = std::move(bends);
}

}  // namespace

void keep_clear(const Ground& ground, const Body& body, float metres, Route& route) {
  if (route.bends.empty() || !(metres > 0.f)) return;
  const Walker walker(ground, body);
  leave_corners(walker, metres, route);
  leave_edges(walker, metres, route);
  measure(route);
}

void round_bends(const Ground& ground, const Body& body, float radius, Route& route) {
  if (route.bends.empty() || !(radius > 0.f)) return;
  const Walker walker(ground, body);
  std::pmr::vector<vec3> rounded(route.bends.get_allocator()), arc(route.bends.get_allocator());
  rounded.push_back(route.bends.front());
  // numbers of bends at which crossings begin
  std::pmr::vector<std::uint32_t> begin_at(route.bends.get_allocator());
  if (route.crossing_at(0) != nullptr) begin_at.push_back(0);
  for (std::size_t i = 1; i + 1 < route.bends.size(); ++i) {
    const vec3 before = rounded.back(), bend = route.bends[i], after = route.bends[i + 1];
    if (is_end_of_crossing(route, i)) {
      if (route.crossing_at(i) != nullptr) begin_at.push_back(static_cast<std::uint32_t>(rounded.size()));
      rounded.push_back(bend);
      continue;
    }
    const vec2 out = outward(before, bend, after);
    const float half =
        0.5f * std::abs(angle_between(direction(flat(bend - before)), direction(flat(after - bend))));
    bool laid = false;
    for (const float part : parts) {
      // Shifted outwards, so that the arc passes through the place of the bend.
      // Chords lie inside of their arc.
      const float swing =
          part * radius * (1.f / std::max(0.2f, cosine(half)) - 1.f + 2.f * (1.f - cosine(0.5f * chord)));
      laid = lay_arc(before, bend + lift(swing * out), after, part * radius, arc) &&
             all_free(walker, before, arc, after);
      if (laid) break;
    }
    if (laid)
      rounded.insert(rounded.end(), arc.begin(), arc.end());
    else
      rounded.push_back(bend);
  }
  rounded.push_back(route.bends.back());
  route.bends = std::move(rounded);
  for (std::size_t i = 0; i < begin_at.size(); ++i) route.crossings[i].bend = begin_at[i];
  measure(route);
}

float length_along_ground(const Ground& ground, const Body& body, const Route& route) {
  constexpr float stride = 0.25f, anywhere = std::numeric_limits<float>::infinity();
  float metres = 0.f;
  for (std::size_t i = 1; i < route.bends.size(); ++i) {
    const vec3 from = route.bends[i - 1], to = route.bends[i];
    const float length = flat_distance(from, to);
    const bool walked = route.crossing_at(i - 1) == nullptr;
    // The number of samples is bounded: legs beyond 2,500 km have wider strides.
    const auto strides = walked ? static_cast<int>(std::clamp(std::ceil(length / stride), 1.f, 1e7f)) : 1;
    Spot at = strides > 1 ? ground.snap(from, anywhere, body).spot : Spot();
    vec3 before = from;
    for (int k = 1; k < strides; ++k) {
      const vec2 aim = glm::mix(flat(from), flat(to), static_cast<float>(k) / static_cast<float>(strides));
      at = ground.straight(at, aim - flat(at.position)).end;
      metres += glm::distance(before, at.position);
      before = at.position;
    }
    metres += glm::distance(before, to);
  }
  return metres;
}

}  // namespace ambulon
