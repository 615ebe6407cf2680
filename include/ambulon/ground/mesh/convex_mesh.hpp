#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "ambulon/base/vec.hpp"
#include "ambulon/ground/mesh/triangulation.hpp"

namespace ambulon {

/// Convex polygons, side by side, that make up what can be walked on. Positions are in millimetres; corners
/// lie on whole ones.
class ConvexMesh {
 public:
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  /// A side of a polygon, from `corner` to the corner of the side after it; the polygon lies to the left.
  struct Side {
    std::uint32_t corner;
    std::uint32_t polygon;
    std::uint32_t across = none;  ///< the same side of the polygon beyond it; `none`: an edge of the ground
  };
  struct Polygon {
    std::uint32_t first;      ///< of its sides, which come one after the other, counter-clockwise
    std::uint32_t count;      ///< 3 or more
    std::uint32_t component;  ///< polygons with the same number can be reached from each other
    std::uint32_t ways = 0;   ///< sides beyond which there is another polygon
  };
  struct Corner {
    dvec2 at;
    bool bend = false;  ///< the ground is dented here, so that a shortest way may bend around it
  };

  /// Of the triangles inside, merged as long as they stay convex: S. Hertel and K. Mehlhorn, "Fast
  /// Triangulation of Simple Polygons" (1983).
  explicit ConvexMesh(const Triangulation& triangulation);

  std::span<const Corner> corners() const { return corners_; }
  std::span<const Side> sides() const { return sides_; }
  std::span<const Polygon> polygons() const { return polygons_; }
  std::span<const Side> sides_of(std::uint32_t polygon) const {
    return std::span(sides_).subspan(polygons_[polygon].first, polygons_[polygon].count);
  }
  dvec2 start_of(std::uint32_t side) const { return corners_[sides_[side].corner].at; }
  dvec2 end_of(std::uint32_t side) const { return start_of(after(side)); }
  /// The side after one, around its polygon.
  std::uint32_t after(std::uint32_t side) const {
    const Polygon& polygon = polygons_[sides_[side].polygon];
    return side + 1 == polygon.first + polygon.count ? polygon.first : side + 1;
  }
  /// Square millimetres.
  double area(std::uint32_t polygon) const;
  double area() const { return area_; }

  /// The polygon that a point lies in or on the rim of, if there is one.
  std::optional<std::uint32_t> at(dvec2 point) const;
  /// True when the point lies in the polygon or on its rim.
  bool holds(std::uint32_t polygon, dvec2 point) const;
  /// The point of a polygon that is nearest to one.
  dvec2 nearest_in(std::uint32_t polygon, dvec2 point) const;

  struct Nearest {
    std::uint32_t polygon = none;  ///< `none` when there is none
    dvec2 point{0.0};
  };
  /// The nearest point of all polygons of a component, or of all.
  Nearest nearest(dvec2 point, std::uint32_t component = none) const;
  /// Calls `visit(polygon)` for each polygon whose upright box touches that from `low` to `high`, in the
  /// order of their numbers for each cell of the index; a polygon may come several times.
  template <class Visit>
  void each_near(dvec2 low, dvec2 high, Visit&& visit) const {
    const CellPlace least = cell_at(low), most = cell_at(high);
    for (int y = least.y; y <= most.y; ++y)
      for (int x = least.x; x <= most.x; ++x)
        for (const std::uint32_t polygon : in_cell(x, y)) visit(polygon);
  }

 private:
  struct CellPlace {
    int x, y;
  };
  void merge(const Triangulation& triangulation);
  void find_bends();
  void find_components();
  void make_index();
  CellPlace cell_at(dvec2 point) const;
  std::span<const std::uint32_t> in_cell(int x, int y) const {
    const auto cell =
        static_cast<std::size_t>(y) * static_cast<std::size_t>(across_) + static_cast<std::size_t>(x);
    return std::span(listed_).subspan(first_in_[cell], first_in_[cell + 1] - first_in_[cell]);
  }

  std::vector<Corner> corners_;
  std::vector<Side> sides_;
  std::vector<Polygon> polygons_;
  double area_ = 0;

  // An even grid over everything: which polygons' boxes touch each of its cells.
  dvec2 low_{0.0}, high_{0.0};
  double cell_ = 1;  // millimetres
  int across_ = 0, up_ = 0;
  std::vector<std::uint32_t> first_in_, listed_;
};

}  // namespace ambulon
