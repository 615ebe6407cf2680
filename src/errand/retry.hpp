#pragma once

#include <algorithm>
#include <cstdint>

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace ambulon {

/// Decides when an errand looks for a way again after there was none: 1 s later, then 2, 4, 8 and 16 s later,
/// or 1 s later when the ground has changed. Writes one note when the wait begins and one when it ends.
class Retry {
 public:
  bool waits() const { return seconds_ > 0.f; }

  /// There was no way, for this reason.
  void put_off(const View& see, const Outcome& why) {
    if (!waits()) {
      since_ = see.time;
      see.tell({.event = Event::waits, .where = why.where, .outcome = why});
    }
    tried_ = see.time;
    seconds_ = waits() ? std::min(2.f * seconds_, longest) : shortest;
    revision_ = see.revision();
  }
  /// True when it is time to try. `changed`: something else than the ground has, by which there may be a way.
  bool due(const View& see, bool changed = false) const {
    const double gone = see.time - tried_;
    return gone >= static_cast<double>(seconds_) ||
           ((changed || revision_ != see.revision()) && gone >= static_cast<double>(shortest));
  }
  /// There is a way.
  void over(const View& see) {
    if (!waits()) return;
    seconds_ = 0.f;
    see.tell(
        {.event = Event::goes_on, .value = static_cast<float>(see.time - since_), .where = see.me.position});
  }

 private:
  static constexpr float shortest = 1.f, longest = 16.f;  // seconds

  double since_ = 0, tried_ = 0;  // seconds
  float seconds_ = 0.f;           // from one try to the next; 0: it does not wait
  std::uint64_t revision_ = 0;    // of the ground, when it was tried
};

}  // namespace ambulon
