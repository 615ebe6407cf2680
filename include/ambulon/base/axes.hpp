#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The axis conventions of games. Ambulon uses right-handed axes with z up.
enum class Axes : std::uint8_t {
  z_up,              ///< right-handed, z up: the convention of Ambulon
  y_up,              ///< right-handed: x right, y up, z towards the viewer (as in glTF)
  z_up_left_handed,  ///< z up, y negated
  y_up_left_handed,  ///< x right, y up, z away from the viewer
};

/// Converts a point or a direction from the game's axes to Ambulon's.
vec3 from_axes(Axes axes, vec3 v);
/// Converts a point or a direction from Ambulon's axes to the game's. All conversions but `y_up` are their
/// own inverse.
vec3 to_axes(Axes axes, vec3 v);

}  // namespace ambulon
