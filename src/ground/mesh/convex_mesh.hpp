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

#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Convex polygons, side by side, that make up what can be walked on, seen from above. Positions are in
/// millimetres; corners lie on whole ones. Polygons of different floors may lie above each other. It is made
/// of patches, each of which can be given other polygons: then the numbers of polygons, sides and corners in
/// it change, perhaps in the patches beside it, and no others.
class ConvexMesh {
 public:
  static constexpr std::uint32_t none = ~std::uint32_t{0};
  static constexpr std::uint32_t max_sides = (1U << 29U) - 1;  ///< that all polygons can have together

  /// A side of a polygon, from `corner` to the corner of the side after it; the polygon lies to the left.
  struct Side {
    dvec2 start{0.0};  ///< where its corner is
    std::uint32_t corner = 0;
    std::uint32_t polygon = 0;
    std::uint32_t across = none;  ///< the same side of the polygon beyond it; `none`: an edge of the ground
    // What searches ask of a side, so that they need not look up its corner and its polygons.
    std::uint32_t next_open : 29 = 0;  ///< the next side of the polygon that is no edge, when there is one
    std::uint32_t last : 1 = 0;        ///< it is the last of its polygon
    std::uint32_t blind : 1 = 0;       ///< beyond it lies a pocket, of which it is the exit
    std::uint32_t bend : 1 = 0;        ///< its corner is one that a shortest way may bend around
  };
  struct Polygon {
    std::uint32_t first = 0;  ///< of its sides, which come one after the other, counter-clockwise
    std::uint32_t count = 0;  ///< 3 or more; 0: the number is not in use
    std::uint32_t node = 0;   ///< polygons of a patch with the same one can be reached from each other in it
    std::uint32_t exit = none;  ///< of a pocket, the side by which alone one gets out of it, but for further
                                ///< pockets; `none`: it is none
    PlanPoint low, high;        ///< the corners of the upright box around it
    float cost = 1.f;           ///< times the length of a way over it
    const FloorSurface* floor = nullptr;  ///< that it lies on; null: height 0
  };
  struct Corner {
    dvec2 at{0.0};
    float height = 0;   ///< millimetres
    bool bend = false;  ///< the ground is dented here, so that a shortest way may bend around it
  };

  /// Of one patch: the triangles inside.
  explicit ConvexMesh(const Triangulation& triangulation);
  /// Of as many patches as the grid has.
  ConvexMesh(const PatchGrid& grid, std::vector<PatchPolygons> patches);
  /// Of patches that are the squares into which each cell of the grid is divided, cell by cell. Polygons of
  /// neighbouring squares are joined where their sides lie less than `step` millimetres above each other.
  ConvexMesh(const PatchGrid& grid, const std::vector<std::vector<Square>>& squares,
             std::vector<PatchPolygons> patches, double step);

  /// Gives patches other polygons.
  struct Change {
    std::uint32_t patch;
    PatchPolygons polygons;
  };
  void replace(std::vector<Change> changes);

  const PatchGrid& grid() const { return grid_; }
  /// The first patch of a cell of the grid; of the number of cells, the number of patches.
  std::uint32_t first_of(std::uint32_t cell) const { return first_of_cell_[cell]; }
  const Square& square(std::uint32_t patch) const { return patches_[patch].square; }
  /// The first side of a patch, and how many there are.
  std::pair<std::uint32_t, std::uint32_t> sides_in(std::uint32_t patch) const {
    return {patches_[patch].sides.first, patches_[patch].sides.count};
  }
  /// What a patch was given.
  const PatchPolygons& polygons_in(std::uint32_t patch) const { return patches_[patch].made; }
  std::uint32_t patch_count() const { return static_cast<std::uint32_t>(patches_.size()); }
  std::span<const Corner> corners() const { return corners_; }
  std::span<const Side> sides() const { return sides_; }
  /// Those whose numbers are not in use included.
  std::span<const Polygon> polygons() const { return polygons_; }
  std::span<const Side> sides_of(std::uint32_t polygon) const {
    return std::span(sides_).subspan(polygons_[polygon].first, polygons_[polygon].count);
  }
  dvec2 start_of(std::uint32_t side) const { return sides_[side].start; }
  dvec2 end_of(std::uint32_t side) const { return start_of(after(side)); }
  /// The side after one, around its polygon.
  std::uint32_t after(std::uint32_t side) const {
    return sides_[side].last != 0 ? polygons_[sides_[side].polygon].first : side + 1;
  }
  /// Calls `visit(polygon)` for a polygon that is a pocket, and each further out that it is a pocket of.
  template <class Visit>
  void each_pocket_from(std::uint32_t polygon, Visit&& visit) const {
    for (; polygons_[polygon].exit != none; polygon = sides_[sides_[polygons_[polygon].exit].across].polygon)
      visit(polygon);
  }
  /// Polygons can be reached from each other when they have the same one.
  std::uint32_t component(std::uint32_t polygon) const { return component_of_[polygons_[polygon].node]; }
  /// Calls `visit(component, square millimetres)` for each piece of a component that lies in a patch.
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
  /// Their numbers lie below this.
  std::size_t component_count() const { return component_of_.size(); }
  /// Square millimetres.
  double area(std::uint32_t polygon) const;
  double area() const;

