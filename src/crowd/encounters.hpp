#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <span>

#include "ambulon/crowd/avoidance.hpp"

namespace ambulon {

/// A list of neighbours to avoid. Their half-planes are computed several at a time (SIMD).
class Encounters {
 public:
  static constexpr std::size_t max = 16;

  std::size_t count() const { return count_; }
  /// Adds a neighbour at `offset` (metres) that moves at `velocity` (metres per second). Contact is at `near`
  /// metres, the sum of both radii. Does nothing if the list is full (`max`) or the share is 0.
  void add(vec2 offset, vec2 velocity, float near, float share) {
    if (count_ % lanes == 0)
      for (auto* values : {&x_, &y_, &velocity_x_, &velocity_y_, &near_, &share_})
        std::fill_n(values->begin() + count_, lanes, 0.f);
    x_[count_] = offset.x, y_[count_] = offset.y;
    velocity_x_[count_] = velocity.x, velocity_y_[count_] = velocity.y;
    near_[count_] = near, share_[count_] = share;
    count_ += share > 0.f ? 1U : 0U;
  }
  /// Writes the half-plane of each neighbour, as `keep_clear_of`, to the first `count` of `planes`, in order.
  void keep_clear(vec2 velocity, float horizon, std::span<HalfPlane> planes, float recovery = 0.4f) const;

 private:
  static constexpr std::size_t lanes = 4;  // computed at a time
  // Structure of arrays. It is padded to full lanes with entries without a neighbour.
  std::array<float, max> x_, y_, velocity_x_, velocity_y_, near_, share_;
  std::size_t count_ = 0;
};

}  // namespace ambulon
