#pragma once

#include <cmath>
#include <memory>
#include <optional>
#include <span>
#include <string>

#include "scene/play.hpp"

namespace ambulon::tool {

/// Exit codes. 1: ran, and found problems (no route, findings, a broken limit).
enum Exit { exit_done = 0, exit_not_so = 1, exit_could_not = 2 };

/// A progress line on the terminal, erased at the end.
class Progress {
 public:
  /// `whole`: the final value of `show`.
  Progress(const char* doing, double whole, bool prints);
  ~Progress();
  void show(double now);

 private:
  const char* doing_;
  double whole_;
  bool terminal_;
  double last_shown_ = -1;  // fraction
};

/// Returns the body that a command uses: the given one, or else the first one that a saved ground was built
/// for. Warns if a saved ground has no mesh for the given body.
Body body_for(const SceneGround& ground, const Ground& made, const Body& body, bool given);
/// Removes the rounding error of a float.
inline double exact(float metres) { return std::round(metres * 1e6) / 1e6; }
/// Describes a body, such as "radius 0.3 m, height 1.7 m, step_up 0.3 m"; only the radius if nothing else
/// matters on the ground.
std::string in_words(const SceneGround& ground, const Body& body);

/// Adds points to `reach_from` of a level, unless all of it is kept.
void keep_around(SceneGround& ground, std::span<const vec3> points);

/// Handles Ctrl-C and termination: the first one is recorded, a second one ends the program at once.
void watch_for_interrupt();
/// Returns true after the first one.
bool interrupted();

/// Notes that the journal keeps for a scorecard: more than one tick writes.
inline constexpr std::size_t journal_size = 65'536;

/// A scene that is read and started.
class Player {
 public:
  /// Reads and starts a scene; the ground around `points` is kept. Prints problems to standard error and
  /// returns nothing.
  static std::optional<Player> open(const std::string& file, std::size_t journal,
                                    std::span<const vec3> points = {});

  /// Plays for `seconds`. Calls `each_tick()` before the first tick and after each. Shows progress if
  /// standard error is a terminal, unless `prints`. Ends early at Ctrl-C; then it returns false.
  template <class EachTick>
  bool play(double seconds, EachTick&& each_tick, bool prints = false) {
    Progress progress("playing", seconds, prints);
    const auto ticks = static_cast<std::uint64_t>(std::llround(seconds * scene_->rate));
    each_tick();
    for (std::uint64_t tick = 0; tick < ticks; ++tick) {
      if (interrupted()) return false;
      play_->tick();
      each_tick();
      if (tick % 256 == 255) progress.show(play_->world().time());
    }
    return true;
  }

  const Scene& scene() const { return *scene_; }
  Play& play() { return *play_; }
  World& world() { return play_->world(); }

 private:
  std::unique_ptr<Scene> scene_;  // used by the play
  std::unique_ptr<Play> play_;
};

/// Prints "ambulon: …" to standard error.
void announce(const std::string& text);

/// Prints when playing was stopped.
void remark_stopped(double seconds);

}  // namespace ambulon::tool