  /// Millimetres: how high the ground of a polygon lies at a point of it.
  double height(std::uint32_t polygon, dvec2 point) const {
    const FloorSurface* floor = polygons_[polygon].floor;
    return floor == nullptr ? 0.0 : floor->height(point);
  }

  /// The polygon that a point lies in or on the rim of, if there is one; of several, the first.
  std::optional<std::uint32_t> at(dvec2 point) const;
  /// True when the point lies in the polygon or on its rim.
  bool holds(std::uint32_t polygon, dvec2 point) const;
  /// The point of a polygon that is nearest to one.
  dvec2 nearest_in(std::uint32_t polygon, dvec2 point) const;

  struct Nearest {
    std::uint32_t polygon = none;  ///< `none` when there is none
    dvec2 point{0.0};
  };
  /// What is looked for: the nearest point, seen from above, of all polygons of some components, or of all.
  struct Wanted {
    const std::vector<bool>* components = nullptr;          ///< which, by their numbers; null: all
    std::optional<double> height = {};                      ///< millimetres: near this one,
    double down = std::numeric_limits<double>::infinity();  ///< at most so far below it
    double up = std::numeric_limits<double>::infinity();    ///< and above it;
    bool in_space = true;  ///< heights count as much as what one sees from above; false: they only limit
    double within = std::numeric_limits<double>::infinity();  ///< millimetres: at most so far off
  };
  Nearest nearest(dvec2 point, const Wanted& wanted) const;
  Nearest nearest(dvec2 point) const { return nearest(point, Wanted{}); }
  /// Calls `visit(patch)` for each patch of a grid that touches the upright box from `low` to `high`.
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
  /// Calls `visit(polygon)` once for each polygon whose upright box touches that from `low` to `high`, always
  /// in the same order.
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
  /// A patch's share of a list of all patches, with room for more.
  struct Block {
    std::uint32_t first = 0, count = 0, room = 0;
  };
  /// A side on the rim of a patch, beyond which the next patch may go on: along the rim from `low` to `high`.
  struct Seam {
    int low, high;
    double height;  // of its middle
    std::uint32_t side;
    friend auto operator<=>(const Seam&, const Seam&) = default;
  };
  struct Patch {
    Square square;
    std::array<std::vector<std::uint32_t>, 4> beside;  // patches, by rim
    PatchPolygons made;
    std::array<std::vector<int>, 4> ends;    // of sides on each of its rims: where along it, in order
    std::array<std::vector<Seam>, 4> seams;  // in order
    Block polygons, sides, corners, nodes;
    std::vector<std::pair<std::uint32_t, std::uint32_t>>
        links;  // nodes joined over its eastern and northern rim
  };
  class Writer;

  template <class Item>
  static void make_room(std::vector<Item>& items, Block& block, std::size_t count);
  void find_neighbours();
  template <class Visit>
  void each_around(const std::vector<std::uint32_t>& patches, int reach, Visit&& visit) const;
  std::optional<std::uint32_t> rim_of(std::uint32_t patch, PlanPoint a, PlanPoint b) const;
  void find_ends(std::uint32_t patch);
  void write(std::uint32_t patch);
  void join_rim(std::uint32_t patch, std::uint32_t rim);
  void find_nodes(std::uint32_t patch);
  void find_links(std::uint32_t patch);
  bool on_rim(std::uint32_t patch, dvec2 at) const;
  void forget_rim_bends(std::uint32_t patch);
  void find_bends(std::uint32_t patch, bool only_rim);
  void link_sides(std::uint32_t patch);
  void find_pockets(std::uint32_t patch);
  void find_components();

  PatchGrid grid_;
  double step_ = 1;
  std::vector<std::uint32_t> first_of_cell_;  // patch, of each cell of the grid; then their number
  std::vector<Patch> patches_;
  std::vector<Corner> corners_;
  std::vector<Side> sides_;
  std::vector<Polygon> polygons_;
  std::vector<std::uint32_t> component_of_;  // nodes
  std::vector<double> node_area_;            // square millimetres, of each
};

}  // namespace ambulon
