// Obstacles: what stands on a floor or hangs above it.

#include <algorithm>
#include <tuple>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/patch.hpp"
#include "region.hpp"

namespace ambulon {
namespace {

using Facet = FloorSurface::Facet;
using Parts = std::vector<ConvexPart>;

/// The interval of a floor that a vertical triangle obstructs, from west to east (or south to north).
struct Wall {
  std::uint32_t of;  // piece
  dvec2 from, to;
};

bool before(dvec2 a, dvec2 b) { return a.x != b.x ? a.x < b.x : a.y < b.y; }

/// Removes from parts above a piece of a floor what another piece of the floor covers.
void leave_out_covered(const Region& region, std::uint32_t of, Parts& parts) {
  const Facet& facet = region.pieces[of].facet;
  const Box& box = region.pieces[of].box;
  std::vector<std::uint32_t> covering;
  region.places->each_near(box_of(parts[0]), survey_mm, [&](std::uint32_t j) {
    const Box& other = region.pieces[j].box;
    if (j != of && region.same_floor(j, of) && other.highest > box.lowest &&
        other.lowest < box.highest + region.tall)
      covering.push_back(j);
  });
  Parts rest;
  for (const std::uint32_t j : covering) {
    const Facet& other = region.pieces[j].facet;
    const auto higher = [&](const SpacePoint& point) {
      return height_at(other, point.at) - height_at(facet, point.at) - 1;
    };
    const auto not_too_high = [&](const SpacePoint& point) { return region.tall - higher(point); };
    rest.clear();
    for (ConvexPart& part : parts) {
      // Only the covered area is split; otherwise parts would multiply with each piece.
      ConvexPart covered = part;
      keep_over(covered, other, survey_mm + 1);
      keep(covered, higher);
      keep(covered, not_too_high);
      if (covered.empty()) {
        rest.push_back(std::move(part));
        continue;
      }
      split(part, higher, rest);
      split(part, not_too_high, rest);
      if (!part.empty()) add_beside(std::move(part), other, survey_mm + 1, rest);
    }
    std::swap(parts, rest);
  }
}

/// Vertical triangles stand on many pieces of a floor; their intervals are united first.
void add_walls(const Region& region, std::vector<Wall>& walls, Outlines& blocked) {
  std::ranges::sort(walls, {},
                    [](const Wall& wall) { return std::tuple(wall.of, wall.from.x, wall.from.y); });
  for (std::size_t i = 0, end = 0; i < walls.size(); i = end) {
    dvec2 to = walls[i].to;
    for (end = i + 1; end < walls.size() && walls[end].of == walls[i].of; ++end) {
      const Wall& next = walls[end];
      if (before(to, next.from) && glm::distance(next.from, to) > 2 * survey_mm) break;
      if (before(to, next.to)) to = next.to;
    }
    const SpacePoint ends[] = {{walls[i].from}, {to}};
    blocked.push_back(grown(ends, region.radius));
  }
}

}  // namespace

void add_obstacles(const Region& region, std::span<const std::uint32_t> floor, Outlines& blocked) {
  std::vector<Wall> walls;
  std::vector<std::uint32_t> standing;
  Parts parts;
  for (const std::uint32_t i : floor) {
    const Piece& below = region.pieces[i];
    standing.clear();
    region.places->each_near(below.box, survey_mm, [&](std::uint32_t j) {
      const Box& box = region.pieces[j].box;
      if (box.highest > below.box.lowest + region.step && box.lowest < below.box.highest + region.tall &&
          !region.same_floor(i, j))
        standing.push_back(j);
    });
    for (const std::uint32_t j : standing) {
      ConvexPart part = region.pieces[j].part;
      keep_over(part, below.facet, survey_mm);
      keep_between(part, below.facet, region.step, region.tall);
      if (part.empty()) continue;
      parts.clear();
      parts.push_back(std::move(part));
      leave_out_covered(region, i, parts);
      for (const ConvexPart& each : parts) {
        if (can_be_seen(region.pieces[j].facet)) {
          blocked.push_back(grown(each, region.radius));
          continue;
        }
        const auto [first, last] = std::ranges::minmax_element(each, before, &SpacePoint::at);
        walls.push_back({j, first->at, last->at});
      }
    }
  }
  add_walls(region, walls, blocked);
}

}  // namespace ambulon
