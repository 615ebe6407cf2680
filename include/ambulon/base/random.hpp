#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A pseudo-random generator with the same output on every machine: PCG with 64 bits of state and 32 bits of
/// output (M. E. O'Neill, "PCG: A Family of Simple Fast Space-Efficient Statistically Good Algorithms for
/// Random Number Generation", 2014). Two streams of one seed are independent.
class Random {
 public:
  explicit Random(std::uint64_t seed = 0, std::uint64_t stream = 0) : stream_(stream * 2 + 1) {
    bits();
    state_ += seed;
    bits();
  }

  /// Returns 32 random bits.
  std::uint32_t bits() {
    const std::uint64_t old = state_;
    state_ = old * 6364136223846793005ULL + stream_;
    const auto mixed = static_cast<std::uint32_t>(((old >> 18U) ^ old) >> 27U);
    const auto turn = static_cast<std::uint32_t>(old >> 59U);
    return (mixed >> turn) | (mixed << ((32U - turn) & 31U));
  }

  /// Returns a number drawn uniformly from [0, 1).
  float fraction() { return static_cast<float>(bits() >> 8U) * 0x1p-24f; }

  /// Returns a number drawn uniformly from [range.least, range.most].
  float within(Range range);

  /// Returns an integer drawn uniformly from 0 to count - 1 (count >= 1), without bias (D. Lemire, "Fast
  /// Random Integer Generation in an Interval", 2019).
  std::uint32_t below(std::uint32_t count);

 private:
  std::uint64_t state_ = 0;
  std::uint64_t stream_;
};

}  // namespace ambulon
