// Removes the parts of floors that lie inside of solids.

#include <algorithm>
#include <tuple>

#include <clipper.hpp>

#include "ambulon/ground/mesh/plan.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"
#include "region.hpp"

namespace ambulon {
namespace {

using ClipperLib::Path, ClipperLib::Paths;

constexpr double sky = 1e12;     // millimetres
constexpr double per_unit = 32;  // units per millimetre, for areas that are united

/// Areas in units around the centre of a region, so that numbers stay small.
class Areas {
 public:
  explicit Areas(const Region& region) : middle_(glm::floor(0.5 * (region.low + region.high))) {}

  Path path_of(const ConvexPart& part, bool reversed = false) const {
    Path path;
    for (const SpacePoint& point : part) {
      const dvec2 at = (point.at - middle_) * per_unit;
      path.emplace_back(std::llround(at.x), std::llround(at.y));
    }
    if (ClipperLib::Orientation(path) == reversed) ClipperLib::ReversePath(path);
    return path;
  }
  Outlines outlines_of(const Paths& paths) const {
    Outlines outlines;
    for (const Path& path : paths) {
      auto& outline = outlines.emplace_back();
      for (const auto& point : path) {
        const dvec2 at =
            middle_ + dvec2(static_cast<double>(point.X), static_cast<double>(point.Y)) / per_unit;
        const PlanPoint whole{static_cast<int>(std::lround(at.x)), static_cast<int>(std::lround(at.y))};
        if (outline.empty() || outline.back() != whole) outline.push_back(whole);
      }
      if (outline.size() < 3) outlines.pop_back();
    }
    return outlines;
  }

