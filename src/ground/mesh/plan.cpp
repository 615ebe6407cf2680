#include "ambulon/ground/mesh/plan.hpp"

#include <algorithm>
#include <cmath>
#include <span>
#include <string_view>

#include <clipper.hpp>
#include <fmt/format.h>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"

#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/obstacle_groups.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

using ClipperLib::Path, ClipperLib::Paths;

constexpr float furthest = 400'000.f;  // metres
constexpr double arc = 1.0;            // millimetres: maximum error of the sides of a round corner,
constexpr double arc_part = 0.01;      // or this fraction of its radius

/// Converts the points of a line to millimetres; problems name `what` it is a part of.
Expected<Path> whole(const std::vector<vec2>& line, std::string_view what, std::size_t number,
                     std::size_t min) {
  if (line.size() < min)
    return problem(
        fmt::format("{} {} of the plan has {} points; it needs at least {}", what, number, line.size(), min));
  Path path;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const vec2 at = line[i];
    if (!(std::abs(at.x) <= furthest) || !(std::abs(at.y) <= furthest))
      return problem(
          fmt::format("point {} of {} {} of the plan lies at ({}, {}) m; a plan reaches {} km from the "
                      "origin",
                      i + 1, what, number, at.x, at.y, furthest / 1000));
    path.emplace_back(std::llround(at.x * per_metre), std::llround(at.y * per_metre));
  }
  return path;
}

/// Adds rings to `paths` with one orientation, so that overlapping ones unite.
Expected<std::size_t> add_rings(const std::vector<Plan::Ring>& rings, std::string_view what, Paths& paths) {
  for (std::size_t i = 0; i < rings.size(); ++i) {
    auto path = whole(rings[i], what, i + 1, 3);
    if (!path) return tl::unexpected(path.error());
    if (!ClipperLib::Orientation(*path)) ClipperLib::ReversePath(*path);
    paths.push_back(std::move(*path));
  }
  return rings.size();
}

Expected<std::size_t> add_walls(const std::vector<Plan::Wall>& walls, Paths& paths) {
  for (std::size_t i = 0; i < walls.size(); ++i) {
    const auto path = whole(walls[i].line, "wall", i + 1, 2);
    if (!path) return tl::unexpected(path.error());
    if (!Range{0.001f, 1000.f}.holds(walls[i].thickness))
      return problem(fmt::format("wall {} of the plan is {} m thick; it must lie between 0.001 and 1000 m",
                                 i + 1, walls[i].thickness));
    ClipperLib::ClipperOffset thick(2, arc);
    thick.AddPath(*path, ClipperLib::jtRound, ClipperLib::etOpenButt);
    Paths grown;
    thick.Execute(grown, 0.5 * walls[i].thickness * per_metre);
    paths.insert(paths.end(), grown.begin(), grown.end());
  }
  return walls.size();
}

double arc_of(double radius) { return std::max(arc, arc_part * radius); }

Outlines outlines_from(const Paths& paths) {
  Outlines outlines;
  for (const Path& path : paths) {
    auto& outline = outlines.emplace_back();
    for (const auto& point : path) outline.push_back({static_cast<int>(point.X), static_cast<int>(point.Y)});
  }
  return outlines;
}

Paths paths_from(const Outlines& outlines) {
  Paths paths;
  for (const auto& outline : outlines) {
    auto& path = paths.emplace_back();
    for (const PlanPoint point : outline) path.emplace_back(point.x, point.y);
  }
  return paths;
}

/// Larger rings first. Clipper takes the ring with the lowest corner for an outer one, of several the first;
/// a hole may touch its outer ring there.
Paths outer_first(Paths paths) {
  std::vector<std::pair<double, std::size_t>> order;
  for (std::size_t i = 0; i < paths.size(); ++i) order.emplace_back(-std::abs(ClipperLib::Area(paths[i])), i);
  std::ranges::sort(order);
  Paths sorted;
  for (const auto& [area, i] : order) sorted.push_back(std::move(paths[i]));
  return sorted;
}

/// Returns the ground without the obstacles, shrunk by `reach` millimetres.
Paths free_space(const Paths& ground, const Paths& taken, double reach) {
  ClipperLib::Clipper clipper;
  clipper.AddPaths(ground, ClipperLib::ptSubject, true);
  clipper.AddPaths(taken, ClipperLib::ptClip, true);
  Paths free;
  clipper.Execute(ClipperLib::ctDifference, free, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  if (reach > 0) {
    ClipperLib::ClipperOffset shrink(2, arc_of(reach));
    shrink.AddPaths(outer_first(std::move(free)), ClipperLib::jtRound, ClipperLib::etClosedPolygon);
    free.clear();
    shrink.Execute(free, -reach);
  }
  return free;
}

/// Returns the union of obstacles, grown by `reach` millimetres.
Paths grown_by(const Paths& taken, double reach) {
  Paths all;
  ClipperLib::SimplifyPolygons(taken, all, ClipperLib::pftNonZero);
  if (reach > 0) {
    ClipperLib::ClipperOffset grow(2, arc_of(reach));
    grow.AddPaths(outer_first(std::move(all)), ClipperLib::jtRound, ClipperLib::etClosedPolygon);
    all.clear();
    grow.Execute(all, reach);
  }
  return all;
}

}  // namespace

