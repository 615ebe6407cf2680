#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/level.hpp"

#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A level made ready for surveys: its triangles in whole millimetres, and which are where.
class LevelIndex {
 public:
  /// A triangle of the level, its corners counter-clockwise where it can be seen from above.
  struct Facet : FloorSurface::Facet {
    bool floor = false;  ///< flat enough to walk on
    bool up = false;     ///< it faces up
    bool steep = false;  ///< it faces up, and would be walked on if it were less steep
    float cost = 1.f;    ///< times the length of a way over it
    static constexpr std::uint32_t no_shell = ~std::uint32_t{0};
    std::uint32_t shell = no_shell;  ///< the closed piece that it belongs to
  };

  static constexpr float furthest = 400'000.f;  ///< metres from the origin that a coordinate may be

  /// The problem, with its place, when there are no triangles, when one has a corner that is not there, or
  /// when a number is out of range.
  static Expected<LevelIndex> make(const Level& level, const LevelRules& rules);

  /// Of facets that were found to make sense.
  LevelIndex(int gap, std::vector<Facet> facets, std::vector<vec3> reach_from = {});

  const PatchGrid& grid() const { return grid_; }
  std::span<const Facet> facets() const { return facets_; }
  int gap() const { return gap_; }  ///< millimetres
  /// As the rules say.
  std::span<const vec3> reach_from() const { return reach_from_; }
  /// The pieces that are not closed, when the rules say that all should be; none of a restored level.
  std::span<const OpenPiece> open_pieces() const { return open_pieces_; }
  /// The numbers of the facets whose upright box touches that from `low` to `high`, in order.
  std::vector<std::uint32_t> near(PlanPoint low, PlanPoint high) const;

 private:
  int gap_ = 0;
  std::vector<vec3> reach_from_;
  std::vector<OpenPiece> open_pieces_;
  PatchGrid grid_;
  std::vector<Facet> facets_;
  Bins in_cells_;                     // of the grid
  std::vector<std::uint32_t> large_;  // facets that lie in too many cells to be listed
};

}  // namespace ambulon
