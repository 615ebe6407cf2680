#pragma once

#include <cstdint>

namespace ambulon {

/// Names one NPC of a world: a slot, and how often that slot was used before. An id is never given
/// twice, so the id of an NPC that is gone stays recognisable. Generation 0 names nobody.
struct NpcId {
  std::uint32_t slot = 0;
  std::uint32_t generation = 0;

  friend constexpr bool operator==(NpcId, NpcId) = default;
};

}  // namespace ambulon
