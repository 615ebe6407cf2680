#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::hop`, which walks to one random point of a set after another.
///
/// 1. The set is a beat, whose order is not used. Each point is chosen with a probability proportional to
///    `Waypoint::weight`. The NPC pauses as the point says.
/// 2. The set may change while the order runs.
/// 3. The order ends as `done` after `visits`, and is refused if it begins without a point to choose from.
/// 4. After eight points in a row that failed it ends as `stuck` or `timed_out`; with `Unreachable::refuse`
///    as `no_route` or `off_ground`.
struct HopOptions {
  bool repeats = false;      ///< may choose the same point twice in a row
  std::uint32_t visits = 0;  ///< points after which the order is done; 0: endless
  float leg_time = 0.f;      ///< seconds to one point before another is chosen, at most 1e6; 0: unlimited
  float within = 0.3f;       ///< metres from a point that count as arrived, 0.001 to 1000
  /// After eight points in a row that failed, or when the set has become empty.
  Unreachable unreachable = Unreachable::wait;
};

}  // namespace ambulon
