#pragma once

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::march`, which keeps the NPC's place in a squad.
///
/// 1. The order ends as `arrived` when the squad is at its goal and the NPC at its place.
/// 2. It ends as `gone` when the NPC that the squad follows is removed, or as `stuck`.
/// 3. If the squad does not wait for routes, it ends as `off_ground` or `no_route`.
/// 4. It is refused if the squad has neither a goal nor a leader.
struct MarchOptions {
  float within = 0.3f;  ///< metres from its place at the goal that count as arrived, 0.001 to 1000
};

}  // namespace ambulon
