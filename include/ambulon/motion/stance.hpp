#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What an animator plays.
enum class Stance : std::uint8_t {
  idle,
  turning_left,   ///< on the spot; `Motion::turn` is the angle left
  turning_right,  ///< the same, to the right
  starting,       ///< from a stand, until it has nine tenths of its speed
  walking,
  running,
  stopping,            ///< to a stand; `Motion::stop` is the distance left
  sidestepping_left,   ///< among others it goes another way than it faces: the steps follow its velocity
  sidestepping_right,  ///< the same, to the right
  stepping_back,       ///< the same, by more than 120 degrees
  stairs_up,           ///< walking, with one step per tread
  stairs_down,         ///< the same, downwards
  jumping,             ///< onto something, or over a gap
  dropping,            ///< from a ledge
  climbing,            ///< a ladder, up or down
};

/// Returns true if the steps follow the velocity and not the facing: `sidestepping_left`,
/// `sidestepping_right` or `stepping_back`.
bool steps_aside(Stance stance);

/// The stance's name, as scene files, traces and the journal write it.
std::string_view name(Stance stance);

}  // namespace ambulon
