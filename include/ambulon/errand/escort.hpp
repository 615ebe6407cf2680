#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::escort`, which accompanies a leader.
///
/// 1. While the leader is within `leash` metres of where the NPC stands, the NPC stands and faces the leader.
/// 2. When the leader is further away, the NPC walks to a free place in the ring around the leader. All
///    companions of one leader have different places.
/// 3. While the leader walks, the NPC walks along; when the leader stands, it stops at its place.
///
/// Ends as `gone` when the leader is removed.
struct EscortOptions {
  float leash = 5.f;       ///< metres from the leader beyond which a companion moves; more than `ring.max`
  Range ring{1.2f, 2.5f};  ///< metres from the leader of the companions' places, 0.1 to 1000
  float within = 0.2f;     ///< metres from its place that count as arrived, 0.01 to 100
  float replan_distance = 0.5f;  ///< metres the leader moves before the route is planned again, 0.01 to 1000
  Unreachable unreachable = Unreachable::wait;  ///< if no route leads to its place
};

}  // namespace ambulon
