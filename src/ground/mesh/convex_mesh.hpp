#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The walkable area as a planar mesh of convex polygons, in millimetres.
///
/// 1. Corners have integer coordinates. Polygons of different floors may overlap on the plan.
/// 2. The mesh consists of patches that can be replaced. That changes the numbers of polygons, sides and
///    corners of the patch, and possibly of adjacent patches, and no others.
class ConvexMesh {
 public:
  static constexpr std::uint32_t none = ~std::uint32_t{0};
  static constexpr std::uint32_t max_sides = (1U << 28U) - 1;  ///< maximum number of sides of all polygons

  /// A side of a polygon from `corner` to the next one; the polygon is on its left (a half-edge).
  struct Side {
    dvec2 start{0.0};  ///< position of its corner
    std::uint32_t corner = 0;
    std::uint32_t polygon = 0;
    std::uint32_t across = none;  ///< the twin of the adjacent polygon; `none`: an edge of the ground
    // Copies of what searches need, so that they do not read the corner and the polygons.
    std::uint32_t next_open : 28 = 0;  ///< the next side of the polygon that is not an edge, if any
    std::uint32_t border : 1 = 0;      ///< the ground across has another cost
    std::uint32_t last : 1 = 0;        ///< the last of its polygon
    std::uint32_t blind : 1 = 0;       ///< the exit of a pocket that lies behind it
    std::uint32_t bend : 1 = 0;        ///< a shortest path may bend at its corner
  };
  struct Polygon {
    std::uint32_t first = 0;    ///< of its sides, which are contiguous and counter-clockwise
    std::uint32_t count = 0;    ///< at least 3; 0: unused number
    std::uint32_t node = 0;     ///< polygons of a patch with the same node are connected within the patch
    std::uint32_t exit = none;  ///< of a pocket: the only side that leads out of it, apart from further
                                ///< pockets; `none`: no pocket
    PlanPoint low, high;        ///< bounding box
    float cost = 1.f;           ///< times the length of a path over it
    const FloorSurface* floor = nullptr;  ///< its floor; null: height 0
  };
  struct Corner {
    dvec2 at{0.0};
    float height = 0;   ///< millimetres
    bool bend = false;  ///< the ground is concave here, so that a shortest path may bend
  };

  /// Makes a mesh of one patch from the inner triangles.
  explicit ConvexMesh(const Triangulation& triangulation);
  /// One patch for each cell of the grid.
  ConvexMesh(const PatchGrid& grid, std::vector<PatchPolygons> patches);
  /// The patches are the squares that each grid cell is divided into, cell by cell. Polygons of adjacent
  /// squares are joined if their sides differ in height by less than `step` millimetres.
  ConvexMesh(const PatchGrid& grid, const std::vector<std::vector<Square>>& squares,
             std::vector<PatchPolygons> patches, double step);

  /// Replaces the polygons of patches.
  struct Change {
    std::uint32_t patch;
    PatchPolygons polygons;
  };
  void replace(std::vector<Change> changes);

  const PatchGrid& grid() const { return grid_; }
  /// Returns the first patch of a grid cell; for the number of cells, the number of patches.
  std::uint32_t first_of(std::uint32_t cell) const { return first_of_cell_[cell]; }
  const Square& square(std::uint32_t patch) const { return patches_[patch].square; }
  /// Returns the first side of a patch, and their number.
  std::pair<std::uint32_t, std::uint32_t> sides_in(std::uint32_t patch) const {
    return {patches_[patch].sides.first, patches_[patch].sides.count};
  }
  /// Returns the polygons that a patch was made of.
  const PatchPolygons& polygons_in(std::uint32_t patch) const { return patches_[patch].made; }
  std::uint32_t patch_count() const { return static_cast<std::uint32_t>(patches_.size()); }
  std::span<const Corner> corners() const { return corners_; }
  std::span<const Side> sides() const { return sides_; }
  /// Includes unused numbers.
  std::span<const Polygon> polygons() const { return polygons_; }
  std::span<const Side> sides_of(std::uint32_t polygon) const {
    return std::span(sides_).subspan(polygons_[polygon].first, polygons_[polygon].count);
  }
  dvec2 start_of(std::uint32_t side) const { return sides_[side].start; }
  dvec2 end_of(std::uint32_t side) const { return start_of(after(side)); }
  /// Returns the next side of the same polygon.
  std::uint32_t after(std::uint32_t side) const {
    return sides_[side].last != 0 ? polygons_[sides_[side].polygon].first : side + 1;
  }
  /// Calls `visit(polygon)` for a pocket, and for each outer pocket that it belongs to.
  template <class Visit>
  void each_pocket_from(std::uint32_t polygon, Visit&& visit) const {
    for (; polygons_[polygon].exit != none; polygon = sides_[sides_[polygons_[polygon].exit].across].polygon)
      visit(polygon);
  }
  /// Returns the connected component of a polygon.
  std::uint32_t component(std::uint32_t polygon) const { return component_of_[polygons_[polygon].node]; }
  /// Calls `visit(component, square millimetres)` for each part of a component in a patch.
  template <class Visit>
  void each_area_in(std::uint32_t patch, Visit&& visit) const {
    const Block& nodes = patches_[patch].nodes;
    for (std::uint32_t node = nodes.first; node < nodes.first + nodes.count; ++node)
      visit(component_of_[node], node_area_[node]);
  }
  /// Calls `visit(polygon)` for each polygon of a patch, in order.
  template <class Visit>
  void each_polygon_in(std::uint32_t patch, Visit&& visit) const {
    const Block& in = patches_[patch].polygons;
    for (std::uint32_t i = in.first; i < in.first + in.count; ++i) visit(i);
  }
  /// Components are numbered below this.
  std::size_t component_count() const { return component_of_.size(); }
  /// Returns the area in square millimetres.
  double area(std::uint32_t polygon) const;
  double area() const;

