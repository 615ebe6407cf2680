#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"
#include "ground/mesh/bins.hpp"
#include "ground/mesh/triangulation.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A square on the plan, millimetres.
struct Square {
  PlanPoint low;  ///< south-western corner
  int size = 0;   ///< edge length
};

/// The height of a floor: a set of triangles with integer corners in millimetres. Where several overlap, the
/// highest counts.
class FloorSurface {
 public:
  struct Facet {
    std::array<PlanPoint, 3> corners;  ///< counter-clockwise
    std::array<int, 3> heights;        ///< of the corners
  };

  /// `facets`: at least one, in or around the square.
  FloorSurface(const Square& square, std::vector<Facet> facets);

  std::span<const Facet> facets() const { return facets_; }
  /// Returns the height of the floor in millimetres at a point of the square. Outside of all facets, the
  /// nearest one counts.
  double height(dvec2 at) const;
  /// Returns the lowest and the highest corner of the facets whose bounding box touches that from `low` to
  /// `high`. The first is the greater one if there are none.
  std::pair<int, int> range(dvec2 low, dvec2 high) const;

 private:
  int place(double off) const;
  std::uint32_t bin(int column, int row) const { return static_cast<std::uint32_t>(row * across_ + column); }

  Square square_;
  std::vector<Facet> facets_;
  int across_ = 1;  // bins per row
  Bins bins_;       // of facets
};

inline dvec2 to_vec(PlanPoint point) { return {point.x, point.y}; }
/// Returns the height of the plane of a facet at a point.
double height_at(const FloorSurface::Facet& facet, dvec2 at);
/// Returns the bounding box of a facet on the plan.
std::pair<PlanPoint, PlanPoint> box_of(const FloorSurface::Facet& facet);

}  // namespace ambulon
