#pragma once

#include <cmath>
#include <memory>
#include <optional>
#include <span>
#include <string>

#include "ambulon/scene/play.hpp"

namespace ambulon::tool {

/// Exit codes: done; done, and what was asked about is not so; could not.
enum Exit { exit_done = 0, exit_not_so = 1, exit_could_not = 2 };

/// One line on the terminal that is rewritten, and wiped at the end.
class Progress {
 public:
  /// `whole` is what `show` comes to in the end.
  Progress(const char* doing, double whole, bool prints);
  ~Progress();
  void show(double now);

 private:
  const char* doing_;
  double whole_;
  bool terminal_;
  double last_shown_ = -1;  // fraction
};

/// The body that a command answers for: the one that was given; otherwise, on a ground that was built
/// beforehand, the first that it was built for. Remarks when a built ground has no mesh for the one that was
/// given.
Body body_for(const SceneGround& ground, const Ground& made, const Body& body, bool given);
/// As it was written, without what rounding to a float has added.
inline double exact(float metres) { return std::round(metres * 1e6) / 1e6; }
/// As in "radius 0.3 m, height 1.7 m, step_up 0.3 m"; only the radius where nothing else counts.
std::string in_words(const SceneGround& ground, const Body& body);

/// Keeps the ground of a level around these points, too, unless all of it is kept.
void keep_around(SceneGround& ground, std::span<const vec3> points);

/// From now on Ctrl-C, and being told to end, is only noted; a second one ends the program at once.
void watch_for_interrupt();
/// True once the user has pressed it.
bool interrupted();

/// A scene that has been read and put up, ready to be played.
class Player {
 public:
  /// Reads and puts up the scene, with its ground kept around some points more. Problems go to standard
  /// error, and nothing comes back.
  static std::optional<Player> open(const std::string& file, std::size_t journal,
                                    std::span<const vec3> points = {});

  /// Plays for `seconds`; shows progress when standard error is a terminal; stops early, at the end
  /// of a tick, when the user presses Ctrl-C. `each_tick()` is called before the first and after
  /// each tick. `prints`: it prints as it goes, so on one terminal there is no room for progress.
  /// Answers false when it was stopped.
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
  std::unique_ptr<Scene> scene_;  // the play refers to it
  std::unique_ptr<Play> play_;
};

/// Writes "ambulon: …" to standard error.
void announce(const std::string& text);

/// Says that playing was stopped, and where.
void remark_stopped(double seconds);

}  // namespace ambulon::tool
