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

/// A level prepared for surveys: triangles in integer millimetres, with a grid of them.
class LevelIndex {
 public:
  /// A triangle of the level; counter-clockwise if it has an area on the plan.
  struct Facet : FloorSurface::Facet {
    bool floor = false;  ///< flat enough to walk on
    bool up = false;     ///< faces up
    bool steep = false;  ///< faces up, and is only too steep to walk on
    float cost = 1.f;    ///< times the length of a path over it
    static constexpr std::uint32_t no_shell = ~std::uint32_t{0};
    std::uint32_t shell = no_shell;  ///< the closed piece that it belongs to
  };

  static constexpr float furthest = 400'000.f;  ///< metres: maximum coordinate

  /// Returns a problem, with its place, if there are no triangles, a corner does not exist, or a number is
  /// out of range.
  static Expected<LevelIndex> make(const Level& level, const LevelRules& rules);

  /// For facets that were validated.
  LevelIndex(int gap, std::vector<Facet> facets, std::vector<vec3> reach_from = {});

  const PatchGrid& grid() const { return grid_; }
  std::span<const Facet> facets() const { return facets_; }
  int gap() const { return gap_; }  ///< millimetres
  /// As in the rules.
  std::span<const vec3> reach_from() const { return reach_from_; }
  /// Returns the pieces that are not closed, if the rules demand closed ones; empty for a restored level.
  std::span<const OpenPiece> open_pieces() const { return open_pieces_; }
  /// Returns the facets whose bounding box touches that from `low` to `high`, ascending.
  std::vector<std::uint32_t> near(PlanPoint low, PlanPoint high) const;

 private:
  int gap_ = 0;
  std::vector<vec3> reach_from_;
  std::vector<OpenPiece> open_pieces_;
  PatchGrid grid_;
  std::vector<Facet> facets_;
  Bins in_cells_;                     // by grid cell
  std::vector<std::uint32_t> large_;  // facets in too many cells to be listed
};

}  // namespace ambulon
