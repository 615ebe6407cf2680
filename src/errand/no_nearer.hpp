#pragma once

#include <limits>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// Tells when an NPC that walks to a place gets no nearer to it, since others are in the way.
class NoNearer {
 public:
  /// Returns true if others stand beside it and `metres`, its distance, has not become smaller for 0.7 s.
  bool see(const View& see, float metres) {
    if (metres < nearest_ - step) {
      nearest_ = metres;
      nearer_at_ = see.time;
    }
    return see.avoids && see.time - nearer_at_ > seconds &&
           !see.near(see.me.position, see.body.radius + beside).empty();
  }
  void reset() { nearest_ = std::numeric_limits<float>::infinity(); }

 private:
  static constexpr float step = 0.05f;   // metres: less does not count
  static constexpr float beside = 0.2f;  // metres between bodies
  static constexpr double seconds = 0.7;

  float nearest_ = std::numeric_limits<float>::infinity();  // metres
  double nearer_at_ = 0;                                    // seconds
};

}  // namespace ambulon
