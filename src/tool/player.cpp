#include "player.hpp"

#include <csignal>
#include <cstdio>
#include <unistd.h>

#include <fmt/format.h>

#include "ambulon/base/tbb_jobs.hpp"

namespace ambulon::tool {
namespace {

volatile std::sig_atomic_t interrupt_seen = 0;

}  // namespace

void remark(const std::string& text) { fmt::print(stderr, "ambulon: {}\n", text); }

void remark_stopped(double seconds) {
  remark(fmt::format("stopped after {:.2f} s of play; here is what was played so far", seconds));
}

std::optional<Player> Player::open(const std::string& file, std::size_t journal) {
  auto scene = read_scene(file);
  if (!scene) {
    remark(scene.error().text);
    return std::nullopt;
  }
  Player player;
  player.scene_ = std::make_unique<Scene>(std::move(*scene));
  auto play = Play::put_up(*player.scene_, journal, tbb_jobs());
  if (!play) {
    remark(play.error().text);
    return std::nullopt;
  }
  player.play_ = std::move(*play);
  watch_for_interrupt();
  return player;
}

void watch_for_interrupt() {
  struct sigaction action = {};
  action.sa_handler = [](int) { interrupt_seen = 1; };
  action.sa_flags = static_cast<int>(SA_RESETHAND);
  sigaction(SIGINT, &action, nullptr);
  sigaction(SIGTERM, &action, nullptr);
}

bool interrupted() { return interrupt_seen != 0; }

Progress::Progress(const char* doing, double whole, bool prints)
    : doing_(doing),
      whole_(whole),
      terminal_(isatty(STDERR_FILENO) != 0 && (!prints || isatty(STDOUT_FILENO) == 0)) {}

Progress::~Progress() {
  if (terminal_ && last_shown_ >= 0) fmt::print(stderr, "\r\033[K");
}

void Progress::show(double now) {
  const double fraction = now / whole_;
  if (!terminal_ || fraction - last_shown_ < 0.01) return;
  last_shown_ = fraction;
  fmt::print(stderr, "\r{}: {:.0f} %", doing_, 100 * fraction);
  std::fflush(stderr);
}

}  // namespace ambulon::tool
