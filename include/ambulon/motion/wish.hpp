#pragma once
// What several steering behaviours want, made one velocity.

#include <span>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// What one behaviour wants, and how much. Of an urgency of 0 it wants nothing at all, which is not
/// the same as wanting to stand still.
struct Wish {
  vec2 velocity{0.f};   ///< metres per second
  float urgency = 0.f;  ///< 0 and more; 1 is as much as a behaviour that has the whole say
};

/// The mean of the wishes, each counted by its urgency. Urgencies that sum up to less than 1 leave
/// the rest to standing still, so the blend is never faster than the fastest wish.
vec2 blend_weighted(std::span<const Wish> wishes);

/// The wishes in the order given: each takes its urgency out of a `budget` (1 and less) until that is
/// used up, and the last may get less than it asked for. What is left of the budget stands still.
/// After the prioritised allocation of C. Reynolds, "Flocks, Herds, and Schools: A Distributed
/// Behavioral Model" (1987).
vec2 blend_by_priority(std::span<const Wish> wishes, float budget = 1.f);

}  // namespace ambulon
