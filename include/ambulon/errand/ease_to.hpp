#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The easing of a move: its speed over time.
enum class Easing : std::uint8_t {
  linear,  ///< constant speed
  in,      ///< accelerates from rest
  out,     ///< slows down to rest
  in_out,  ///< both
};

/// When the NPC turns towards its direction of travel.
enum class EaseToTurn : std::uint8_t {
  first,  ///< before it moves, within `seconds`
  going,  ///< while it moves
  never,  ///< keeps its heading
};

/// Options of `Npc::ease_to`, which moves to a point on a straight line in a given time.
///
/// 1. The gait's speed and acceleration do not apply; its turn rate does.
/// 2. The order ends as `arrived`, or as `blocked` if the line leaves the ground.
struct EaseToOptions {
  float seconds = 1.f;  ///< duration of the whole move, 0.001 to 1e6
  Easing easing = Easing::in_out;
  EaseToTurn turn = EaseToTurn::going;
  bool anywhere = false;  ///< may leave the ground and change height: a raft, a lift
};

}  // namespace ambulon
