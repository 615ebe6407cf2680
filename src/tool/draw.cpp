#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "ambulon/draw/chart.hpp"
#include "ambulon/draw/picture.hpp"

#include "commands.hpp"
#include "player.hpp"

namespace ambulon::tool {
namespace {

constexpr double trail_every = 0.1;  // seconds

Chart chart_of(Player& player, std::vector<std::vector<vec3>>& trails) {
  const Scene& scene = player.scene();
  Chart chart{.title = scene.title.empty() ? scene.file : scene.title, .seconds = player.world().time()};
  chart.ground = Box{scene.ground.least(), scene.ground.most()};
  for (const Place& place : scene.places) chart.places.push_back({place.name, place.at});
  for (const SceneNpc& npc : scene.npcs)
    for (const SceneStep& step : npc.steps)
      if (const auto* patrol = std::get_if<PatrolStep>(&step.verb))
        chart.beats.push_back(chart_beat(*patrol->beat));
  for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
    const Npc npc = player.play().npcs()[i];
    if (!npc.alive()) continue;
    const Motion motion = npc.motion();
    const ErrandState errand = npc.errand();
    const Npc target(player.world(), errand.target);
    const bool after = target.alive() && errand.name != "flee";  // who flees is after nobody
    chart.npcs.push_back({.name = scene.npcs[i].name,
                          .at = motion.position,
                          .facing = motion.facing,
                          .radius = npc.body().radius,
                          .goal = errand.goal,
                          .arrival_radius = errand.arrival_radius,
                          .slowing_distance = npc.gait().slowing_distance,
                          .target = after ? std::optional(target.position()) : std::nullopt,
                          .deck = npc.body().deck,
                          .trail = std::move(trails[i])});
  }
  return chart;
}

}  // namespace

int draw(const DrawRequest& request) {
  auto player = Player::open(request.scene, 0);
  if (!player) return exit_could_not;
  std::vector<std::vector<vec3>> trails(player->scene().npcs.size());
  double next = 0;
  const bool finished = player->play(request.at, [&] {
    if (!request.trail || player->world().time() < next - 1e-9) return;
    next += trail_every;
    for (std::size_t i = 0; i < trails.size(); ++i)
      if (player->play().npcs()[i].alive()) trails[i].push_back(player->play().npcs()[i].position());
  });
  if (!finished) remark_stopped(player->world().time());
  const Chart chart = chart_of(*player, trails);
  const auto saved = save_picture(request.output, request.width, request.height,
                                  [&](Canvas& canvas) { paint(chart, canvas); });
  if (!saved) {
    remark(saved.error().text);
    return exit_could_not;
  }
  if (request.json)
    fmt::print("{}\n", nlohmann::ordered_json{{"picture", *saved},
                                              {"seconds", player->world().time()},
                                              {"width", request.width},
                                              {"height", request.height}}
                           .dump());
  else
    fmt::print("{}: {} by {} pixels, {:.2f} s into the scene\n", *saved, request.width, request.height,
               player->world().time());
  return exit_done;
}

}  // namespace ambulon::tool
