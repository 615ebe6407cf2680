#pragma once
// The combination of several steering behaviours into one velocity.

#include <span>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The desired velocity of one behaviour. Urgency 0 means "no opinion", not "stop".
struct Wish {
  vec2 velocity{0.f};   ///< metres per second
  float urgency = 0.f;  ///< >= 0; 1 is full strength
};

/// Returns the mean of the wishes, weighted by urgency. If the urgencies sum to less than 1, the rest counts
/// as standing still. The result is never faster than the fastest wish.
vec2 blend_weighted(std::span<const Wish> wishes);

/// Returns the sum of the wishes by priority: in the order given, each takes its urgency out of `budget` (at
/// most 1) until that is used up. The rest of the budget counts as standing still. Prioritised acceleration
/// allocation: C. Reynolds, "Flocks, Herds, and Schools: A Distributed Behavioral Model" (1987).
vec2 blend_by_priority(std::span<const Wish> wishes, float budget = 1.f);

}  // namespace ambulon
