#pragma once

#include "ambulon/motion/intent.hpp"
#include "ambulon/motion/motion.hpp"
#include "ambulon/world/npc.hpp"

#include "world/traits.hpp"

namespace ambulon {

/// What each tick touches of an NPC, together in memory: there are thousands, and few bytes of each. Its bits
/// share a place: while a thread may write them, no other one may read any of them.
struct Mover {
  /// The free space around it. Within `metres` of a place the ground has no edge; negative:
  /// not known.
  struct Room {
    vec3 at{0.f};
    float metres = -1.f;
    std::uint32_t piece = 0;  // of its latest spot, when that was found
    std::uint16_t layer = 0;
    bool found = false;
    bool level = false;  // and all of it lies at one height
  };

  Motion motion;
  Room room;
  vec2 was{0.f};  // where the errand was asked last
  Intent intent;
  vec2 wanted{0.f};  // as the errand wanted it, before others were kept clear of
  float left = 0.f;  // seconds of the present tick not yet used
  const Traits* like = nullptr;
  Errand* errand = nullptr;  // in the world's memory, and its own
  double metres = 0, moving_seconds = 0;
  float top_speed = 0.f;
  float held = 0.f;         // seconds for which others have held it up
  std::uint32_t jumps = 0;  // how often it was put elsewhere
  std::uint32_t generation = 0;
  std::uint32_t ask_at = 0;  // the tick in which it is to be asked next, unless something happens to it
  std::int16_t route_priority = 0;
  Drive drive : 2 = Drive::own;
  bool alive : 1 = false;
  bool fresh : 1 = true;      // something has
  bool asked : 1 = false;     // in this tick
  bool waits : 1 = false;     // its order ended in this tick's decide phase
  bool scripted : 1 = false;  // it has a script
  bool limited : 1 = false;   // its order has a time limit
  bool patient : 1 = false;   // its order has a patience of its own
  bool suspended : 1 = false;
  bool told_held : 1 = false;  // that others hold it up for long
  bool aboard : 1 = false;     // of a deck, so that the ground does not hold it
  bool crossing : 1 = false;   // along the arc of its flight, until that is over
  bool slow : 1 = false;       // at the latest look at its headway
  bool alone : 1 = false;      // no body was within `World::alone_within` of it, when the tick began

  NpcId id(std::uint32_t slot) const { return {slot, generation}; }
};

}  // namespace ambulon
