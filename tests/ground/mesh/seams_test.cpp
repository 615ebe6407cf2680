// Floors cut into pieces that do not fit together: the ground must be that of the whole floor.

#include <cmath>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "generate.hpp"
#include "level_maker.hpp"

namespace ambulon {
namespace {

using Polygon = std::vector<dvec2>;

/// The part of a convex polygon to the left of a line.
Polygon left_of(const Polygon& polygon, dvec2 at, dvec2 normal) {
  Polygon kept;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const dvec2 a = polygon[i], b = polygon[(i + 1) % polygon.size()];
    const double of_a = glm::dot(a - at, normal), of_b = glm::dot(b - at, normal);
    if (of_a >= 0) kept.push_back(a);
    if ((of_a > 0 && of_b < 0) || (of_a < 0 && of_b > 0)) kept.push_back(a + of_a / (of_a - of_b) * (b - a));
  }
  return kept;
}

double area(const Polygon& polygon) {
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
  dvec2 any_point() const {
    const Polygon& slab =
        slabs[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(slabs.size())))];
    const auto part = [] { return static_cast<double>(between(0, 1)); };
    const double along = part();
    return slab[0] + along * (slab[1] - slab[0]) + part() * (slab[3] - slab[0]);
  }
};

Slabs random_slabs() {
  Slabs floor;
  const vec2 x_axis = unit(*rc::gen::element(0.f, between(0, 6.28f)));
  const dvec2 x(x_axis), y(-x.y, x.x);
  const auto size = static_cast<double>(between(1.5f, 5));
  for (int row = 0; row < 4; ++row)
    for (int column = 0; column < 4; ++column) {
      if (*rc::gen::inRange(0, 5) == 0) continue;
      const dvec2 low = size * (static_cast<double>(column) * x + static_cast<double>(row) * y);
      floor.slabs.push_back({low, low + size * x, low + size * (x + y), low + size * y});
    }
  if (*rc::gen::arbitrary<bool>()) floor.slope = {between(-0.6f, 0.6f), between(-0.4f, 0.4f)};
  return floor;
}

/// Adds a polygon of the floor as a fan of triangles, moved and rounded.
void add(Level& level, const Slabs& floor, const Polygon& polygon, double rounding, dvec2 moved) {
  const auto first = static_cast<std::uint32_t>(level.corners.size());
  for (const dvec2 corner : polygon) {
    const dvec2 at = glm::round((corner + moved) / rounding) * rounding;
    level.corners.push_back(
        lift(vec2(at), static_cast<float>(std::round(floor.height(corner) / rounding) * rounding)));
  }
  for (std::uint32_t i = 2; i < polygon.size(); ++i)
    level.triangles.push_back({{first, first + i - 1, first + i}});
}

/// Each slab cut along random lines, each part a fan of its own: sides meet other sides anywhere.
Level cut_up(const Slabs& floor, double rounding, double most_moved) {
  Level level;
  const int cuts = *rc::gen::inRange(0, 7);
  for (const Polygon& slab : floor.slabs) {
    std::vector<Polygon> parts = {slab};
    for (int i = 0; i < cuts; ++i) {
      Polygon& part = parts[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(parts.size())))];
      dvec2 middle(0.0);
      double weights = 0;
      for (const dvec2 corner : part) {
        const auto weight = static_cast<double>(between(0.1f, 1));
        middle += weight * corner, weights += weight;
      }
      const dvec2 normal(unit(between(0, 6.28f)));
      Polygon left = left_of(part, middle / weights, normal),
              right = left_of(part, middle / weights, -normal);
      if (area(left) < 1e-4 || area(right) < 1e-4) continue;
      part = std::move(left);
      parts.push_back(std::move(right));
    }
    for (Polygon& part : parts) {
      std::ranges::rotate(part, part.begin() + *rc::gen::inRange(0, static_cast<int>(part.size())));
      add(level, floor, part, rounding,
          most_moved * static_cast<double>(between(0, 1)) * dvec2(unit(between(0, 6.28f))));
    }
  }
  return level;
}

