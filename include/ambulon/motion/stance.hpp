#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What an animator plays.
enum class Stance : std::uint8_t {
  idle,
  turning,
  walking,
  running,
  jumping,   ///< onto something, or over a gap
  dropping,  ///< from a ledge
  climbing,  ///< a ladder, up or down
};

/// The stance's name, as scene files, traces and the journal write it.
std::string_view name(Stance stance);

}  // namespace ambulon
