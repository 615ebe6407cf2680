#pragma once

#include <cstdint>
#include <string_view>

namespace ambulon {

/// What an animator plays.
enum class Stance : std::uint8_t { idle, turning, walking, running };

/// The stance's name, as scene files, traces and the journal write it.
std::string_view name(Stance stance);

}  // namespace ambulon
