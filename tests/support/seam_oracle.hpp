#pragma once
// Floors cut into misaligned pieces, and an oracle for their ground.

#include <algorithm>
#include <cmath>
#include <optional>
#include <string>

#include "ambulon/base/angle.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "choices.hpp"

namespace ambulon {

using Polygon = std::vector<dvec2>;

/// The part of a convex polygon to the left of a line.
inline Polygon left_of(const Polygon& polygon, dvec2 at, dvec2 normal) {
  Polygon kept;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const dvec2 a = polygon[i], b = polygon[(i + 1) % polygon.size()];
    const double of_a = glm::dot(a - at, normal), of_b = glm::dot(b - at, normal);
    if (of_a >= 0) kept.push_back(a);
    if ((of_a > 0 && of_b < 0) || (of_a < 0 && of_b > 0)) kept.push_back(a + of_a / (of_a - of_b) * (b - a));
  }
  return kept;
}

inline double area(const Polygon& polygon) {
  double twice = 0;
  for (std::size_t i = 2; i < polygon.size(); ++i)
    twice += cross(polygon[i - 1] - polygon[0], polygon[i] - polygon[0]);
  return twice / 2;
}

/// A sloping floor of square slabs, some of which are missing.
struct Slabs {
  std::vector<Polygon> slabs;
  dvec2 slope{0.0};
  double height(dvec2 at) const { return 1.5 + glm::dot(slope, at); }
  dvec2 any_point(Choices& choose) const {
    const Polygon& slab = slabs[choose.index(slabs.size())];
    const auto part = [&] { return choose.any(0, 1); };
    const double along = part();
    return slab[0] + along * (slab[1] - slab[0]) + part() * (slab[3] - slab[0]);
  }
};

inline Slabs random_slabs(Choices& choose) {
  Slabs floor;
  const vec2 x_axis = unit(choose.flag() ? choose.between(0, 6.28f) : 0.f);
  const dvec2 x(x_axis), y(-x.y, x.x);
  const auto size = choose.any(1.5, 5);
  for (int row = 0; row < 4; ++row)
    for (int column = 0; column < 4; ++column) {
      if (choose.whole(0, 5) == 0) continue;
      const dvec2 low = size * (static_cast<double>(column) * x + static_cast<double>(row) * y);
      floor.slabs.push_back({low, low + size * x, low + size * (x + y), low + size * y});
    }
  if (choose.flag()) floor.slope = {choose.any(-0.6, 0.6), choose.any(-0.4, 0.4)};
  return floor;
}

/// Adds a polygon of the floor as a fan of triangles, moved and rounded.
inline void add(Level& level, const Slabs& floor, const Polygon& polygon, double rounding, dvec2 moved) {
  const auto first = static_cast<std::uint32_t>(level.corners.size());
  for (const dvec2 corner : polygon) {
    const dvec2 at = glm::round((corner + moved) / rounding) * rounding;
    level.corners.push_back(
        lift(vec2(at), static_cast<float>(std::round(floor.height(corner) / rounding) * rounding)));
  }
  for (std::uint32_t i = 2; i < polygon.size(); ++i)
    level.triangles.push_back({{first, first + i - 1, first + i}});
}

/// Each slab is cut along random lines, and each part is a fan: sides meet other sides anywhere
/// (T-junctions).
inline Level cut_up(Choices& choose, const Slabs& floor, double rounding, double max_moved) {
  Level level;
  const int cuts = choose.whole(0, 7);
  for (const Polygon& slab : floor.slabs) {
    std::vector<Polygon> parts = {slab};
    for (int i = 0; i < cuts; ++i) {
      Polygon& part = parts[choose.index(parts.size())];
      dvec2 middle(0.0);
      double weights = 0;
      for (const dvec2 corner : part) {
        const auto weight = choose.any(0.1, 1);
        middle += weight * corner, weights += weight;
      }
      const dvec2 normal(unit(choose.between(0, 6.28f)));
      Polygon left = left_of(part, middle / weights, normal),
              right = left_of(part, middle / weights, -normal);
      if (area(left) < 1e-4 || area(right) < 1e-4) continue;
      part = std::move(left);
      parts.push_back(std::move(right));
    }
    for (Polygon& part : parts) {
      std::ranges::rotate(part, part.begin() + choose.whole(0, static_cast<int>(part.size())));
      add(level, floor, part, rounding, max_moved * choose.any(0, 1) * dvec2(unit(choose.between(0, 6.28f))));
    }
  }
  return level;
}

