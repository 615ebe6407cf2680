#pragma once

#include <optional>

#include "ambulon/base/vec.hpp"
#include "ambulon/errand/note.hpp"

namespace ambulon {

/// Compares where a body that the game moves was advised to go with where it really got to, and
/// names what is wrong, once each time it begins: pushed, lags, held_fast or silent; and
/// moving_again when it is over.
class BodyWatch {
 public:
  /// Takes in one tick: the way advised and the way gone (metres) in `seconds`.
  /// `reported` is false when the game said nothing. Returns a note (without who and when) when the
  /// verdict changed.
  std::optional<Note> see(vec2 advised, vec2 gone, bool reported, float seconds);

  /// Seconds for which it has been held fast; 0 when it is not.
  float held_for() const { return verdict_ == Event::held_fast ? held_for_ : 0.f; }

 private:
  Event verdict_ = Event::moving_again;
  vec2 advised_{0.f}, gone_{0.f};  // summed over the present stretch of time
  float stretch_ = 0.f, advised_metres_ = 0.f;
  float silent_ = 0.f, held_for_ = 0.f;

  std::optional<Note> judge(Event verdict, float value, float other);
};

}  // namespace ambulon
