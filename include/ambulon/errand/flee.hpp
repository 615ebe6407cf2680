#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/errand/target.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::flee`, which runs away from a target: straight away where there is ground, otherwise in
/// the direction that leads furthest from the target.
///
/// Ends as `done` when the target is further away than `reach`; as `gone` when the target is removed.
/// `Order::time_limit` bounds the time.
struct FleeOptions {
  float reach = 15.f;      ///< metres from the target that count as safe, 0.1 to 1e5
  float foresight = 1.f;   ///< seconds for which the target's motion is predicted, 0 to 60
  float act_within = 0.f;  ///< metres at which `Order::on_act` is called; 0: never
};

}  // namespace ambulon
