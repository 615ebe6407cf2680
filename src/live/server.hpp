#pragma once

#include <functional>
#include <memory>
#include <string>

#include "live/live_scene.hpp"

namespace ambulon {

/// Serves a scene to at most 16 pages on this machine, and runs their commands. It listens on the loopback
/// address only. Requests need the token of the page's address; other origins are refused.
class LiveServer {
 public:
  /// Costs so far; seconds are of one processor core.
  struct Cost {
    double seconds = 0;                   ///< of real time
    double playing = 0;                   ///< for playing
    double telling = 0;                   ///< for writing and sending messages
    std::uint64_t frames = 0, bytes = 0;  ///< sent
  };

  /// Opens a port of 127.0.0.1; 0: any free one. Returns a problem if it is in use. The scene must outlive
  /// it.
  static Expected<std::unique_ptr<LiveServer>> open(LiveScene& scene, int port);
  ~LiveServer();

  /// Returns the address for a browser, with the token.
  std::string address() const;
  /// Plays and serves until `stop()` returns true; it is called about thirty times a second.
  void run(const std::function<bool()>& stop);
  Cost cost() const;

 private:
  struct Inside;
  explicit LiveServer(std::unique_ptr<Inside> inside);
  std::unique_ptr<Inside> inside_;
};

}  // namespace ambulon
