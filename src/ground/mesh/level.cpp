#include "ambulon/ground/mesh/level.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <glm/ext/vector_double3.hpp>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/triangulation.hpp"
#include "shells.hpp"

namespace ambulon {
namespace {

constexpr int patch_size = 16'000;  // millimetres; doubled until there are at most
constexpr std::size_t patches_for_none = 64, patches_for_each = 16;  // 64 patches, and 16 for each triangle
constexpr std::int64_t max_cells = 256;  // that list one triangle; larger triangles are listed separately

struct LevelPoint {
  PlanPoint at;
  int height;
};

LevelPoint in_mm(vec3 metres) {
  const auto whole = [](float value) { return static_cast<int>(std::lround(value * 1000.0)); };
  return {{whole(metres.x), whole(metres.y)}, whole(metres.z)};
}

/// Returns true if a triangle is no steeper than `steepest` radians. Uses the original corners, since
/// rounding would tilt a narrow triangle.
bool flat_enough(const std::array<vec3, 3>& corners, double steepest) {
  const glm::dvec3 first(corners[0]);
  const glm::dvec3 normal = glm::cross(glm::dvec3(corners[1]) - first, glm::dvec3(corners[2]) - first);
  return normal.z != 0 && std::atan2(std::hypot(normal.x, normal.y), std::abs(normal.z)) <= steepest + 1e-6;
}

/// Returns a problem if a point is not finite or too far from the origin; `what` and its number name it.
Expected<void> all_near(std::span<const vec3> points, const char* what) {
  for (std::size_t i = 0; i < points.size(); ++i)
    if (const vec3 at = points[i];
        !finite(at) || glm::any(glm::greaterThan(glm::abs(at), vec3(LevelIndex::furthest))))
      return problem(fmt::format("{} lies at ({}, {}, {}) m; a level reaches {} km from the origin",
                                 fmt::format(fmt::runtime(what), i + 1), at.x, at.y, at.z,
                                 LevelIndex::furthest / 1000));
  return {};
}

}  // namespace

Expected<LevelIndex> LevelIndex::make(const Level& level, const LevelRules& rules) {
  if (level.triangles.empty()) return problem("the level has no triangles");
  if (!Range{0.f, 1.4f}.holds(rules.max_slope))
    return problem(
        fmt::format("a greatest slope of {} radians; it must lie between 0 and 1.4", rules.max_slope));
  if (!Range{0.f, 0.2f}.holds(rules.gap))
    return problem(fmt::format("a gap of {} m; it must lie between 0 and 0.2 m", rules.gap));
  for (const auto& [points, what] : {std::pair(std::span(rules.reach_from), "place {} of reach_from"),
                                     std::pair(std::span(level.corners), "corner {} of the level")})
    if (const auto near = all_near(points, what); !near) return tl::unexpected(near.error());
  std::vector<Facet> facets;
  std::vector<SolidTriangle> solids;
  std::vector<std::uint32_t> number;  // of their triangles
  for (std::size_t i = 0; i < level.triangles.size(); ++i) {
    const Level::Triangle& triangle = level.triangles[i];
    std::array<LevelPoint, 3> corners{};
    std::array<vec3, 3> true_corners{};
    for (std::size_t corner = 0; corner < 3; ++corner) {
      if (triangle.corners[corner] >= level.corners.size())
        return problem(fmt::format("triangle {} of the level has corner {}; the last one is {}", i + 1,
                                   triangle.corners[corner] + std::size_t{1}, level.corners.size()));
      true_corners[corner] = level.corners[triangle.corners[corner]];
      corners[corner] = in_mm(true_corners[corner]);
    }
    if (triangle.kind == Level::Kind::decor) continue;
    if (!Range{1.f, 255.f}.holds(triangle.cost))
      return problem(fmt::format("triangle {} of the level has a cost of {}; it must lie between 1 and 255",
                                 i + 1, triangle.cost));
    SolidTriangle& solid_triangle = solids.emplace_back();
    for (std::size_t corner = 0; corner < 3; ++corner)
      solid_triangle[corner] = {corners[corner].at.x, corners[corner].at.y, corners[corner].height};
    number.push_back(static_cast<std::uint32_t>(i));
    const std::int64_t area = turn(corners[0].at, corners[1].at, corners[2].at);
    const bool up = area > 0;
    if (!up) std::swap(corners[1], corners[2]);
    Facet facet;
    facet.corners = {corners[0].at, corners[1].at, corners[2].at};
    facet.heights = {corners[0].height, corners[1].height, corners[2].height};
    facet.up = up;
    facet.cost = triangle.cost;
    const bool solid = triangle.kind == Level::Kind::solid,
               flat = area != 0 && flat_enough(true_corners, rules.max_slope);
    facet.floor = solid && flat;
    facet.steep = solid && !flat && up;
    facets.push_back(facet);
  }
  Shells shells = find_shells(solids);
  for (std::size_t i = 0; i < facets.size(); ++i) {
    facets[i].shell = shells.of[i];
    facets[i].floor = facets[i].floor && (facets[i].up || facets[i].shell == Facet::no_shell);
  }
  LevelIndex index(static_cast<int>(std::lround(rules.gap * 1000.0)), std::move(facets), rules.reach_from);
  if (rules.closed) index.open_pieces_ = std::move(shells.open);
  for (OpenPiece& piece : index.open_pieces_) piece.first_triangle = number[piece.first_triangle];
  return index;
}

LevelIndex::LevelIndex(int gap, std::vector<Facet> facets, std::vector<vec3> reach_from)
    : gap_(gap), reach_from_(std::move(reach_from)), facets_(std::move(facets)) {
  PlanPoint low{PlanPoint::max, PlanPoint::max}, high{-PlanPoint::max, -PlanPoint::max};
  for (const Facet& facet : facets_) {
    const auto [min, max] = box_of(facet);
    low = {std::min(low.x, min.x), std::min(low.y, min.y)};
    high = {std::max(high.x, max.x), std::max(high.y, max.y)};
  }
  if (facets_.empty()) low = high = {0, 0};
  for (int size = patch_size;; size *= 2) {
    grid_ = patches_for(low, high, size);
    if (grid_.count() <= patches_for_none + patches_for_each * facets_.size()) break;
  }
  std::vector<std::pair<std::uint32_t, std::uint32_t>> placed;  // cell and facet
  for (std::uint32_t facet = 0; facet < facets_.size(); ++facet) {
    const auto [min, max] = box_of(facets_[facet]);
    const std::int64_t across = grid_.column_at(max.x) - grid_.column_at(min.x) + 1,
                       up = grid_.row_at(max.y) - grid_.row_at(min.y) + 1;
    if (across * up > max_cells) {
      large_.push_back(facet);
      continue;
    }
    for (int row = grid_.row_at(min.y); row <= grid_.row_at(max.y); ++row)
      for (int column = grid_.column_at(min.x); column <= grid_.column_at(max.x); ++column)
        placed.emplace_back(grid_.number(column, row), facet);
  }
  in_cells_ = Bins(grid_.count(), std::move(placed));
}

namespace {

/// Separating axis test of a facet and a box.
bool touches(const FloorSurface::Facet& facet, PlanPoint low, PlanPoint high) {
  const auto [min, max] = box_of(facet);
  if (min.x > high.x || min.y > high.y || max.x < low.x || max.y < low.y) return false;
  const std::array<PlanPoint, 4> corners = {low, {high.x, low.y}, high, {low.x, high.y}};
  for (std::size_t i = 0; i < 3; ++i)
    if (std::ranges::all_of(corners, [&](PlanPoint corner) {
          return turn(facet.corners[i], facet.corners[(i + 1) % 3], corner) < 0;
        }))
      return false;
  return true;
}

}  // namespace

std::vector<std::uint32_t> LevelIndex::near(PlanPoint low, PlanPoint high) const {
  std::vector<std::uint32_t> found;
  for (int row = grid_.row_at(low.y); row <= grid_.row_at(high.y); ++row)
    for (int column = grid_.column_at(low.x); column <= grid_.column_at(high.x); ++column) {
      for (const std::uint32_t facet : in_cells_.in(grid_.number(column, row))) {
        const auto [min, max] = box_of(facets_[facet]);
        if (min.x <= high.x && min.y <= high.y && max.x >= low.x && max.y >= low.y) found.push_back(facet);
      }
    }
  for (const std::uint32_t facet : large_)
    if (touches(facets_[facet], low, high)) found.push_back(facet);
  std::ranges::sort(found);
  found.erase(std::unique(found.begin(), found.end()), found.end());
  return found;
}

}  // namespace ambulon
