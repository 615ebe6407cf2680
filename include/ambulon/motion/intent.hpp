#pragma once

#include <limits>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// What an errand wants of its NPC from now on, until it is asked again.
struct Intent {
  vec2 velocity{0.f};        ///< metres per second; zero means: stand still
  vec2 facing{0.f};          ///< unit vector to look along; zero means: look where it goes
  vec2 edge_centre{0.f};     ///< centre of a circle in the plane at whose edge the step ends, metres
  float edge_radius = -1.f;  ///< its radius in metres; negative: there is no such circle
  float lasts = std::numeric_limits<float>::infinity();  ///< seconds after which it is to be asked again
  float climb = 0.f;     ///< metres per second upwards; only of a direct intent
  bool direct = false;   ///< velocity and facing are taken up at once, whatever the gait: for what is moved
                         ///< along a given path in a given time
  bool crosses = false;  ///< along the arc in `View::arc`, to its end, from now on; read at once
};

}  // namespace ambulon
