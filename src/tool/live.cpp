#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "live/server.hpp"
#include "player.hpp"

namespace ambulon::tool {

int live(const LiveRequest& request) {
  auto scene = LiveScene::open(request.scene);
  if (!scene) {
    remark(scene.error().text);
    return exit_could_not;
  }
  auto server = LiveServer::open(**scene, request.port);
  if (!server) {
    remark(server.error().text);
    return exit_could_not;
  }
  watch_for_interrupt();
  const std::string address = (*server)->address();
  fmt::print("{}\n", request.json ? nlohmann::json{{"address", address}}.dump() : address);
  std::fflush(stdout);
  remark("open that address in a browser on this machine; Ctrl-C ends it");
  (*server)->run([] { return interrupted(); });
  const LiveServer::Cost cost = (*server)->cost();
  remark(fmt::format(
      "ended after {:.1f} s; playing took {:.1f} % of a core, telling pages {:.1f} %; {} frames, {:.1f} MB",
      cost.seconds, 100 * cost.playing / cost.seconds, 100 * cost.telling / cost.seconds, cost.frames,
      static_cast<double>(cost.bytes) / 1e6));
  return exit_done;
}

}  // namespace ambulon::tool
