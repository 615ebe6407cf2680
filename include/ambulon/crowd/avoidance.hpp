#pragma once
// Not running into each other: reciprocal avoidance by velocity. J. van den Berg, S. J. Guy, M. Lin and D.
// Manocha, "Reciprocal n-Body Collision Avoidance" (2011). Pure functions, of use without a world.

#include <algorithm>
#include <array>
#include <cstddef>
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

/// Neighbours to keep clear of: what each asks for is worked out for several at a time.
class Encounters {
 public:
  static constexpr std::size_t most = 16;

  std::size_t count() const { return count_; }
  /// While there are fewer than `most`: one more at `offset` (metres), which moves at `velocity` (metres per
  /// second) and touches within `near` metres, both radii together. Nobody, when the share is 0.
  void add(vec2 offset, vec2 velocity, float near, float share) {
    if (count_ % lanes == 0)
      for (auto* values : {&x_, &y_, &velocity_x_, &velocity_y_, &near_, &share_})
        std::fill_n(values->begin() + count_, lanes, 0.f);
    x_[count_] = offset.x, y_[count_] = offset.y;
    velocity_x_[count_] = velocity.x, velocity_y_[count_] = velocity.y;
    near_[count_] = near, share_[count_] = share;
    count_ += share > 0.f ? 1U : 0U;
  }
  /// What `keep_clear_of` is for each of them, in order, to the first `count` of `planes`.
  void keep_clear(vec2 velocity, float horizon, std::span<HalfPlane> planes, float recovery = 0.4f) const;

 private:
  static constexpr std::size_t lanes = 4;  // are worked out at a time
  // Each value of all together; beyond the last there are some of nobody up to the next full number of lanes.
  std::array<float, most> x_, y_, velocity_x_, velocity_y_, near_, share_;
  std::size_t count_ = 0;
};

/// The velocity nearest to `wanted` of those in all half-planes, and at most `speed` (>= 0); metres per
/// second. Where there is none, of those that go against the half-planes as little as possible: in the one it
/// goes against most. By going through the half-planes in turn: R. Seidel, "Small-Dimensional Linear
/// Programming and Convex Hulls Made Easy" (1991).
vec2 nearest_permitted(std::span<const HalfPlane> planes, vec2 wanted, float speed);

}  // namespace ambulon
