#pragma once

#include <cstdint>

#include "ambulon/base/id.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/tags.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Which NPC of a group is the target.
enum class Pick : std::uint8_t {
  nearest,  ///< the nearest; it is replaced when another one is much nearer
  any,      ///< a random one, until it is removed
};

/// The target of an order: one NPC, or one of those with a tag (`World::one_of`).
struct Target {
  NpcId npc = {};             ///< used if there are no tags
  Tags tags = {};             ///< one of the NPCs with one of these tags
  Pick pick = Pick::nearest;  ///< which of them
};

}  // namespace ambulon
