// What stands on a floor, hangs over it, or has it inside.

#include <tuple>

#include "region.hpp"

namespace ambulon {
namespace {

using Facet = FloorSurface::Facet;
using Parts = std::vector<ConvexPart>;

constexpr double sky = 1e12;  // millimetres

/// True when a facet has an area as seen from above.
bool can_be_seen(const Facet& facet) {
  return turn(facet.corners[0], facet.corners[1], facet.corners[2]) > 0;
}

/// What an upright triangle takes of a floor, from west to east (or south to north).
struct Wall {
  std::uint32_t of;  // piece
  dvec2 from, to;
};

bool before(dvec2 a, dvec2 b) { return a.x != b.x ? a.x < b.x : a.y < b.y; }

/// Takes from parts above a piece of a floor what lies where another piece of it lies above that one.
void leave_out_covered(const Region& region, std::uint32_t of, Parts& parts) {
  const Facet& facet = region.pieces[of].facet;
  const Box& box = region.pieces[of].box;
  std::vector<std::uint32_t> covering;
  region.places->each_near(box_of(parts[0]), rounding, [&](std::uint32_t j) {
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
    rest.clear();
    for (ConvexPart& part : parts) {
      split(part, higher, rest);
      split(part, [&](const SpacePoint& point) { return region.tall - higher(point); }, rest);
      if (!part.empty()) add_beside(std::move(part), other, rounding + 1, rest);
    }
    std::swap(parts, rest);
  }
}

/// Upright triangles stand on many pieces of a floor; what they take of it is put together first.
void add_walls(const Region& region, std::vector<Wall>& walls, Outlines& blocked) {
  std::ranges::sort(walls, {},
                    [](const Wall& wall) { return std::tuple(wall.of, wall.from.x, wall.from.y); });
  for (std::size_t i = 0, end = 0; i < walls.size(); i = end) {
    dvec2 to = walls[i].to;
    for (end = i + 1; end < walls.size() && walls[end].of == walls[i].of; ++end) {
      const Wall& next = walls[end];
      if (before(to, next.from) && glm::distance(next.from, to) > 2 * rounding) break;
      if (before(to, next.to)) to = next.to;
    }
    const SpacePoint ends[] = {{walls[i].from}, {to}};
    blocked.push_back(grown(ends, region.radius));
  }
}

/// Takes from parts above a piece of a floor what has something between it and the floor that faces down.
void leave_out_sheltered(const Facet& floor, const Facet& shelter, Parts& parts) {
  const auto below_roof = [&](const SpacePoint& point) {
    return point.height - height_at(shelter, point.at) - rounding;
  };
  const auto above_floor = [&](const SpacePoint& point) {
    return height_at(shelter, point.at) - height_at(floor, point.at) - rounding;
  };
  Parts rest;
  for (ConvexPart& part : parts) {
    split(part, below_roof, rest);
    split(part, above_floor, rest);
    // Grown, so that nothing is left over where two of them meet.
    if (!part.empty()) add_beside(std::move(part), shelter, rounding, rest);
  }
  parts = std::move(rest);
}

}  // namespace

void add_obstacles(const Region& region, std::span<const std::uint32_t> floor, Outlines& blocked) {
  std::vector<Wall> walls;
  std::vector<std::uint32_t> standing;
  Parts parts;
  for (const std::uint32_t i : floor) {
    const Piece& below = region.pieces[i];
    standing.clear();
    region.places->each_near(below.box, rounding, [&](std::uint32_t j) {
      const Box& box = region.pieces[j].box;
      if (box.highest > below.box.lowest + region.step && box.lowest < below.box.highest + region.tall &&
          !region.same_floor(i, j))
        standing.push_back(j);
    });
    for (const std::uint32_t j : standing) {
      ConvexPart part = region.pieces[j].part;
      keep_over(part, below.facet, rounding);
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

void add_insides(const Region& region, std::span<const std::uint32_t> floor, Outlines& blocked) {
  Parts parts;
  std::vector<std::uint32_t> roofs, shelters;
  for (const std::uint32_t i : floor) {
    const Piece& below = region.pieces[i];
    roofs.clear(), shelters.clear();
    region.places->each_near(below.box, -rounding, [&](std::uint32_t j) {
      const Piece& piece = region.pieces[j];
      if (piece.box.highest <= below.box.lowest + rounding || !can_be_seen(piece.facet)) return;
      if (!piece.up)
        shelters.push_back(j);
      else if (!region.same_floor(i, j))
        roofs.push_back(j);
    });
    for (const std::uint32_t roof : roofs) {
      parts.assign(1, region.pieces[roof].part);
      keep_over(parts[0], below.facet, 0);
      keep_between(parts[0], below.facet, region.step, sky);
      if (parts[0].empty()) continue;
      for (const std::uint32_t shelter : shelters)
        leave_out_sheltered(below.facet, region.pieces[shelter].facet, parts);
      for (const ConvexPart& each : parts) blocked.push_back(grown(each, 1));  // walls are around it
    }
  }
}

}  // namespace ambulon
