#include "ambulon/base/random.hpp"

namespace ambulon {

// Not in the header: a compiler could fuse multiplication and addition in a game, and round differently.
float Random::within(Range range) { return range.min + (range.max - range.min) * fraction(); }

std::uint32_t Random::below(std::uint32_t count) {
  std::uint64_t product = std::uint64_t{bits()} * count;
  if (static_cast<std::uint32_t>(product) < count) {
    const std::uint32_t unfair = (0U - count) % count;
    while (static_cast<std::uint32_t>(product) < unfair) product = std::uint64_t{bits()} * count;
  }
  return static_cast<std::uint32_t>(product >> 32U);
}

}  // namespace ambulon
