#pragma once

#include <functional>
#include <memory>
#include <string>

#include "live/live_scene.hpp"

namespace ambulon {

/// Shows a scene as it is played to at most 16 pages on this machine, and does what they
/// ask for. It listens on the loopback address only; whoever asks needs the token that is part of the page's
/// address, and pages of other origins are refused.
class LiveServer {
 public:
  /// What it has done so far; seconds are those of a processor core.
  struct Cost {
    double seconds = 0;                   ///< of real time
    double playing = 0;                   ///< spent on the scene itself
    double telling = 0;                   ///< spent on making and sending what pages are told
    std::uint64_t frames = 0, bytes = 0;  ///< sent
  };

  /// On a port of 127.0.0.1; 0: any that is free. The problem when it is taken. The scene must outlive it.
  static Expected<std::unique_ptr<LiveServer>> open(LiveScene& scene, int port);
  ~LiveServer();

  /// The address to open in a browser, the token included.
  std::string address() const;
  /// Plays and serves until `stop()`, which is asked some thirty times a second, answers true.
  void run(const std::function<bool()>& stop);
  Cost cost() const;

 private:
  struct Inside;
  explicit LiveServer(std::unique_ptr<Inside> inside);
  std::unique_ptr<Inside> inside_;
};

}  // namespace ambulon
