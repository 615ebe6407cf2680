#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <span>

#include "ambulon/crowd/avoidance.hpp"

namespace ambulon {

/// Neighbours to keep clear of: what each asks for is worked out for several at a time.
class Encounters {
 public:
  static constexpr std::size_t max = 16;

  std::size_t count() const { return count_; }
  /// While there are fewer than `max`: one more at `offset` (metres), which moves at `velocity` (metres per
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
  std::array<float, max> x_, y_, velocity_x_, velocity_y_, near_, share_;
  std::size_t count_ = 0;
};

}  // namespace ambulon
