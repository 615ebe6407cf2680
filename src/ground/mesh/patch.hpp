#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "ground/mesh/floor_surface.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

/// The square patches that a mesh is made of, so that a change of the ground rebuilds only those that it
/// touches: rows of them from the south-west.
struct PatchGrid {
  PlanPoint low;           ///< the south-western corner
  int size = 0;            ///< millimetres to a side; 0: one patch that holds everything
  int across = 1, up = 1;  ///< patches to the east and to the north

  std::uint32_t count() const { return static_cast<std::uint32_t>(across) * static_cast<std::uint32_t>(up); }
  /// The patch of a column and a row that are there.
  std::uint32_t number(int column, int row) const {
    return static_cast<std::uint32_t>(row) * static_cast<std::uint32_t>(across) +
           static_cast<std::uint32_t>(column);
  }
  int column(std::uint32_t patch) const {
    return static_cast<int>(patch % static_cast<std::uint32_t>(across));
  }
  int row(std::uint32_t patch) const { return static_cast<int>(patch / static_cast<std::uint32_t>(across)); }
  Square square(std::uint32_t patch) const {
    return {{low.x + column(patch) * size, low.y + row(patch) * size}, size};
  }
  /// The column or row that a coordinate lies in; the nearest one outside.
  int column_at(double x) const { return place(x - low.x, across); }
  int row_at(double y) const { return place(y - low.y, up); }

 private:
  int place(double off, int count) const {
    if (size == 0 || !(off > 0)) return 0;
    const double at = off / size;
    return at < count ? static_cast<int>(at) : count - 1;
  }
};

/// The patches for outlines within the box from `low` to `high`: `size` millimetres to a side, more where
/// that would make too many of them.
PatchGrid patches_for(PlanPoint low, PlanPoint high, int size);

/// Closed outlines, inside of which is what lies inside of an odd number of them.
using Outlines = std::vector<std::vector<PlanPoint>>;

/// Ground on which a way counts for more than it is long.
struct CostlyOutlines {
  float cost = 1.f;  ///< times the length
  Outlines outlines;
};

/// What of outlines lies in each patch. Where a side leaves a patch, it is cut at the same point for both.
std::vector<Outlines> cut_into_patches(const Outlines& outlines, const PatchGrid& grid);

/// What of outlines lies in one square: the same as `cut_into_patches` puts into a patch.
Outlines cut_to_square(const Outlines& outlines, const Square& square);

/// Convex polygons side by side, before they are joined with those of other patches.
struct PatchPolygons {
  static constexpr std::uint32_t none = ~std::uint32_t{0};
  /// From `corner` to the corner of the side after it; its polygon lies to the left.
  struct Side {
    std::uint32_t corner;
    std::uint32_t across;  ///< the same side of another of the polygons; `none`: there is none
  };
  std::vector<PlanPoint> corners;
  std::vector<Side> sides;           ///< polygon by polygon, counter-clockwise
  std::vector<std::uint32_t> first;  ///< of each polygon its first side; then the number of sides
  std::vector<std::uint32_t>
      floor;  ///< of each polygon its floor, in `floors`; empty when all lie at height 0
  std::vector<std::shared_ptr<const FloorSurface>> floors{};
  std::vector<float> cost{};  ///< of each polygon, times the length of a way; empty when all is 1

  /// Adds polygons that lie on another floor, not joined with these.
  void add(const PatchPolygons& polygons, std::shared_ptr<const FloorSurface> floor_of_them);
  std::size_t count() const { return first.empty() ? 0 : first.size() - 1; }
};

/// The triangles inside, merged as long as they stay convex: S. Hertel and K. Mehlhorn, "Fast Triangulation
/// of Simple Polygons" (1983). `costs` are those of the regions; where several overlap, the last one counts.
PatchPolygons polygons_of(const Triangulation& triangulation, std::span<const float> costs = {});

}  // namespace ambulon
