#include "ambulon/ground/mesh/rejected.hpp"

#include <algorithm>

#include "base/dvec2.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"
#include "surveyor.hpp"

namespace ambulon {
namespace {

constexpr double min_width = 40;    // millimetres: slivers are left out,
constexpr double of_corners = 0.4;  // radii: narrower parts, as in corners of rooms, are left out

Outlines without_slivers(const Outlines& outlines, double width) {
  return offset(offset(outlines, -0.5 * width), 0.5 * width);
}

/// Adds outlines as convex pieces; without a surface their height is 0.
void add(Rejection why, const Outlines& outlines, const FloorSurface* surface,
         std::vector<RejectedPart>& parts) {
  const auto triangulation = Triangulation::make(outlines);
  if (!triangulation) return;
  const PatchPolygons polygons = polygons_of(*triangulation);
  for (std::size_t polygon = 0; polygon < polygons.count(); ++polygon) {
    RejectedPart& part = parts.emplace_back(RejectedPart{why, {}});
    for (std::uint32_t side = polygons.first[polygon]; side < polygons.first[polygon + 1]; ++side) {
      const dvec2 at = to_vec(polygons.corners[polygons.sides[side].corner]);
      const double height = surface != nullptr ? surface->height(at) : 0.0;
      part.corners.push_back(lift(in_metres(at), static_cast<float>(height / per_metre)));
    }
  }
}

/// Returns what of `standing` (where a vertical line fits) no body with its centre in `free` covers.
Outlines narrow(const Outlines& standing, const Outlines& free, double radius) {
  return without_slivers(without(standing, offset(free, radius + survey_mm)),
                         std::max(min_width, of_corners * radius));
}

void add_floor(Surveyor& surveyor, Surveyor::Floor floor, const Square& square,
               std::vector<RejectedPart>& parts) {
  auto facets = surveyor.facets_of(floor, square);
  if (facets.empty()) return;
  const FloorSurface surface(square, std::move(facets));
  const auto [whole, blocked] = surveyor.extent(floor);
  const Outlines free = without(whole, blocked);
  const Outlines standing = without(whole, surveyor.covered(floor));
  const auto in_square = [&](const Outlines& outlines) { return cut_to_square(outlines, square); };
  add(Rejection::too_low, in_square(without_slivers(without(whole, standing), min_width)), &surface, parts);
  add(Rejection::too_narrow, in_square(narrow(standing, free, surveyor.region().radius)), &surface, parts);
}

}  // namespace

std::string_view name(Rejection why) {
  switch (why) {
    case Rejection::too_steep:
      return "too steep";
    case Rejection::too_low:
      return "too low";
    case Rejection::too_narrow:
      return "too narrow";
    case Rejection::out_of_reach:
      break;
  }
  return "out of reach";
}

std::vector<RejectedPart> rejected(const LevelIndex& level, const Body& body) {
  std::vector<RejectedPart> parts;
  for (const LevelIndex::Facet& facet : level.facets()) {
    if (!facet.steep) continue;
    RejectedPart& part = parts.emplace_back(RejectedPart{Rejection::too_steep, {}});
    for (std::size_t i = 0; i < 3; ++i)
      part.corners.push_back(
          lift(in_metres(to_vec(facet.corners[i])), static_cast<float>(facet.heights[i] / per_metre)));
  }
  // Free space is known only where everything within the body's radius is.
  Surveyor surveyor(level, body, 2 * per_metre * body.radius + min_width);
  for (std::uint32_t cell = 0; cell < level.grid().count(); ++cell)
    surveyor.look(level.grid().square(cell),
                  [&](const Square& square, std::span<const Surveyor::Floor> floors) {
                    for (const Surveyor::Floor floor : floors) add_floor(surveyor, floor, square, parts);
                  });
  return parts;
}

std::vector<RejectedPart> rejected(const Plan& plan, float radius) {
  std::vector<RejectedPart> parts;
  const auto standing = outlines_for(plan, 0.f), free = outlines_for(plan, radius);
  if (standing && free)
    add(Rejection::too_narrow, narrow(*standing, *free, per_metre * radius), nullptr, parts);
  return parts;
}

}  // namespace ambulon