/// The spot where a body stands at a point of a floor; nothing when it cannot.
std::optional<Spot> standing(const MeshGround& ground, dvec2 at, const Slabs& floor, const Body& body) {
  const vec3 point = lift(vec2(at), static_cast<float>(floor.height(at)));
  // On a slope, a piece that was moved lies above or below the floor.
  const Snap snap = ground.snap(point, {.aside = 0.f, .up = 0.2f, .down = 0.2f}, body);
  return snap.found && flat_distance(snap.spot.position, point) < 0.025f ? std::optional(snap.spot)
                                                                         : std::nullopt;
}

RC_GTEST_PROP(Seams, AFloorInPiecesIsTheSameGroundAsTheWholeFloor, ()) {
  const Slabs floor = random_slabs();
  RC_PRE(!floor.slabs.empty());
  const float gap = *rc::gen::element(0.03f, 0.03f, 0.f, between(0, 0.2f));
  const double moved = *rc::gen::arbitrary<bool>() ? 0.49 * static_cast<double>(gap) : 0;
  const double rounding = std::pow(10.0, -static_cast<double>(between(3, 4)));
  const LevelRules rules{.max_slope = 1, .gap = gap};
  Level whole;
  for (const Polygon& slab : floor.slabs) add(whole, floor, slab, 1e-6, dvec2(0.0));
  const auto pieces = MeshGround::make(cut_up(floor, rounding, moved), rules).value();
  const auto ideal = MeshGround::make(whole, rules).value();
  // What a wider body can do on the whole floor, this one can do on its pieces; and the other way round.
  const float slack = 0.01f + (moved > 0 ? gap : 0.f), radius = *rc::gen::element(0.3f, 0.6f, slack + 0.05f);
  const Body body{.radius = radius}, wider{.radius = radius + slack}, thinner{.radius = radius - slack};
  RC_PRE(radius > slack);
  Route one, other;
  for (int i = 0; i < 12; ++i) {
    const dvec2 from = floor.any_point(), to = floor.any_point();
    const auto spots = [&](const MeshGround& ground, const Body& who) {
      return std::pair(standing(ground, from, floor, who), standing(ground, to, floor, who));
    };
    const auto [a, b] = spots(*pieces, body);
    const auto compare =
        [&](const MeshGround& strict, std::pair<std::optional<Spot>, std::optional<Spot>> these,
            const MeshGround& lenient, std::pair<std::optional<Spot>, std::optional<Spot>> those) {
          if (!these.first || !these.second || !those.first || !those.second) return;
          RC_ASSERT(!strict.sight(*these.first, *these.second) || lenient.sight(*those.first, *those.second));
          strict.route(*these.first, *these.second, one);
          lenient.route(*those.first, *those.second, other);
          RC_ASSERT(!one.complete || other.complete);
          RC_ASSERT(!one.complete || other.length_xy < one.length_xy + 0.05f + slack);
        };
    const auto wide = spots(*ideal, wider), thin = spots(*ideal, thinner);
    RC_ASSERT(!wide.first || a);
    RC_ASSERT(!a || thin.first);
    compare(*ideal, wide, *pieces, {a, b});
    compare(*pieces, {a, b}, *ideal, thin);
  }
}

TEST(Seams, NoSlitUpToTheGapIsAWall) {
  for (int mm = 0; mm <= 40; ++mm) {
    const float slit = 0.001f * static_cast<float>(mm);
    Level level;
    add_sheet(level, {-4, -4, 0}, {4, -4, 0}, {4, 0, 0}, {-4, 0, 0});
    add_sheet(level, {-4, slit, 0}, {4, slit, 0}, {4, 4, 0}, {-4, 4, 0});
    const auto ground = MeshGround::make(level).value();  // a gap of 30 mm, and 4 for rounding
    Route route;
    ground->route(ground->snap({0, -1.5f, 0}, 0, {}).spot, ground->snap({0, 1.5f, 0}, 0, {}).spot, route);
    EXPECT_EQ(route.complete, mm <= 34) << mm;
    EXPECT_NEAR(route.complete ? route.length_xy : 3, 3, 1e-3f) << mm;
  }
}

}  // namespace
}  // namespace ambulon