 private:
  dvec2 middle_;
};

Paths combined(ClipperLib::ClipType type, const Paths& one, const Paths& other,
               ClipperLib::PolyFillType fill_one = ClipperLib::pftNonZero) {
  ClipperLib::Clipper clipper;
  clipper.AddPaths(one, ClipperLib::ptSubject, true);
  clipper.AddPaths(other, ClipperLib::ptClip, true);
  Paths made;
  clipper.Execute(type, made, fill_one, ClipperLib::pftNonZero);
  return made;
}

/// Returns the part of a piece above a floor's facet by more than `above` millimetres. It extends slightly
/// beyond the facet, so that rounding leaves no sliver.
ConvexPart part_over(const Piece& piece, const FloorSurface::Facet& floor, double above) {
  ConvexPart part = piece.part;
  keep_over(part, floor, tolerance::sliver_mm);
  keep_between(part, floor, above, sky);
  return part;
}

/// Adds the areas of a floor's piece where more up-facing than down-facing surfaces of one shell are more
/// than `above` millimetres higher. `low_tops`: surfaces between `above` and the body's step count only if
/// they are floors.
void add_below(const Region& region, const Areas& areas, const Piece& floor,
               std::span<const std::uint32_t> over, double above, bool low_tops, Paths& inside) {
  Paths tops, all;
  bool hangs = false;
  for (const std::uint32_t j : over) {
    const Piece& piece = region.pieces[j];
    if (piece.box.highest <= floor.box.lowest + above) continue;
    const ConvexPart part = part_over(piece, floor.facet, above);
    if (part.size() < 3) continue;
    all.push_back(areas.path_of(part, !piece.up));
    hangs = hangs || !piece.up;
    if (!piece.up) continue;
    const ConvexPart top = !low_tops || piece.floor ? part : part_over(piece, floor.facet, region.step);
    if (top.size() >= 3) tops.push_back(areas.path_of(top));
  }
  if (hangs && !tops.empty()) tops = combined(ClipperLib::ctIntersection, all, tops, ClipperLib::pftPositive);
  inside.insert(inside.end(), tops.begin(), tops.end());
}

/// Adds the area of a floor's piece inside of one shell; `over` are the shell's pieces above it.
///
/// 1. A point of the floor is inside, unless the solid is a low obstacle that a body steps over.
/// 2. Or the shell begins below a body's step and contains all that is above.
void add_inside(const Region& region, const Areas& areas, const Piece& floor,
                std::span<const std::uint32_t> over, Paths& inside) {
  add_below(region, areas, floor, over, survey_mm, true, inside);
  const bool hangs_low = std::ranges::any_of(over, [&](std::uint32_t j) {
    const Piece& piece = region.pieces[j];
    return !piece.up && piece.box.lowest < floor.box.highest + region.step;
  });
  if (hangs_low) add_below(region, areas, floor, over, region.step, false, inside);
}

/// Returns true for a triangle narrower than a sliver.
bool narrow(const Triangulation& triangulation, std::size_t triangle) {
  const auto corner = [&](std::size_t i) {
    return triangulation.points()[triangulation.triangles()[triangle].corners[i % 3]];
  };
  double longest = 0;
  for (std::size_t i = 0; i < 3; ++i)
    longest = std::max(longest, glm::distance(to_vec(corner(i)), to_vec(corner(i + 1))));
  return static_cast<double>(turn(corner(0), corner(1), corner(2))) < tolerance::sliver_mm * longest;
}

/// Adds the piece's facet without an area, as triangles.
void add_rest(const Areas& areas, const Piece& piece, const Paths& inside, std::vector<Piece>& pieces) {
  const Outlines rest =
      areas.outlines_of(combined(ClipperLib::ctDifference, {areas.path_of(piece.part)}, inside));
  const auto triangulation = Triangulation::make(rest);
  if (!triangulation) {  // cannot be computed: keeps too much rather than too little
    pieces.push_back(piece);
    return;
  }
  const std::vector<bool> is_inside = triangulation->inside();
  for (std::size_t i = 0; i < is_inside.size(); ++i) {
    if (!is_inside[i] || narrow(*triangulation, i)) continue;
    Piece& part = pieces.emplace_back(piece);
    part.part.clear();
    for (std::size_t k = 0; k < 3; ++k) {
      const PlanPoint corner = triangulation->points()[triangulation->triangles()[i].corners[k]];
      part.facet.corners[k] = corner;
      part.facet.heights[k] = static_cast<int>(std::lround(height_at(piece.facet, to_vec(corner))));
      part.part.push_back({to_vec(corner), static_cast<double>(part.facet.heights[k])});
    }
    part.box = box_of(part.part);
  }
}

}  // namespace

bool leave_out_insides(Region& region) {
  const Areas areas(region);
  std::vector<Piece> made;
  std::vector<std::uint32_t> left_out, over;
  for (std::uint32_t i = 0; i < region.pieces.size(); ++i) {
    const Piece& floor = region.pieces[i];
    if (!floor.floor) continue;
    over.clear();
    region.places->each_near(floor.box, -survey_mm, [&](std::uint32_t j) {
      const Piece& piece = region.pieces[j];
      if (j != i && piece.shell != Piece::no_shell && can_be_seen(piece.facet) &&
          piece.box.highest > floor.box.lowest + survey_mm)
        over.push_back(j);
    });
    std::ranges::sort(over, {}, [&](std::uint32_t j) { return std::pair(region.pieces[j].shell, j); });
    Paths inside;
    for (std::size_t k = 0, end = 0; k < over.size(); k = end) {
      while (end < over.size() && region.pieces[over[end]].shell == region.pieces[over[k]].shell) ++end;
      add_inside(region, areas, floor, std::span(over).subspan(k, end - k), inside);
    }
    if (inside.empty()) continue;
    add_rest(areas, floor, inside, made);
    left_out.push_back(i);
  }
  if (left_out.empty()) return false;
  for (const std::uint32_t i : left_out) region.pieces[i].part.clear();
  std::erase_if(region.pieces, [](const Piece& piece) { return piece.part.empty(); });
  std::ranges::move(made, std::back_inserter(region.pieces));
  return true;
}

}  // namespace ambulon
