#pragma once

#include "world/crowd.hpp"

namespace ambulon {

/// Detects orders without progress. The route is planned again, and if that does not help, the order ends as
/// stuck.
class Headway {
 public:
  Headway(WorldState& state, Locomotion& locomotion, Orders& orders, const Crowd& crowd)
      : state_(state), locomotion_(locomotion), orders_(orders), crowd_(crowd), slow_(&state.pool) {}

  /// Checks the NPCs that Ambulon moves, a part of them in each tick.
  void watch_walkers();
  /// Watches a game-driven body with an order: plans its route again, then steps aside, then ends its order.
  /// `advised`, `gone`: the advised and the actual displacement in metres.
  void watch_body(std::uint32_t slot, vec2 advised, vec2 gone);
  void remove(std::uint32_t slot) { slow_.erase(slot); }

 private:
  /// State of an NPC that is slower than it wants.
  struct Slow {
    float left;           // metres of its route, when they last became fewer
    float seconds;        // since then
    std::uint32_t order;  // serial number
    vec3 goal;            // of that moment, metres
  };
  void watch_walker(std::uint32_t slot, float every);
  void hold_on_deck(std::uint32_t slot, NpcId deck, float seconds);
  void go_on_from_deck(std::uint32_t slot);
  void end_as_stuck(std::uint32_t slot, Cause cause);

  WorldState& state_;
  Locomotion& locomotion_;
  Orders& orders_;
  const Crowd& crowd_;
  BySlot<Slow> slow_;
};

}  // namespace ambulon
