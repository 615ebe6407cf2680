#pragma once

#include <cmath>
#include <numbers>
#include <vector>

#include "base/dvec2.hpp"
#include "generate.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

using Outline = std::vector<PlanPoint>;

inline int number(int min, int max) { return *rc::gen::inRange(min, max + 1); }

/// A star-shaped outline around a point, of 3 to 9 corners.
inline Outline blob(PlanPoint middle, int reach) {
  Outline outline;
  const int corners = number(3, 9);
  for (int i = 0; i < corners; ++i) {
    const double angle = 2 * std::numbers::pi * i / corners, radius = number(reach / 5, reach);
    outline.push_back({middle.x + static_cast<int>(radius * std::cos(angle)),
                       middle.y + static_cast<int>(radius * std::sin(angle))});
  }
  return outline;
}

/// A square with crates in it that do not touch, in the dented shapes of blobs or as upright boxes in rows.
inline std::vector<Outline> yard() {
  const int cells = number(1, 5), cell = 4000;
  const int side = cells * cell;
  std::vector<Outline> outlines = {{{0, 0}, {side, 0}, {side, side}, {0, side}}};
  const bool boxes = *rc::gen::arbitrary<bool>();
  for (int y = 0; y < cells; ++y)
    for (int x = 0; x < cells; ++x) {
      const PlanPoint middle{x * cell + cell / 2, y * cell + cell / 2};
      if (const int kind = number(0, 3); kind == 0) continue;
      const int w = number(1, 19) * 100, h = number(1, 19) * 100;
      outlines.push_back(boxes ? Outline{{middle.x - w, middle.y - h},
                                         {middle.x + w, middle.y - h},
                                         {middle.x + w, middle.y + h},
                                         {middle.x - w, middle.y + h}}
                               : blob(middle, 1900));
    }
  return outlines;
}

inline std::vector<PatchPolygons> polygons_of_all(const std::vector<Outlines>& patches) {
  std::vector<PatchPolygons> all;
  for (const Outlines& outlines : patches) all.push_back(polygons_of(*Triangulation::make(outlines)));
  return all;
}

/// A mesh of outlines between the origin and `size`, in patches.
inline ConvexMesh in_patches(const std::vector<Outline>& outlines, int size) {
  const PatchGrid grid = patches_for({-number(0, 500), -number(0, 500)}, {size, size}, number(1100, 9000));
  return {grid, polygons_of_all(cut_into_patches(outlines, grid))};
}

inline std::uint32_t some_polygon(const ConvexMesh& mesh) {
  std::uint32_t polygon = 0;
  do polygon = static_cast<std::uint32_t>(number(0, static_cast<int>(mesh.polygons().size()) - 1));
  while (mesh.polygons()[polygon].count == 0);
  return polygon;
}

/// A point that lies in no other polygon.
inline MeshSearch::Place inside_of_one(const ConvexMesh& mesh) {
  const std::uint32_t polygon = some_polygon(mesh);
  const auto sides = mesh.sides_of(polygon);
  dvec2 middle(0.0);
  for (const auto& side : sides) middle += mesh.corners()[side.corner].at / static_cast<double>(sides.size());
  return {middle, polygon};
}

/// A corner, the middle of a side, or a point inside of some polygon.
inline MeshSearch::Place somewhere(const ConvexMesh& mesh) {
  const std::uint32_t polygon = some_polygon(mesh);
  const auto first = static_cast<std::size_t>(number(0, 10));
  const auto corner = [&](std::size_t i) {
    const auto sides = mesh.sides_of(polygon);
    return mesh.corners()[sides[(first + i) % sides.size()].corner].at;
  };
  switch (number(0, 2)) {
    case 0:
      return {corner(0), polygon};
    case 1:
      return {(corner(0) + corner(1)) / 2.0, polygon};
    default:
      return inside_of_one(mesh);
  }
}

}  // namespace ambulon
