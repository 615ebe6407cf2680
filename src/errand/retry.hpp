#pragma once

#include <algorithm>
#include <cstdint>

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"

namespace ambulon {

/// The schedule of an errand that found no route: it tries again after 1, 2, 4, 8 and then every 16 s, or 1 s
/// after the ground has changed. It writes one note when the wait begins and one when it ends.
class Retry {
 public:
  bool waits() const { return seconds_ > 0.f; }

  /// Call it when there was no route; `why` is the reason.
  void put_off(const View& see, const Outcome& why) {
    if (!waits()) {
      since_ = see.time;
      see.tell({.event = Event::waits, .where = why.where, .outcome = why});
    }
    tried_ = see.time;
    seconds_ = waits() ? std::min(2.f * seconds_, longest) : shortest;
    revision_ = see.revision();
  }
  /// Returns true if it is time to try. `changed`: something other than the ground has changed that may allow
  /// a route.
  bool due(const View& see, bool changed = false) const {
    const double gone = see.time - tried_;
    return gone >= static_cast<double>(seconds_) ||
           ((changed || revision_ != see.revision()) && gone >= static_cast<double>(shortest));
  }
  /// Call it when there is a route.
  void over(const View& see) {
    if (!waits()) return;
    seconds_ = 0.f;
    see.tell(
        {.event = Event::goes_on, .value = static_cast<float>(see.time - since_), .where = see.me.position});
  }

 private:
  static constexpr float shortest = 1.f, longest = 16.f;  // seconds

  double since_ = 0, tried_ = 0;  // seconds
  float seconds_ = 0.f;           // between two tries; 0: not waiting
  std::uint64_t revision_ = 0;    // of the ground at the last try
};

}  // namespace ambulon
