#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/errand/target.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::chase`, which runs after a target and heads for the predicted point of interception.
///
/// 1. The order ends as `arrived` within `reach` of the target, at one height and with no wall between them.
///    With `WorldOptions::avoid` it also ends if the two bodies touch.
/// 2. It ends as `gone` when the target is removed or gets further away than `give_up`.
/// 3. It ends as `off_ground`, `no_route` or `stuck` if it cannot follow. `Order::time_limit` bounds the
/// time.
struct ChaseOptions {
  float reach = 0.8f;      ///< metres from the target that count as caught, 0.01 to 1000
  float give_up = 0.f;     ///< metres from the target at which the chase ends, more than `reach`; 0: never
  float foresight = 1.5f;  ///< seconds for which the target's motion is predicted, 0 to 60
  float replan_distance = 0.5f;  ///< metres the target moves before the route is planned again, 0.01 to 1000
  float act_within = 0.f;        ///< metres at which `Order::on_act` is called; 0: never
  Unreachable unreachable = Unreachable::refuse;  ///< if no route leads to the target
};

}  // namespace ambulon
