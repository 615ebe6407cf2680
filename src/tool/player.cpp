#include "player.hpp"

#include <csignal>
#include <cstdio>
#include <unistd.h>

#include <fmt/format.h>

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
  auto play = Play::put_up(*player.scene_, journal);
  if (!play) {
    remark(play.error().text);
    return std::nullopt;
  }
  player.play_ = std::move(*play);
  // A second Ctrl-C ends the program at once.
  struct sigaction action = {};
  action.sa_handler = [](int) { interrupt_seen = 1; };
  action.sa_flags = static_cast<int>(SA_RESETHAND);
  sigaction(SIGINT, &action, nullptr);
  return player;
}

bool Player::interrupted() { return interrupt_seen != 0; }

Player::Progress::Progress(double seconds, bool prints)
    : seconds_(seconds), terminal_(isatty(STDERR_FILENO) != 0 && (!prints || isatty(STDOUT_FILENO) == 0)) {}

Player::Progress::~Progress() {
  if (terminal_ && last_shown_ >= 0) fmt::print(stderr, "\r\033[K");
}

void Player::Progress::show(double now) {
  const double fraction = now / seconds_;
  if (!terminal_ || fraction - last_shown_ < 0.01) return;
  last_shown_ = fraction;
  fmt::print(stderr, "\rplaying: {:.0f} of {:.0f} s ({:.0f} %)", now, seconds_, 100 * fraction);
  std::fflush(stderr);
}

}  // namespace ambulon::tool
