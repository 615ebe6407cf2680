#pragma once

#include <cstdint>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// How a game lays its axes. Ambulon's are right-handed with z up.
enum class Axes : std::uint8_t {
  z_up,              ///< right-handed, as here
  y_up,              ///< right-handed: x right, y up, z towards whoever looks (as in glTF)
  z_up_left_handed,  ///< y to the other side
  y_up_left_handed,  ///< x right, y up, z away from whoever looks
};

/// A point or a direction of the game's, in Ambulon's axes.
inline vec3 from_axes(Axes axes, vec3 v) {
  switch (axes) {
    case Axes::y_up:
      return {v.x, -v.z, v.y};
    case Axes::z_up_left_handed:
      return {v.x, -v.y, v.z};
    case Axes::y_up_left_handed:
      return {v.x, v.z, v.y};
    default:
      return v;
  }
}

/// One of Ambulon's, in the game's axes. All but one are mirrored, so the same again brings them back.
inline vec3 to_axes(Axes axes, vec3 v) {
  return axes == Axes::y_up ? vec3(v.x, v.z, -v.y) : from_axes(axes, v);
}

}  // namespace ambulon
