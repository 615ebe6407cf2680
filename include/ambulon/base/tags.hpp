#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A set of tags, one bit each. Tags group NPCs; a world has up to 64 of them and gives them names.
struct Tags {
  std::uint64_t bits = 0;

  constexpr bool empty() const { return bits == 0; }
  /// Returns true if the two sets intersect.
  constexpr bool meet(Tags other) const { return (bits & other.bits) != 0; }
  friend constexpr Tags operator|(Tags a, Tags b) { return {a.bits | b.bits}; }
  friend constexpr bool operator==(Tags, Tags) = default;
};

}  // namespace ambulon
