#pragma once
// Not running into each other: reciprocal avoidance by velocity. J. van den Berg, S. J. Guy, M. Lin and D.
// Manocha, "Reciprocal n-Body Collision Avoidance" (2011). Pure functions, of use without a world.

#include <span>

#include "ambulon/motion/flocking.hpp"

namespace ambulon {

/// How somebody keeps out of the way of others.
struct Avoidance {
  bool takes_part = true;  ///< false: it goes its way as if nobody were there, and the others keep out of it
  float horizon = 2.f;     ///< seconds ahead within which it touches nobody, 0.1 to 30
  float sight = 5.f;       ///< metres within which it looks at others, 0.5 to 50
  float side = 0.25f;  ///< radians by which it keeps to the right of its way while somebody is before it who
                       ///< does not go the same way; to the left when negative; -1 to 1. Where it is slowed
                       ///< down by some who come towards it, up to three and a half times as far
  int priority = 0;    ///< who has the higher one is let by: the other does all that must be done

  friend bool operator==(const Avoidance&, const Avoidance&) = default;
};

/// The options themselves, or the first value that lies out of its range.
Expected<Avoidance> checked(const Avoidance& avoidance);

/// The velocities on one side of a line.
struct HalfPlane {
  vec2 at{0.f};           ///< metres per second; one on the line
  vec2 inward{1.f, 0.f};  ///< unit vector from the line towards the others
};

/// The velocities with which somebody of `radius` metres, now moving at `velocity`, does not come to touch a
/// neighbour within `horizon` seconds (> 0).
///
/// 1. When both keep to theirs, with shares that add up to 1, they do not touch in that time. One half each
/// is
///    fair; who does not take part (a player, a cart that the game moves) leaves 1 to the other.
/// 2. The line is as near to `velocity` as that allows: nobody changes more than its share of what both must.
/// 3. Who comes straight at each other passes on the right.
/// 4. Where they touch already, they come apart within `recovery` seconds (> 0).
HalfPlane keep_clear_of(const Neighbour& neighbour, vec2 velocity, float radius, float horizon,
                        float share = 0.5f, float recovery = 0.4f);

/// The velocity nearest to `wanted` of those in all half-planes, and at most `speed` (>= 0); metres per
/// second. Where there is none, of those that go against the half-planes as little as possible: in the one it
/// goes against most. By going through the half-planes in turn: R. Seidel, "Small-Dimensional Linear
/// Programming and Convex Hulls Made Easy" (1991).
vec2 nearest_permitted(std::span<const HalfPlane> planes, vec2 wanted, float speed);

}  // namespace ambulon
