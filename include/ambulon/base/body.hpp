#pragma once

#include <cmath>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

/// The size of an NPC and what it can get over. On open ground only `radius` and `height` matter.
struct Body {
  float radius = 0.3f;    ///< metres, 0.01 to 50
  float height = 1.7f;    ///< metres, 0.01 to 100; with the speed it decides when a walk becomes a run
  float step_up = 0.3f;   ///< metres it steps up without a jump, 0 to 100
  float jump_up = 0.f;    ///< metres it jumps up, 0 (cannot) to 100
  float drop_down = 0.f;  ///< metres it lets itself down, 0 (does not) to 1000
  float leap = 0.f;       ///< metres of a gap it leaps over, 0 (does not) to 100
  vec2 deck{0.f};         ///< metres, 0 to 1000: length and width of its top, on which others stand and
                          ///< are carried along; 0 carries nobody
  Tags passes = {};       ///< those with one of these tags it passes through

  friend bool operator==(const Body&, const Body&) = default;
};

/// The body itself, or the first value that lies out of its range.
Expected<Body> checked(const Body& body);

/// True where two bodies are at one height, so that they can touch: one `height` metres high, and one of
/// height `others` whose feet are `up` metres above its.
inline bool share_height(float up, float height, float others) { return up < height && -up < others; }

/// The distance in metres between two bodies: one is `height` metres high, the other is `others` metres high
/// and stands `off` metres from it. While they share height, only the distance on the plan counts. Otherwise
/// the height between the head of the lower one and the feet of the upper one counts as well.
inline float metres_apart(vec3 off, float height, float others) {
  const float between = std::fmax(off.z - height, -off.z - others);
  const float on_plan = glm::length(vec2(off));
  return between > 0.f ? std::hypot(on_plan, between) : on_plan;
}

}  // namespace ambulon