  /// Returns the height of a polygon at a point, millimetres.
  double height(std::uint32_t polygon, dvec2 point) const {
    const FloorSurface* floor = polygons_[polygon].floor;
    return floor == nullptr ? 0.0 : floor->height(point);
  }

  /// Returns the first polygon that contains a point; its boundary belongs to it.
  std::optional<std::uint32_t> at(dvec2 point) const;
  /// Returns true if the polygon contains the point, boundary included.
  bool holds(std::uint32_t polygon, dvec2 point) const;
  /// Returns the nearest point of a polygon.
  dvec2 nearest_in(std::uint32_t polygon, dvec2 point) const;

  /// The side by which a straight line leaves a polygon.
  struct Exit {
    std::uint32_t side = none;  ///< `none`: it ends inside
    double part = 1;            ///< fraction of the line
    bool inside = true;         ///< its end is in the polygon
  };
  /// The line goes from `start` along `along`; the fraction `gone` is done. It may follow an edge of the
  /// ground 0.1 mm beyond it.
  Exit exit_of(std::uint32_t polygon, dvec2 start, dvec2 along, double gone) const;

  struct Nearest {
    std::uint32_t polygon = none;  ///< `none` if there is none
    dvec2 point{0.0};
  };
  /// Restrictions of a nearest-point query.
  struct Wanted {
    const std::vector<bool>* components = nullptr;          ///< allowed components, by number; null: all
    std::optional<double> height = {};                      ///< millimetres: preferred height
    double down = std::numeric_limits<double>::infinity();  ///< maximum distance below it
    double up = std::numeric_limits<double>::infinity();    ///< maximum distance above it
    bool in_space = true;  ///< distances are three-dimensional; false: heights only limit
    double within = std::numeric_limits<double>::infinity();  ///< millimetres: maximum distance
  };
  Nearest nearest(dvec2 point, const Wanted& wanted) const;
  Nearest nearest(dvec2 point) const { return nearest(point, Wanted{}); }
  /// Calls `visit(patch)` for each patch of a regular grid that touches the box from `low` to `high`.
  template <class Visit>
  void each_patch_near(dvec2 low, dvec2 high, Visit&& visit) const {
    for (int row = grid_.row_at(low.y); row <= grid_.row_at(high.y); ++row)
      for (int column = grid_.column_at(low.x); column <= grid_.column_at(high.x); ++column) {
        const std::uint32_t cell = grid_.number(column, row);
        for (std::uint32_t patch = first_of_cell_[cell]; patch < first_of_cell_[cell + 1]; ++patch) {
          const Square& square = patches_[patch].square;
          if (square.low.x <= high.x && square.low.y <= high.y && square.low.x + square.size >= low.x &&
              square.low.y + square.size >= low.y)
            visit(patch);
        }
      }
  }
  /// Calls `visit(polygon)` once for each polygon whose bounding box touches that from `low` to `high`, in a
  /// fixed order.
  template <class Visit>
  void each_near(dvec2 low, dvec2 high, Visit&& visit) const {
    for (int row = grid_.row_at(low.y); row <= grid_.row_at(high.y); ++row)
      for (int column = grid_.column_at(low.x); column <= grid_.column_at(high.x); ++column) {
        const std::uint32_t cell = grid_.number(column, row);
        for (std::uint32_t patch = first_of_cell_[cell]; patch < first_of_cell_[cell + 1]; ++patch) {
          const Block& in = patches_[patch].polygons;
          for (std::uint32_t i = in.first; i < in.first + in.count; ++i) {
            const Polygon& polygon = polygons_[i];
            if (polygon.low.x <= high.x && polygon.low.y <= high.y && polygon.high.x >= low.x &&
                polygon.high.y >= low.y)
              visit(i);
          }
        }
      }
  }

 private:
  /// A patch's range in an array of all patches, with spare capacity.
  struct Block {
    std::uint32_t first = 0, count = 0, room = 0;
  };
  /// A side on the border of a patch that may be joined to the next patch: its range along the border.
  struct Seam {
    int low, high;
    double height;  // of its middle
    std::uint32_t side;
    friend auto operator<=>(const Seam&, const Seam&) = default;
  };
  struct Patch {
    Square square;
    std::array<std::vector<std::uint32_t>, 4> beside;  // adjacent patches, by border
    PatchPolygons made;
    std::array<std::vector<int>, 4> ends;    // ends of sides on each border, ascending
    std::array<std::vector<Seam>, 4> seams;  // ascending
    std::vector<std::uint32_t> at_rim;       // polygons with a corner on a border
    Block polygons, sides, corners, nodes;
    std::vector<std::pair<std::uint32_t, std::uint32_t>>
        links;  // nodes connected over its eastern and northern border
  };
  class Assembler;

  PatchGrid grid_;
  double step_ = 1;
  std::vector<std::uint32_t> first_of_cell_;  // first patch of each grid cell; then their number
  std::vector<Patch> patches_;
  std::vector<Corner> corners_;
  std::vector<Side> sides_;
  std::vector<Polygon> polygons_;
  std::vector<std::uint32_t> component_of_;  // by node
  std::vector<double> node_area_;            // square millimetres, by node
};

}  // namespace ambulon
