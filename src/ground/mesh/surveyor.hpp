#pragma once
// Finds the floors of a level, square by square.

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/ground/mesh/level.hpp"

#include "ground/mesh/level_index.hpp"
#include "ground/mesh/patch.hpp"
#include "region.hpp"

namespace ambulon {

/// Looks at a square, or when a floor lies above itself in it, at its quarters.
class Surveyor {
 public:
  /// Around each square that many millimetres are examined, at least the body's radius.
  Surveyor(const LevelIndex& level, const Body& body, double around = 0);

  /// The pieces of one floor.
  using Floor = std::span<const std::uint32_t>;
  /// Calls `visit(square, floors)` for each of the squares that it is divided into; `region()` then is what
  /// lies in and around that one.
  void look(const Square& square, const std::function<void(const Square&, std::span<const Floor>)>& visit);

  const Region& region() const { return region_; }
  /// What of a floor lies in the square or near it; empty when nothing does.
  std::vector<FloorSurface::Facet> facets_of(Floor floor, const Square& square) const;
  struct Extent {
    Outlines whole;  ///< the area that the pieces of a floor cover, slits included
    Outlines
        blocked;  ///< where the middle of a body cannot be: too near to the floor's end or to an obstacle
  };
  Extent extent(Floor floor) const;
  /// Where not even a point as high as the body can be, because of what stands on the floor or hangs over it.
  Outlines covered(Floor floor);

 private:
  void find_pieces(const Square& square);
  void find_groups();
  std::uint32_t root(std::uint32_t piece);
  void unite(std::uint32_t i, std::uint32_t j);
  bool joined(const Piece& a, const Piece& b) const;
  bool above_itself();

  const LevelIndex& level_;
  int gap_;
  double around_;
  Region region_;
};

}  // namespace ambulon
