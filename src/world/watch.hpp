#pragma once

#include <optional>

#include "ambulon/base/vec.hpp"
#include "ambulon/errand/note.hpp"

namespace ambulon {

/// Compares the advised movement of a game-driven body with its actual movement. Reports each problem once
/// when it begins (pushed, lags, held_fast, silent), and moving_again when it is over.
class BodyWatch {
 public:
  /// Adds one tick: the advised and the actual displacement (metres) in `seconds`. `reported`: false if the
  /// game reported nothing. Returns a note, without NPC and time, if the verdict changed.
  std::optional<Note> see(vec2 advised, vec2 gone, bool reported, float seconds);

  /// Returns the seconds for which the body has been held fast; 0 if it is not.
  float held_for() const { return verdict_ == Event::held_fast ? held_for_ : 0.f; }

 private:
  Event verdict_ = Event::moving_again;
  vec2 advised_{0.f}, gone_{0.f};  // summed over the present interval
  float stretch_ = 0.f, advised_metres_ = 0.f;
  float silent_ = 0.f, held_for_ = 0.f;

  std::optional<Note> judge(Event verdict, float value, float other);
};

}  // namespace ambulon
