#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

#include "ground/mesh/bins.hpp"
#include "ground/mesh/triangulation.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A square seen from above, its sides upright; millimetres.
struct Square {
  PlanPoint low;  ///< the south-western corner
  int size = 0;   ///< to a side
};

/// How high a floor lies. It consists of triangles, seen from above, in whole millimetres; where several lie
/// above each other, the uppermost is stood on.
class FloorSurface {
 public:
  struct Facet {
    std::array<PlanPoint, 3> corners;  ///< counter-clockwise
    std::array<int, 3> heights;        ///< of the corners
  };

  /// Of facets in or around a square; at least one.
  FloorSurface(const Square& square, std::vector<Facet> facets);

  std::span<const Facet> facets() const { return facets_; }
  /// The height, in millimetres, of the floor at a point of the square; beside it, that of what is nearest.
  double height(dvec2 at) const;
  /// The lowest and the highest corner of the facets whose upright box touches that from `low` to `high`; the
  /// first is the greater when there are none.
  std::pair<int, int> range(dvec2 low, dvec2 high) const;

 private:
  int place(double off) const;
  std::uint32_t bin(int column, int row) const { return static_cast<std::uint32_t>(row * across_ + column); }

  Square square_;
  std::vector<Facet> facets_;
  int across_ = 1;  // bins to a side
  Bins bins_;       // of facets
};

inline dvec2 to_vec(PlanPoint point) { return {point.x, point.y}; }
/// How high the plane of a facet lies at a point.
double height_at(const FloorSurface::Facet& facet, dvec2 at);
/// The corners of the upright box around a facet, seen from above.
std::pair<PlanPoint, PlanPoint> box_of(const FloorSurface::Facet& facet);

}  // namespace ambulon
