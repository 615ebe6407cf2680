#pragma once

#include <cstdint>

namespace ambulon {

/// A set of tags, by which NPCs are grouped: any of 64, which a world gives names to.
struct Tags {
  std::uint64_t bits = 0;

  constexpr bool empty() const { return bits == 0; }
  /// True when the two sets have a tag in common.
  constexpr bool meet(Tags other) const { return (bits & other.bits) != 0; }
  friend constexpr Tags operator|(Tags a, Tags b) { return {a.bits | b.bits}; }
  friend constexpr bool operator==(Tags, Tags) = default;
};

}  // namespace ambulon
