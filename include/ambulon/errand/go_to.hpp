#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::go_to`, which walks to a point by the shortest route and stands there.
///
/// 1. The order ends as `arrived` within `within` metres of the goal. If it stopped further away, the cause
/// of
///    the outcome says why: the place is taken, or only the nearest spot can be reached.
/// 2. It ends as `stuck` after `patience` seconds without progress.
/// 3. With `Unreachable::refuse` it ends as `off_ground` (with the nearest spot and the distance to it) or as
///    `no_route`.
struct GoToOptions {
  float within = 0.3f;  ///< metres from the goal that count as arrived, 0.001 to 1000
  Unreachable unreachable = Unreachable::refuse;
};

}  // namespace ambulon
