#pragma once

#include <limits>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// Measures for how long an NPC has got no nearer to a place.
class Stall {
 public:
  /// Returns the seconds since `metres`, the distance, last became smaller than ever since `reset`.
  double seconds(double now, float metres) {
    if (metres < nearest_ - step) {
      nearest_ = metres;
      nearer_at_ = now;
    }
    return now - nearer_at_;
  }
  /// Returns true if others stand beside the NPC and it has got no nearer for 0.7 s.
  bool by_others(const View& see, float metres) {
    return see.avoids && seconds(see.time, metres) > soon &&
           !see.near(see.me.position, see.body.radius + beside).empty();
  }
  void reset() { nearest_ = std::numeric_limits<float>::infinity(); }
  /// Returns true after `reset`, until the next call.
  bool is_reset() const { return nearest_ == std::numeric_limits<float>::infinity(); }

 private:
  static constexpr float step = 0.05f;   // metres: less does not count
  static constexpr float beside = 0.2f;  // metres between bodies
  static constexpr double soon = 0.7;    // seconds

  float nearest_ = std::numeric_limits<float>::infinity();  // metres
  double nearer_at_ = 0;                                    // seconds
};

}  // namespace ambulon
