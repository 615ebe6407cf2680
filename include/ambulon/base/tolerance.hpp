#pragma once

#include <cmath>

#include "ambulon/base/vec.hpp"

namespace ambulon::tolerance {

// What counts as equal, by purpose; the unit stands in the name. None is for a game to change: each follows
// from how a number is rounded where it is used.

// --- Motion: floats, in metres and metres per second
/// Metres outside of a circle at which a point still counts as on its edge: more than rounding makes of a
/// step that ends there. It grows with the distance of the circle from the origin, as the rounding of floats
/// does.
inline float arrival_metres(vec2 centre) { return 1e-4f + 1e-6f * (std::abs(centre.x) + std::abs(centre.y)); }
/// Metres by which a barrier and a box may overlap and still only touch.
inline constexpr float touching_metres = 1e-5f;
/// Metres per second by which a velocity may be beyond a half-plane.
inline constexpr double half_plane_speed = 1e-9;

// --- Tile grids: doubles, in cells
/// Cells: two paths whose lengths differ by less are equally long.
inline constexpr double path_cells = 1e-9;
/// Cells by which a moving disc may overlap a wall along which it slides.
inline constexpr double sweep_cells = 1e-4;
/// Cells: a pulled line is shorter only if it is by more.
inline constexpr float taut_cells = 1e-4f;

// --- Navigation meshes: doubles, in millimetres
/// A point that lies closer to a line counts as on it.
inline constexpr double on_line_mm = 1e-5;
/// A straight walk may end this far beyond an edge that it goes along: positions outside are floats in
/// metres.
inline constexpr double along_edge_mm = 0.1;
/// The part of the distance by which estimates of a search may be out of order.
inline constexpr double estimate_part = 0.002;
/// The part of a triangle by which a ray may pass beside it, so that none slips through between two
/// triangles.
inline constexpr double beside_triangle_part = 1e-9;

// --- Surveys of levels: corners in whole millimetres
/// The survey lets positions be off by this: half a millimetre of rounding for each of two corners, doubled.
inline constexpr double survey_mm = 2;
/// Sides that are closer than this touch; the slits between slanted sides are narrower than a millimetre.
inline constexpr double touching_mm = 1e-4;
/// Parts of triangles that are narrower than this come of rounding.
inline constexpr double sliver_mm = 1;
/// The plane of a triangle is used only if it is at least as wide: heights of its corners are rounded.
inline constexpr double plane_mm = 5;
/// A triangle is stood on this far beside its sides.
inline constexpr double beside_facet_mm = 1.5;

}  // namespace ambulon::tolerance
