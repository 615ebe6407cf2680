#pragma once

#include <cstdint>

#include "world/mover.hpp"

namespace ambulon {

/// The time of a world.
struct Clock {
  double time = 0;           // seconds: the beginning of the tick; its end once all NPCs have moved
  double tick_end = 0;       // seconds
  double called_at = 0;      // seconds: the moment within the tick at which user code is called
  float seconds = 0.f;       // of the present tick
  float last_seconds = 0.f;  // of the previous tick; 0: there is none
  std::uint64_t ticks = 0;   // so far
  bool ticking = false;      // a tick is running

  void begin_tick(float length) {
    ticking = true;
    called_at = time;
    tick_end = time + length;
    seconds = length;
  }
  void end_tick() {
    ++ticks;
    last_seconds = seconds;
  }
  /// Returns the time up to which an NPC has moved: the end of the tick minus its unused time.
  double moment(const Mover& mover) const {
    return ticking ? tick_end - static_cast<double>(mover.left) : time;
  }
  /// Returns the time of the present call from user code.
  double now() const { return ticking ? called_at : time; }
};

}  // namespace ambulon
