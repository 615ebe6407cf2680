#include "ambulon/base/random.hpp"

namespace ambulon {

// Not in the header: a compiler could fuse multiplication and addition in a game, and round differently.
float Random::within(Range range) { return range.least + (range.most - range.least) * fraction(); }

}  // namespace ambulon
