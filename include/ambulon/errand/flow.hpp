#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::flow`, which walks along a flow field to its nearest goal. Any number of NPCs share one
/// field, and none of them plans a route.
///
/// 1. The field must outlive the order. The game calls `FlowField::update` after the ground has changed.
/// 2. The order ends as `arrived`; as `no_route` if the field leads to no goal and `unreachable` is `refuse`.
struct FlowOptions {
  float within = 0.3f;  ///< metres from the goal that count as arrived, 0.001 to 1000
  /// If the field leads to no goal from where the NPC is: `refuse` or `wait`.
  Unreachable unreachable = Unreachable::refuse;
};

}  // namespace ambulon
