#pragma once

#include <algorithm>
#include <optional>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// A stay in one place, exact in time: it may end within a tick.
class Rest {
 public:
  explicit Rest(float seconds = 0.f) : left_(seconds) {}

  /// Returns a stay drawn from `seconds`, and records it if it is longer than 0.
  static Rest drawn(const View& see, Range seconds) {
    const Rest rest(seconds.empty() ? 0.f : see.random.within(seconds));
    if (rest.left_ > 0) see.tell({.event = Event::pausing, .value = rest.left()});
    return rest;
  }

  /// Returns the intent to stand for at most `seconds`, facing along `facing` (zero: unchanged). Returns
  /// nothing after the stay.
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
