#include "ambulon/motion/wish.hpp"

#include <algorithm>

namespace ambulon {

vec2 blend_weighted(std::span<const Wish> wishes) {
  vec2 sum(0.f);
  float urgency = 0.f;
  for (const Wish& wish : wishes) {
    sum += wish.urgency * wish.velocity;
    urgency += wish.urgency;
  }
  return sum / std::max(1.f, urgency);
}

vec2 blend_by_priority(std::span<const Wish> wishes, float budget) {
  vec2 sum(0.f);
  float left = std::clamp(budget, 0.f, 1.f);
  for (const Wish& wish : wishes) {
    const float part = std::min(left, wish.urgency);
    sum += part * wish.velocity;
    left -= part;
  }
  return sum;
}

}  // namespace ambulon
