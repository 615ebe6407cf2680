#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "live/server.hpp"
#include "options.hpp"
#include "player.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon live`.
struct LiveRequest {
  std::string scene;
  int port = 7420;  // 0: any free one
  bool json = false;
};

int live(const LiveRequest& request) {
  auto scene = LiveScene::open(request.scene);
  if (!scene) {
    announce(scene.error().text);
    return exit_could_not;
  }
  auto server = LiveServer::open(**scene, request.port);
  if (!server) {
    announce(server.error().text);
    return exit_could_not;
  }
  watch_for_interrupt();
  const std::string address = (*server)->address();
  fmt::print("{}\n", request.json ? nlohmann::json{{"address", address}}.dump() : address);
  std::fflush(stdout);
  announce("open that address in a browser on this machine; Ctrl-C ends it");
  (*server)->run([] { return interrupted(); });
  const LiveServer::Cost cost = (*server)->cost();
  announce(fmt::format(
      "ended after {:.1f} s; playing took {:.1f} % of a core, telling pages {:.1f} %; {} frames, {:.1f} MB",
      cost.seconds, 100 * cost.playing / cost.seconds, 100 * cost.telling / cost.seconds, cost.frames,
      static_cast<double>(cost.bytes) / 1e6));
  return exit_done;
}

}  // namespace

void add_live(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<LiveRequest>();
  CLI::App* live_command =
      add_command(app, "live", "serve a page that shows a scene live and can change it", request->scene);
  live_command->add_option("--port", request->port, "port of 127.0.0.1; 0: any free one")
      ->check(number_between(0, 65'535))
      ->type_name("PORT")
      ->capture_default_str();
  live_command->add_flag("--json", request->json, "print the address as a JSON document");
  live_command->callback([request, &exit_code] { exit_code = live(*request); });
}

}  // namespace ambulon::tool
