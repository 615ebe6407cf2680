#pragma once

#include <cstdint>
#include <functional>

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

/// Ids are keys of unordered containers.
template <>
struct std::hash<ambulon::NpcId> {
  std::size_t operator()(ambulon::NpcId id) const noexcept {
    return std::hash<std::uint64_t>()(std::uint64_t{id.generation} << 32U | id.slot);
  }
};
