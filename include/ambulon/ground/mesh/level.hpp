#pragma once

#include <array>
#include <cstdint>
#include <numbers>
#include <span>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/ground/mesh/patch.hpp"

namespace ambulon {

/// The geometry of a level: triangles of any number of floors, facing either way, which may overlap, cross
/// and leave gaps. Z is up. Coordinates are metres, up to 400 km from the origin.
struct Level {
  /// What a triangle is to those who walk.
  enum class Kind : std::uint8_t {
    solid,   ///< in the way, and walked on where it is flat enough
    barred,  ///< in the way, and never walked on
    decor,   ///< not there at all
  };
  struct Triangle {
    std::array<std::uint32_t, 3> corners;  ///< in `corners` of the level
    Kind kind = Kind::solid;
    float cost = 1.f;  ///< times the length of a way over it, 1 to 255
  };

  std::vector<vec3> corners{};
  std::vector<Triangle> triangles{};
};

/// What counts as walkable, whatever the body.
struct LevelRules {
  float max_slope = 45.f * std::numbers::pi_v<float> / 180.f;  ///< radians, 0 to 1.4
  float gap = 0.03f;    ///< metres, 0 to 0.2: how far pieces of a floor may be apart that belong together
  bool closed = false;  ///< all pieces of the level are closed and face outwards: then nobody can be inside
                        ///< of them; without, their insides count as rooms that have no door
};

/// A level made ready for surveys: its triangles in whole millimetres, and which are where.
class LevelIndex {
 public:
  /// A triangle of the level, its corners counter-clockwise where it can be seen from above.
  struct Facet : FloorSurface::Facet {
    bool floor = false;  ///< flat enough to walk on
    bool up = false;     ///< it faces up
    bool steep = false;  ///< it faces up, and would be walked on if it were less steep
    float cost = 1.f;    ///< times the length of a way over it
  };

  /// The problem, with its place, when there are no triangles, when one has a corner that is not there, or
  /// when a number is out of range.
  static Expected<LevelIndex> make(const Level& level, const LevelRules& rules);

  /// Of facets that were found to make sense.
  LevelIndex(int gap, bool closed, std::vector<Facet> facets);

  const PatchGrid& grid() const { return grid_; }
  std::span<const Facet> facets() const { return facets_; }
  int gap() const { return gap_; }  ///< millimetres
  bool closed() const { return closed_; }
  /// The numbers of the facets whose upright box touches that from `low` to `high`, in order.
  std::vector<std::uint32_t> near(PlanPoint low, PlanPoint high) const;

 private:
  int gap_ = 0;
  bool closed_ = false;
  PatchGrid grid_;
  std::vector<Facet> facets_;
  Bins in_cells_;  // of the grid
};

}  // namespace ambulon