Expected<Outlines> outlines_for(const Plan& plan, float radius) {
  if (plan.outlines.empty())
    return problem("the plan has no outline; what can be walked on lies inside of one");
  if (!Range{0.f, 50.f}.holds(radius))
    return problem(fmt::format("a body of radius {} m; it must lie between 0 and 50 m", radius));
  Paths ground, taken;
  if (auto added = add_rings(plan.outlines, "outline", ground); !added) return tl::unexpected(added.error());
  if (auto added = add_rings(plan.holes, "hole", taken); !added) return tl::unexpected(added.error());
  if (auto added = add_rings(plan.solids, "solid", taken); !added) return tl::unexpected(added.error());
  if (auto added = add_walls(plan.walls, taken); !added) return tl::unexpected(added.error());

  // Clipper takes more than linear time, so what stands apart is handled apart.
  const double reach = radius * per_metre;
  const ObstacleGroups groups(ground, taken, static_cast<ClipperLib::cInt>(reach) + 2);
  Outlines outlines = outlines_from(free_space(ground, groups.at_edge(), reach));
  for (const Paths& group : groups.inside()) {
    const Outlines grown = outlines_from(grown_by(group, reach));
    outlines.insert(outlines.end(), grown.begin(), grown.end());
  }
  return outlines;
}

void lay_over(std::vector<CostlyOutlines>& all, float cost, const Outlines& outlines) {
  for (CostlyOutlines& each : all)
    if (each.cost != cost) each.outlines = without(each.outlines, outlines);
  const auto same = std::ranges::find(all, cost, &CostlyOutlines::cost);
  if (same == all.end()) {
    all.push_back({cost, united(outlines)});
  } else {
    same->outlines.insert(same->outlines.end(), outlines.begin(), outlines.end());
    same->outlines = united(same->outlines);
  }
}

Expected<std::vector<CostlyOutlines>> regions_of(const Plan& plan) {
  std::vector<CostlyOutlines> all;
  for (std::size_t i = 0; i < plan.regions.size(); ++i) {
    const Plan::Region& region = plan.regions[i];
    auto path = whole(region.ring, "region", i + 1, 3);
    if (!path) return tl::unexpected(path.error());
    if (!Range{1.f, 255.f}.holds(region.cost))
      return problem(fmt::format("region {} of the plan has a cost of {}; it must lie between 1 and 255",
                                 i + 1, region.cost));
    lay_over(all, region.cost, united(outlines_from({std::move(*path)})));
  }
  std::erase_if(all, [](const CostlyOutlines& each) { return each.cost == 1.f || each.outlines.empty(); });
  return all;
}

Outlines outlines_of(const Barrier& barrier, float radius) {
  Path path;
  for (const vec2 corner : barrier.corners()) {
    if (!(std::abs(corner.x) <= furthest) || !(std::abs(corner.y) <= furthest)) return {};
    path.emplace_back(std::llround(corner.x * per_metre), std::llround(corner.y * per_metre));
  }
  const double reach = (barrier.radius() + radius) * per_metre;
  Paths grown = {path};
  if (reach > 0) {
    ClipperLib::ClipperOffset grow(2, arc_of(reach));
    grow.AddPath(path, ClipperLib::jtRound,
                 path.size() < 3 ? ClipperLib::etOpenRound : ClipperLib::etClosedPolygon);
    grow.Execute(grown, reach);
  }
  return outlines_from(grown);
}

namespace {

/// Returns the union of the rings. Many rings are united by halves, since crossings dominate the time and
/// each half leaves few.
Paths united_paths(std::span<Path> rings) {
  constexpr std::size_t at_once = 24;
  Paths all;
  if (rings.size() <= at_once) {
    ClipperLib::SimplifyPolygons(Paths(rings.begin(), rings.end()), all, ClipperLib::pftNonZero);
    return all;
  }
  const auto [west, east] = std::ranges::minmax(rings, {}, [](const Path& ring) { return ring[0].X; });
  const auto [south, north] = std::ranges::minmax(rings, {}, [](const Path& ring) { return ring[0].Y; });
  const bool by_x = east[0].X - west[0].X > north[0].Y - south[0].Y;
  const auto middle = rings.begin() + static_cast<std::ptrdiff_t>(rings.size() / 2);
  std::ranges::nth_element(rings, middle, {}, [&](const Path& ring) {
    return by_x ? std::pair(ring[0].X, ring[0].Y) : std::pair(ring[0].Y, ring[0].X);
  });
  Paths halves = united_paths(std::span(rings.begin(), middle));
  const Paths other = united_paths(std::span(middle, rings.end()));
  halves.insert(halves.end(), other.begin(), other.end());
  ClipperLib::SimplifyPolygons(halves, all, ClipperLib::pftNonZero);
  return all;
}

}  // namespace

Outlines united(const Outlines& rings) {
  Paths paths = paths_from(rings);
  std::erase_if(paths, [](const Path& path) { return path.empty(); });
  return outlines_from(united_paths(paths));
}

Outlines offset(const Outlines& outlines, double millimetres) {
  ClipperLib::ClipperOffset offset(2, arc);
  offset.AddPaths(outer_first(paths_from(outlines)), ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
  Paths grown;
  offset.Execute(grown, millimetres);
  return outlines_from(grown);
}

Outlines closed(const Outlines& outlines, double gap) {
  return offset(offset(outlines, 0.5 * gap + 1), -0.5 * gap - 1);
}

Outlines without(const Outlines& outlines, const Outlines& taken) {
  ClipperLib::Clipper clipper;
  clipper.AddPaths(paths_from(outlines), ClipperLib::ptSubject, true);
  clipper.AddPaths(paths_from(taken), ClipperLib::ptClip, true);
  Paths left;
  clipper.Execute(ClipperLib::ctDifference, left, ClipperLib::pftEvenOdd, ClipperLib::pftNonZero);
  return outlines_from(left);
}

}  // namespace ambulon
