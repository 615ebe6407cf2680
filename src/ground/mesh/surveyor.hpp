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

/// Analyses a square; if a floor overlaps itself there, its quarters.
class Surveyor {
 public:
  /// `around`: millimetres around each square that are included, at least the body's radius.
  Surveyor(const LevelIndex& level, const Body& body, double around = 0);

  /// The pieces of one floor.
  using Floor = std::span<const std::uint32_t>;
  /// Calls `visit(square, floors)` for each square of the subdivision. During the call `region()` describes
  /// it.
  void look(const Square& square, const std::function<void(const Square&, std::span<const Floor>)>& visit);

  const Region& region() const { return region_; }
  /// Returns the parts of a floor in or near the square.
  std::vector<FloorSurface::Facet> facets_of(Floor floor, const Square& square) const;
  struct Extent {
    Outlines whole;    ///< the area of the floor's pieces, with spanned slits
    Outlines blocked;  ///< where the centre of a body cannot be: too close to an edge or an obstacle
  };
  Extent extent(Floor floor) const;
  /// Returns where not even a vertical line of the body's height fits, because of obstacles on or above the
  /// floor.
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
