#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The kind of motion on a crossing.
enum class Passage : std::uint8_t {
  jump_up,    ///< onto something, or over it
  drop_down,  ///< from a ledge
  leap,       ///< over a gap
  ladder,     ///< climbed, up or down
  door,       ///< walked through, when it is not shut
};

/// Returns the name, as scene files, routes and the journal write it.
std::string_view name(Passage passage);
/// Returns the verb for the journal, such as "leaps", for a destination that is `up` metres higher.
std::string_view verb(Passage passage, float up);

/// The id of a crossing placed by the game; 0 is none.
enum class CrossingId : std::uint32_t {};

/// A link between two places of a ground that is not walked: any body at one end may cross to the other.
struct Crossing {
  Passage kind = Passage::ladder;
  vec3 from{0.f}, to{0.f};  ///< metres; its ends
  bool both_ways = true;    ///< false: only from `from` to `to`
  float cost = 0.f;         ///< metres (0 to 1000) added to its length in a route's cost
};

/// Returns a problem if a number is out of range, or if both ends are at one place.
Expected<void> validate(const Crossing& crossing);

}  // namespace ambulon
