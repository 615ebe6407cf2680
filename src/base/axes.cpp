#include "ambulon/base/axes.hpp"

namespace ambulon {

vec3 from_axes(Axes axes, vec3 v) {
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

vec3 to_axes(Axes axes, vec3 v) { return axes == Axes::y_up ? vec3(v.x, v.z, -v.y) : from_axes(axes, v); }

}  // namespace ambulon
