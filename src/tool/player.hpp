#pragma once

#include <cmath>
#include <memory>
#include <optional>
#include <string>

#include "ambulon/scene/play.hpp"

namespace ambulon::tool {

/// Exit codes: done; done, and what was asked about is not so; could not.
enum Exit { exit_done = 0, exit_not_so = 1, exit_could_not = 2 };

/// A scene that has been read and put up, ready to be played.
class Player {
 public:
  /// Reads and puts up the scene. Problems go to standard error, and nothing comes back.
  static std::optional<Player> open(const std::string& file, std::size_t journal);

  /// Plays for `seconds`; shows progress when standard error is a terminal; stops early, at the end
  /// of a tick, when the user presses Ctrl-C. `each_tick()` is called before the first and after
  /// each tick. `prints`: it prints as it goes, so on one terminal there is no room for progress.
  /// Answers false when it was stopped.
  template <class EachTick>
  bool play(double seconds, EachTick&& each_tick, bool prints = false) {
    Progress progress(seconds, prints);
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
  /// One line on the terminal that is rewritten, and wiped at the end.
  class Progress {
   public:
    Progress(double seconds, bool prints);
    ~Progress();
    void show(double now);

   private:
    double seconds_;
    bool terminal_;
    double last_shown_ = -1;  // fraction
  };

  static bool interrupted();

  std::unique_ptr<Scene> scene_;  // the play refers to it
  std::unique_ptr<Play> play_;
};

/// Writes "ambulon: …" to standard error.
void remark(const std::string& text);

/// Says that playing was stopped, and where.
void remark_stopped(double seconds);

}  // namespace ambulon::tool
