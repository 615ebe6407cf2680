#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

/// How one gets over a crossing.
enum class Passage : std::uint8_t {
  jump_up,    ///< onto something, or over it
  drop_down,  ///< from a ledge
  leap,       ///< over a gap
  ladder,     ///< climbed, up or down
  door,       ///< walked through, when it is not shut
};

/// The passage's name, as scene files, routes and the journal write it.
std::string_view name(Passage passage);
/// "leaps", as the journal puts it, over to a place that lies `up` metres higher.
std::string_view verb(Passage passage, float up);

/// A crossing that was placed by hand; 0 is none.
enum class CrossingId : std::uint32_t {};

/// A link between two places of a ground that is not walked, for any body. Whoever gets to one of its ends
/// may cross to the other.
struct Crossing {
  Passage kind = Passage::ladder;
  vec3 from{0.f}, to{0.f};  ///< metres; its ends
  bool both_ways = true;    ///< false: only from `from` to `to`
  float cost = 0.f;         ///< metres of way (0 to 1000) that it counts as, on top of its own length
};

/// The crossing itself, or what is wrong with it: a number out of range, or ends at the same place.
Expected<Crossing> checked(const Crossing& crossing);

}  // namespace ambulon
