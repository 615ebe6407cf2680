#pragma once

#include <array>
#include <cstdint>
#include <numbers>
#include <span>
#include <string_view>
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
  float gap = 0.03f;  ///< metres, 0 to 0.2: how far pieces of a floor may be apart that belong together
  /// Metres, up to 400 km from the origin: places where play happens. Only ground that a body can reach from
  /// the spot nearest to one of them is kept, on foot and by crossings: those that bodies take by themselves,
  /// and those that were placed before the mesh was made, shut or not. Barriers do not count. Empty: all
  /// ground is kept.
  std::vector<vec3> reach_from = {};
  bool closed = false;  ///< the level is meant to consist of closed pieces only: `MeshGround::open_pieces`
                        ///< then lists those that are not. The ground is the same without it.
};

/// A connected piece of a level's surface that is not closed. It has no inside: floors below it are ground,
/// and it can be walked on whichever way it faces. A closed piece, whose triangles all face outwards, is
/// solid: there is no ground inside of it.
struct OpenPiece {
  enum class Fault : std::uint8_t {
    hole,        ///< an edge has only one triangle: a sheet, or a hole
    winding,     ///< triangles at an edge face opposite ways
    inside_out,  ///< all triangles face inwards
    flat,        ///< it encloses no volume
  };
  std::uint32_t first_triangle = 0;  ///< its first triangle in `Level::triangles`, from 0
  std::uint32_t triangles = 0;       ///< how many it has
  Fault fault = Fault::hole;         ///< the first that was found
  vec3 at{0.f};                      ///< metres: where
};

/// In words, as in "an edge has only one triangle".
std::string_view name(OpenPiece::Fault fault);

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
