#pragma once

#include <span>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/motion/flocking.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How an NPC takes part in reciprocal collision avoidance.
struct Avoidance {
  bool takes_part = true;  ///< false: it ignores others, and they do all the avoiding
  float horizon = 2.f;     ///< time horizon in seconds, 0.1 to 30: no contact is allowed within it
  float sight = 5.f;       ///< metres within which others are considered, 0.5 to 50
  /// Radians, -1 to 1, by which the preferred velocity turns to the right (left if negative) while another
  /// NPC ahead does not walk in the same direction. Up to 3.5 times as much if oncoming NPCs slow it down.
  float side = 0.25f;
  int priority = 0;  ///< an NPC of lower priority does all the avoiding for one of higher priority

  friend bool operator==(const Avoidance&, const Avoidance&) = default;
};

/// Returns a problem that names the first value out of range.
Expected<void> validate(const Avoidance& avoidance);

// The functions below are pure and work without a world: reciprocal velocity obstacles after J. van den Berg,
// S. J. Guy, M. Lin and D. Manocha, "Reciprocal n-Body Collision Avoidance" (2011).

/// A half-plane of permitted velocities.
struct HalfPlane {
  vec2 at{0.f};           ///< metres per second: a point on its line
  vec2 inward{1.f, 0.f};  ///< unit normal of the line, towards the permitted side
};

/// Returns the velocities with which a body of `radius` metres, now moving at `velocity`, does not touch a
/// neighbour within `horizon` seconds (> 0).
///
/// 1. If both bodies keep to their half-planes and their shares sum to 1, they do not touch for `horizon`.
///    Shares of 0.5 are fair; a neighbour that does not avoid (a player, a cart of the game's) leaves 1.
/// 2. The line is as close to `velocity` as 1 allows: no body changes its velocity more than its share.
/// 3. Two bodies that meet head-on pass each other on the right.
/// 4. Bodies that touch already are apart after `recovery` seconds (> 0).
HalfPlane keep_clear_of(const Neighbour& neighbour, vec2 velocity, float radius, float horizon,
                        float share = 0.5f, float recovery = 0.4f);

/// Returns the velocity nearest to `wanted` (metres per second) in all half-planes, at most `speed` (>= 0)
/// fast. If there is none, it finds the velocity whose largest violation is smallest, and returns the one
/// nearest to `wanted` that violates no half-plane more than that one does. Incremental linear programming:
/// R. Seidel, "Small-Dimensional Linear Programming and Convex Hulls Made Easy" (1991).
vec2 nearest_permitted(std::span<const HalfPlane> planes, vec2 wanted, float speed);

}  // namespace ambulon
