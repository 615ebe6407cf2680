#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Identifies one NPC of a world: a slot and its generation, which counts how often the slot was used. An id
/// is never used twice, so the id of a removed NPC stays recognisable. Generation 0 identifies no NPC.
struct NpcId {
  std::uint32_t slot = 0;
  std::uint32_t generation = 0;

  friend constexpr bool operator==(NpcId, NpcId) = default;
};

}  // namespace ambulon
