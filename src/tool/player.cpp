#include "player.hpp"

#include <algorithm>
#include <csignal>
#include <cstdio>
#include <unistd.h>

#include <fmt/format.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/tbb_jobs.hpp"

namespace ambulon::tool {
namespace {

volatile std::sig_atomic_t interrupt_seen = 0;

}  // namespace

void announce(const std::string& text) { fmt::print(stderr, "ambulon: {}\n", text); }

void remark_stopped(double seconds) {
  announce(fmt::format("stopped after {:.2f} s of play; here is what was played so far", seconds));
}

void keep_around(SceneGround& ground, std::span<const vec3> points) {
  std::vector<vec3>& kept = ground.rules.reach_from;
  if (!kept.empty()) kept.insert(kept.end(), points.begin(), points.end());
}

std::optional<Player> Player::open(const std::string& file, std::size_t journal,
                                   std::span<const vec3> points) {
  auto scene = read_scene_or_ground(file);
  if (!scene) {
    announce(scene.error().text);
    return std::nullopt;
  }
  Player player;
  player.scene_ = std::make_unique<Scene>(std::move(*scene));
  keep_around(player.scene_->ground, points);
  auto play = Play::start(*player.scene_, journal, tbb_jobs());
  if (!play) {
    announce(play.error().text);
    return std::nullopt;
  }
  player.play_ = std::move(*play);
  watch_for_interrupt();
  return player;
}

std::string in_words(const SceneGround& ground, const Body& body) {
  if (!ground.is_level()) return fmt::format("radius {:.4g} m", body.radius);
  return fmt::format("radius {:.4g} m, height {:.4g} m, step_up {:.4g} m", body.radius, body.height,
                     body.step_up);
}

Body body_for(const SceneGround& ground, const Ground& made, const Body& body, bool given) {
  if (!ground.built) return body;
  const auto bodies = static_cast<const MeshGround&>(made).bodies();
  if (bodies.empty()) return body;
  if (!given) return bodies.front();
  const auto unlike = [&](const Body& other) {
    const auto off = [](float a, float b) { return std::abs(a - b); };
    float sum = off(other.radius, body.radius);
    if (ground.is_level())
      sum += off(other.height, body.height) + off(other.step_up, body.step_up) +
             off(other.jump_up, body.jump_up) + off(other.drop_down, body.drop_down) +
             off(other.leap, body.leap);
    return sum;
  };
  const Body& closest = *std::ranges::min_element(bodies, {}, unlike);
  if (unlike(closest) > 0.006f)  // sizes differ by at least 1 cm
    announce(fmt::format(
        "the ground was not built for a body of {}; its mesh is made now. The closest that it was "
        "built for has {}",
        in_words(ground, body), in_words(ground, closest)));
  return body;
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