/// Returns the spot of a body at a point of a floor; nothing if it cannot stand there.
inline std::optional<Spot> standing(const MeshGround& ground, dvec2 at, const Slabs& floor,
                                    const Body& body) {
  const vec3 point = lift(vec2(at), static_cast<float>(floor.height(at)));
  // On a slope a shifted piece lies above or below the floor.
  const Snap snap = ground.snap(point, {.aside = 0.f, .up = 0.2f, .down = 0.2f}, body);
  return snap.found && flat_distance(snap.spot.position, point) < 0.025f ? std::optional(snap.spot)
                                                                         : std::nullopt;
}

/// Returns what is wrong with the ground of a floor in pieces, which must equal that of the whole floor.
inline std::string mistake_on_seams(Choices& choose) {
  const Slabs floor = random_slabs(choose);
  if (floor.slabs.empty()) return {};
  const float gap = choose.flag() ? 0.03f : choose.flag() ? choose.between(0, 0.2f) : 0.f;
  const double moved = choose.flag() ? 0.49 * static_cast<double>(gap) : 0;
  const double rounding = std::pow(10.0, -choose.any(3, 4));
  const LevelRules rules{.max_slope = 1, .gap = gap};
  Level whole;
  for (const Polygon& slab : floor.slabs) add(whole, floor, slab, 1e-6, dvec2(0.0));
  const auto pieces = MeshGround::make(cut_up(choose, floor, rounding, moved), rules).value();
  const auto ideal = MeshGround::make(whole, rules).value();
  // What a wider body can do on the whole floor, this one can do on its pieces, and vice versa.
  const float slack = 0.01f + (moved > 0 ? gap : 0.f), radius = choose.of({0.3f, 0.6f, slack + 0.05f});
  const Body body{.radius = radius}, wider{.radius = radius + slack}, thinner{.radius = radius - slack};
  if (radius <= slack) return {};
  Route one, other;
  for (int i = 0; i < 12; ++i) {
    const dvec2 from = floor.any_point(choose), to = floor.any_point(choose);
    const auto spots = [&](const MeshGround& ground, const Body& who) {
      return std::pair(standing(ground, from, floor, who), standing(ground, to, floor, who));
    };
    const auto worse = [&](const MeshGround& strict, const auto& these, const MeshGround& lenient,
                           const auto& those) -> std::string {
      if (!these.first || !these.second || !those.first || !those.second) return {};
      if (strict.sight(*these.first, *these.second) && !lenient.sight(*those.first, *those.second))
        return "a straight walk is lost";
      strict.route(*these.first, *these.second, one);
      lenient.route(*those.first, *those.second, other);
      if (one.complete && !other.complete) return "a way is lost";
      if (one.complete && other.length_xy >= one.length_xy + 0.05f + slack) return "a way is longer";
      return {};
    };
    const auto wide = spots(*ideal, wider), thin = spots(*ideal, thinner), here = spots(*pieces, body);
    if (wide.first && !here.first) return "ground is lost";
    if (here.first && !thin.first) return "there is ground that the floor has not";
    if (const auto what = worse(*ideal, wide, *pieces, here); !what.empty()) return what + " in the pieces";
    if (const auto what = worse(*pieces, here, *ideal, thin); !what.empty()) return what + " in the floor";
  }
  return {};
}

}  // namespace ambulon
