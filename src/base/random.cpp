#include "ambulon/base/random.hpp"

namespace ambulon {

// Not in the header: a compiler could fuse multiplication and addition in a game, and round differently.
float Random::within(Range range) { return range.min + (range.max - range.min) * fraction(); }

}  // namespace ambulon
