#pragma once

#include <cstdint>
#include <optional>

#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::roam`, which walks to one random spot around its home after another.
///
/// Spots are distributed evenly over the reachable area. The order ends as `done` after `visits`; after eight
/// spots in a row that failed as `stuck` or `timed_out`, and with `Unreachable::refuse` as `no_route` or
/// `off_ground`.
struct RoamOptions {
  float radius = 10.f;                ///< metres around home of the spots, 0.1 to 1e5
  float not_nearer = 0.f;             ///< metres around home without spots, less than `radius`
  std::optional<vec3> home = {};      ///< metres; none: where the NPC is when the order begins
  bool from_where_it_stands = false;  ///< the centre moves along with the NPC
  Range pause{};                      ///< seconds at each spot, drawn each time; 0 to 1e6
  std::uint32_t visits = 0;           ///< spots after which the order is done; 0: endless
  float leg_time = 0.f;  ///< seconds to one spot before another is chosen, at most 1e6; 0: unlimited
  float within = 0.3f;   ///< metres from a spot that count as arrived, 0.001 to 1000
  Unreachable unreachable = Unreachable::wait;  ///< after eight spots in a row that failed
};

}  // namespace ambulon
