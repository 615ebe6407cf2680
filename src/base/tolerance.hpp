#pragma once

#include <cmath>

#include "ambulon/base/vec.hpp"

namespace ambulon::tolerance {

// Tolerances, named by purpose and unit. Each follows from the rounding of numbers where it is used, so none
// is an option.

// --- Motion: floats, in metres and metres per second
/// A point this far outside a circle counts as on it. The value exceeds the rounding error of a step that
/// ends on the circle, and grows with the distance from the origin as that error does.
inline float arrival_metres(vec2 centre) { return 1e-4f + 1e-6f * (std::abs(centre.x) + std::abs(centre.y)); }
/// A barrier and a box that overlap by less than this only touch.
inline constexpr float touching_metres = 1e-5f;
/// A velocity may violate a half-plane constraint by this much.
inline constexpr double half_plane_speed = 1e-9;

// --- Tile grids: doubles, in cells
/// Two paths whose lengths differ by less than this are equally long.
inline constexpr double path_cells = 1e-9;
/// A moving disc may overlap the wall that it slides along by this much.
inline constexpr double sweep_cells = 1e-4;
/// A taut path is shorter only if it is shorter by more than this.
inline constexpr float taut_cells = 1e-4f;

// --- Navigation meshes: doubles, in millimetres
/// A point that lies closer to a line counts as on it.
inline constexpr double on_line_mm = 1e-5;
/// A straight walk may end this far beyond an edge that it follows, since positions are floats in metres.
inline constexpr double along_edge_mm = 0.1;
/// The relative error by which the estimates of a search may be out of order.
inline constexpr double estimate_part = 0.002;
/// A ray may miss a triangle by this fraction of its size and still hit it, so that no ray passes between two
/// triangles.
inline constexpr double beside_triangle_part = 1e-9;

// --- Surveys of levels: corners in whole millimetres
/// The largest error of a position in the survey: half a millimetre of rounding at each of two corners,
/// doubled.
inline constexpr double survey_mm = 2;
/// Sides that are closer than this touch. Slits between slanted sides are narrower than a millimetre.
inline constexpr double touching_mm = 1e-4;
/// Parts of triangles that are narrower than this are rounding artefacts.
inline constexpr double sliver_mm = 1;
/// The plane of a triangle is used only if the triangle is at least this wide, since its corners are rounded.
inline constexpr double plane_mm = 5;
/// A triangle supports a body up to this far beyond its sides.
inline constexpr double beside_facet_mm = 1.5;

}  // namespace ambulon::tolerance
