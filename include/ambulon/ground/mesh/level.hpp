#pragma once

#include <array>
#include <cstdint>
#include <numbers>
#include <string_view>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The triangles of a level with any number of storeys. They may face either way, overlap, intersect and
/// leave gaps. Z is up. Coordinates are metres, up to 400 km from the origin.
struct Level {
  /// How a triangle takes part in the survey.
  enum class Kind : std::uint8_t {
    solid,   ///< an obstacle, and walkable where it is flat enough
    barred,  ///< an obstacle, never walkable
    decor,   ///< ignored
  };
  /// Three corners, and what the surface is.
  struct Triangle {
    std::array<std::uint32_t, 3> corners;  ///< indices into `Level::corners`
    Kind kind = Kind::solid;
    float cost = 1.f;  ///< cost per metre of a route on it, 1 to 255
  };

  std::vector<vec3> corners{};
  std::vector<Triangle> triangles{};
};

/// What counts as walkable for all bodies.
struct LevelRules {
  float max_slope = 45.f * std::numbers::pi_v<float> / 180.f;  ///< radians, 0 to 1.4
  float gap = 0.03f;  ///< metres, 0 to 0.2: gaps of up to this width in a floor are closed
  /// Places where play happens, metres, up to 400 km from the origin. Only ground that a body can reach from
  /// the spot nearest to one of them is kept: on foot, by the crossings that the body takes by itself, and by
  /// crossings that were placed before the mesh was built, shut or not. Barriers are ignored. Empty: all
  /// ground is kept.
  std::vector<vec3> reach_from = {};
  /// The level is meant to consist of closed pieces only: `MeshGround::open_pieces` lists the others. The
  /// ground is the same without it.
  bool closed = false;
};

/// A connected piece of a level's surface that is not closed. It has no inside: floors below it are ground,
/// and both sides of its triangles are walkable. A closed piece, whose triangles all face outwards, is solid:
/// there is no ground inside of it.
struct OpenPiece {
  /// Why a piece is not closed.
  enum class Fault : std::uint8_t {
    hole,        ///< an edge has only one triangle: a sheet, or a hole
    winding,     ///< two triangles at an edge face opposite ways
    inside_out,  ///< all triangles face inwards
    flat,        ///< it encloses no volume
  };
  std::uint32_t first_triangle = 0;  ///< index of its first triangle in `Level::triangles`
  std::uint32_t triangles = 0;       ///< number of its triangles
  Fault fault = Fault::hole;         ///< the first fault that was found
  vec3 at{0.f};                      ///< metres: where
};

/// Returns the fault in words, such as "an edge has only one triangle".
std::string_view name(OpenPiece::Fault fault);

}  // namespace ambulon
