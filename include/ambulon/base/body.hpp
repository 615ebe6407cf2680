#pragma once

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The size of an NPC and what it can get over. On open ground only `radius` and `height` matter.
struct Body {
  float radius = 0.3f;    ///< metres, 0.01 to 50
  float height = 1.7f;    ///< metres, 0.01 to 100; the speed of the change from walk to run depends on it
  float step_up = 0.3f;   ///< metres, 0 to 100: highest step without a jump
  float jump_up = 0.f;    ///< metres, 0 to 100: highest jump up; 0: none
  float drop_down = 0.f;  ///< metres, 0 to 1000: deepest drop down; 0: none
  float leap = 0.f;       ///< metres, 0 to 100: widest gap that it leaps over; 0: none
  vec2 deck{0.f};    ///< metres, 0 to 1000: length and width of its top, which carries other NPCs; 0: none
  Tags passes = {};  ///< tags of NPCs that it passes through

  friend bool operator==(const Body&, const Body&) = default;
};

/// Returns a problem that names its first value out of range.
Expected<void> validate(const Body& body);

/// Returns true if the vertical extents of two bodies overlap: one is `height` metres high, the other is
/// `others` metres high with its feet `up` metres above those of the first.
inline bool share_height(float up, float height, float others) { return up < height && -up < others; }

/// Returns the distance in metres between two bodies: one is `height` metres high, the other is `others`
/// metres high at the offset `off` (metres). If their vertical extents overlap, it is the distance in the xy
/// plane. Otherwise the vertical gap between the head of the lower and the feet of the upper body counts as
/// well.
float metres_apart(vec3 off, float height, float others);

}  // namespace ambulon
