#pragma once

#include <algorithm>
#include <optional>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// A stay of some seconds in one place, which ends where it ends and not at the end of a tick.
class Rest {
 public:
  explicit Rest(float seconds = 0.f) : left_(seconds) {}

  /// A stay drawn from `seconds`; the journal is told of it when it is one.
  static Rest drawn(const View& see, Range seconds) {
    const Rest rest(seconds.empty() ? 0.f : see.random.within(seconds));
    if (rest.left_ > 0) see.tell({.event = Event::pausing, .value = rest.left()});
    return rest;
  }

  /// The intent to stand, facing along `facing` (none: as it is), for at most `seconds`; nothing when
  /// the stay is over.
  std::optional<Intent> go_on(float seconds, vec2 facing = vec2(0.f)) {
    if (left_ <= 0) return std::nullopt;
    const float lasts = left();
    left_ -= std::min(lasts, seconds);
    return Intent{.facing = facing, .lasts = lasts};
  }

  float left() const { return static_cast<float>(left_); }

 private:
  double left_;  // seconds
};

}  // namespace ambulon
