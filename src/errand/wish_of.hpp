#pragma once

#include "ambulon/errand/blend.hpp"
#include "ambulon/errand/errand.hpp"
#include "ambulon/motion/steering.hpp"

namespace ambulon {

/// Returns the desired velocity of one behaviour. `wandering` is the NPC's own state of `Behaviour::wander`.
Wish wish_of(const Term& term, const View& see, Wandering& wandering, float speed, float seconds);

}  // namespace ambulon
