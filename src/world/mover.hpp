#pragma once

#include "ambulon/motion/intent.hpp"
#include "ambulon/motion/motion.hpp"
#include "ambulon/world/npc.hpp"

#include "motion/stairs.hpp"
#include "world/traits.hpp"

namespace ambulon {

/// The part of an NPC's state that each tick uses, small and contiguous (hot data). Bit-fields share memory,
/// so while one thread may write one of them, no other thread may read any of them.
struct Mover {
  /// The known free space around the NPC: within `metres` of `at` the ground has no edge. Negative: unknown.
  struct Room {
    vec3 at{0.f};
    float metres = -1.f;
    std::uint32_t piece = 0;  // of its last spot, if known
    std::uint16_t layer = 0;
    bool found = false;
    bool level = false;  // all of the free space has the height of the NPC
  };

  Motion motion;  // its position is on the ground
  // Metres from its position to the smooth line over steps, on which others see it; and the slope of the
  // line.
  float off_ground = 0.f, gradient = 0.f;
  Stairs stairs;
  Room room;
  vec2 was{0.f};  // position at the last decision; of a displaced NPC, where it stood
  Intent intent;
  vec2 wanted{0.f};  // preferred velocity, before avoidance
  float left = 0.f;  // unused seconds of the present tick
  const Traits* traits = nullptr;
  Errand* errand = nullptr;  // in the world's memory; owned
  double metres = 0, moving_seconds = 0;
  float top_speed = 0.f;
  float held = 0.f;         // seconds for which others have held it up
  std::uint32_t jumps = 0;  // number of teleports
  std::uint32_t generation = 0;
  std::uint32_t ask_at = 0;              // the tick of the next decision, unless `fresh`
  std::uint16_t route_rank : 11 = 1000;  // its route priority (-1000 to 1000), plus 1000
  Drive drive : 2 = Drive::own;
  bool alive : 1 = false;
  bool fresh : 1 = true;      // something happened to it: it decides in the next tick
  bool asked : 1 = false;     // in this tick
  bool waits : 1 = false;     // its order ended in this tick's decide phase
  bool scripted : 1 = false;  // has a script
  bool limited : 1 = false;   // its order has a time limit
  bool patient : 1 = false;   // its order has its own patience
  bool suspended : 1 = false;
  bool told_held : 1 = false;  // it was reported as held up
  bool pushed : 1 = false;     // by `Npc::push`
  bool aboard : 1 = false;     // on a deck, so the ground does not bound it
  bool crossing : 1 = false;   // moving along the arc of its flight
  bool slow : 1 = false;       // at the last check of its headway
  bool oncoming : 1 = false;   // in the last tick, several others came towards it
  bool displaced : 1 = false;  // it made room without an order, and returns to `was`
  bool alone : 1 = false;      // no body within `alone_within` at the start of the tick

  NpcId id(std::uint32_t slot) const { return {slot, generation}; }
  int route_priority() const { return route_rank - 1000; }
  void set_route_priority(int priority) { route_rank = static_cast<unsigned>(priority + 1000) & 2047U; }
  /// Returns the position on the smooth line over steps.
  vec3 shown_position() const { return motion.position + vec3(0.f, 0.f, off_ground); }
};

}  // namespace ambulon
