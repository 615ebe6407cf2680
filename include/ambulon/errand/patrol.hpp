#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"
#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The first waypoint of a patrol.
enum class PatrolStart : std::uint8_t { nearest, first };

/// Options of `Npc::patrol`, which walks from waypoint to waypoint of a beat, and turns and pauses at each
/// one as the waypoint says.
///
/// 1. A beat of order `once` ends as `arrived`; the other orders are endless.
/// 2. A waypoint off the ground or without a route is skipped, with a note in the journal.
/// 3. The order ends as refused (with the reason) or as `stuck`. With `Unreachable::refuse` it ends as
///    `off_ground` if no waypoint is on the ground, and as `no_route` if none can be reached.
struct PatrolOptions {
  PatrolStart start = PatrolStart::nearest;
  /// The first waypoint instead, if it is in the beat: to resume a patrol, pass `ErrandState::on_beat`.
  BeatPosition from = {};
  /// Seconds for one lap including pauses, at most 1e6: the speed follows from it. 0: the gait's speed. A lap
  /// ends where it began; with the order `once`, at the last waypoint.
  float lap = 0.f;
  float within = 0.3f;   ///< metres from a waypoint that count as arrived, 0.001 to 1000
  float leg_time = 0.f;  ///< seconds for a leg before its waypoint is skipped, at most 1e6; 0: unlimited
  /// If no waypoint can be reached, or when the beat has become empty. `nearest` walks as near to each
  /// waypoint as possible.
  Unreachable unreachable = Unreachable::wait;
};

}  // namespace ambulon
