#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "ground/mesh/floor_surface.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

/// A grid of square patches, row by row from the south-west. A change of the ground rebuilds only the patches
/// that it touches.
struct PatchGrid {
  PlanPoint low;           ///< south-western corner
  int size = 0;            ///< millimetres: edge of a patch; 0: one unbounded patch
  int across = 1, up = 1;  ///< number of columns and rows

  std::uint32_t count() const { return static_cast<std::uint32_t>(across) * static_cast<std::uint32_t>(up); }
  /// Returns the patch of a column and a row, which must exist.
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
  /// Returns the column or row of a coordinate, clamped.
  int column_at(double x) const { return place(x - low.x, across); }
  int row_at(double y) const { return place(y - low.y, up); }

 private:
  int place(double off, int count) const {
    if (size == 0 || !(off > 0)) return 0;
    const double at = off / size;
    return at < count ? static_cast<int>(at) : count - 1;
  }
};

/// Returns the grid for outlines in the box from `low` to `high`. `size`: edge of a patch in millimetres; it
/// grows if there would be too many.
PatchGrid patches_for(PlanPoint low, PlanPoint high, int size);

/// Closed outlines with the even-odd rule.
using Outlines = std::vector<std::vector<PlanPoint>>;

/// Outlines of ground with a cost.
struct CostlyOutlines {
  float cost = 1.f;  ///< times the length
  Outlines outlines;
};

/// Cuts outlines at the borders of patches. Both patches get the same points on a border.
std::vector<Outlines> cut_into_patches(const Outlines& outlines, const PatchGrid& grid);

/// Cuts outlines to one square, exactly as `cut_into_patches` does.
Outlines cut_to_square(const Outlines& outlines, const Square& square);

/// Adjacent convex polygons, before they are joined to those of other patches.
struct PatchPolygons {
  static constexpr std::uint32_t none = ~std::uint32_t{0};
  /// From `corner` to the next side's corner; its polygon is on the left.
  struct Side {
    std::uint32_t corner;
    std::uint32_t across;  ///< the twin in another polygon; `none`: there is none
  };
  std::vector<PlanPoint> corners;
  std::vector<Side> sides;           ///< polygon by polygon, counter-clockwise
  std::vector<std::uint32_t> first;  ///< by polygon: its first side; then the number of sides
  std::vector<std::uint32_t> floor;  ///< by polygon: index in `floors`; empty if all have height 0
  std::vector<std::shared_ptr<const FloorSurface>> floors{};
  std::vector<float> cost{};  ///< by polygon, times the length of a path; empty if all are 1

  /// Adds polygons of another floor, not joined to these.
  void add(const PatchPolygons& polygons, std::shared_ptr<const FloorSurface> floor_of_them);
  std::size_t count() const { return first.empty() ? 0 : first.size() - 1; }
};

/// Merges the inner triangles into convex polygons: S. Hertel, K. Mehlhorn, "Fast Triangulation of Simple
/// Polygons" (1983). `costs`: of the regions; where several overlap, the last one counts.
PatchPolygons polygons_of(const Triangulation& triangulation, std::span<const float> costs = {});

}  // namespace ambulon
