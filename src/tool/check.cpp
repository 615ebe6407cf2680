#include "scene/check.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "options.hpp"
#include "player.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon check`.
struct CheckRequest {
  std::string scene;
  bool json = false;
};

int check(const CheckRequest& request) {
  const auto scene = read_scene_or_ground(request.scene);
  if (!scene) {
    announce(scene.error().text);
    return exit_could_not;
  }
  std::vector<Finding> findings = ambulon::check(*scene);
  // A scene that cannot be started is an error of its own.
  if (const auto play = Play::start(*scene, 0); !play) {
    announce(play.error().text);
    return exit_could_not;
  }
  nlohmann::ordered_json list = nlohmann::ordered_json::array();
  for (const Finding& each : findings) {
    if (!request.json)
      fmt::print("{}:{}:{}: {}\n    why: {}\n    try: {}\n", request.scene, each.where.line,
                 each.where.column, each.what, each.why, each.instead);
    list.push_back({{"file", request.scene},
                    {"line", each.where.line},
                    {"column", each.where.column},
                    {"npc", each.npc},
                    {"what", each.what},
                    {"why", each.why},
                    {"try", each.instead}});
  }
  if (request.json)
    fmt::print("{}\n", nlohmann::ordered_json{{"scene", request.scene}, {"findings", list}}.dump(2));
  else if (findings.empty())
    fmt::print("{}: nothing found\n", request.scene);
  else
    fmt::print("{}: {} finding{}\n", request.scene, findings.size(), findings.size() == 1 ? "" : "s");
  return findings.empty() ? exit_done : exit_not_so;
}

}  // namespace

void add_check(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<CheckRequest>();
  CLI::App* check_command =
      add_command(app, "check", "find mistakes in a scene; exits with 1 if there are any", request->scene);
  check_command->add_flag("--json", request->json, "print one JSON document");
  check_command->callback([request, &exit_code] { exit_code = check(*request); });
}

}  // namespace ambulon::tool
