#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "ambulon/draw/chart.hpp"
#include "ambulon/draw/picture.hpp"
#include "ambulon/ground/tiles/tile_sweep.hpp"

#include "commands.hpp"
#include "player.hpp"

namespace ambulon::tool {
namespace {

constexpr double trail_every = 0.1;  // seconds

Chart chart_of(Player& player, std::vector<std::vector<vec3>>& trails) {
  const Scene& scene = player.scene();
  Chart chart{.title = scene.title.empty() ? scene.file : scene.title, .seconds = player.world().time()};
  chart.ground = Box{scene.ground.least(), scene.ground.most()};
  if (const TileGround* tiles = player.play().tiles()) chart.tiles = chart_tiles(tiles->map());
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

float most_of(const std::vector<float>& values) {
  float most = 0.f;
  for (const float value : values)
    if (std::isfinite(value)) most = std::max(most, value);
  return most;
}

/// Shades the cells by `value(cell)`, negative: not at all; captions it by the highest.
template <class Value>
void shade(ChartTiles& tiles, const TileMap& map, const char* caption, Value&& value) {
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) tiles.shades.push_back(value(Cell{x, y}));
  const float most = most_of(tiles.shades);
  for (float& each : tiles.shades)
    each = std::isfinite(each) && each >= 0.f && most > 0.f ? each / most : -1.f;
  tiles.shades_mean = fmt::format(fmt::runtime(caption), most);
}

void show_search(Chart& chart, const TileGround& ground, const DrawRequest& request) {
  const Body body{.radius = request.radius};
  const float anywhere = std::numeric_limits<float>::infinity();
  const Snap from = ground.snap(lift(*request.from), anywhere, body),
             to = ground.snap(lift(*request.to), anywhere, body);
  if (!from.found || !to.found) return;
  Route route;
  ground.route(from.spot, to.spot, route);
  chart.route.assign(route.bends.begin(), route.bends.end());
  const TileMap& map = ground.layer(request.radius).map();
  TileSearch search;
  search.find(map, map.cell_of(from.spot.piece), map.cell_of(to.spot.piece));
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (search.noted({x, y})) chart.tiles->marks.push_back({x, y});
  chart.tiles->marks_mean = fmt::format("noted by the search, {} expanded", search.expanded());
}

void show(Chart& chart, const TileGround& ground, const DrawRequest& request) {
  ChartTiles& tiles = *chart.tiles;
  const TileLayer& layer = ground.layer(request.radius);
  const TileMap& map = ground.map();
  if (request.show == "clearance") {
    shade(tiles, map, "clearance, up to {:.1f} m",
          [&](Cell cell) { return map.free(cell) ? clearance(map, map.middle(cell), 100.f) : -1.f; });
  } else if (request.show == "components") {
    std::vector<std::uint32_t> labels;  // in the order in which they are met, numbered from 1
    shade(tiles, map, "components of cells that can be reached from each other, {:.0f}", [&](Cell cell) {
      const std::uint32_t label = layer.components().component(layer.map(), cell);
      if (label == 0) return -1.f;
      const auto known = std::ranges::find(labels, label);
      const auto number = known - labels.begin();
      if (known == labels.end()) labels.push_back(label);
      return static_cast<float>(number + 1);
    });
  } else if (request.show == "search") {
    show_search(chart, ground, request);
  } else {
    const vec3 goal = lift(*request.to);
    const FlowField field(ground, std::span(&goal, 1), {.radius = request.radius});
    if (request.show == "distance")
      shade(tiles, map, "distance, up to {:.1f} m", [&](Cell cell) {
        const float metres = layer.map().free(cell) ? field.distance_of(cell) : -1.f;
        return std::isfinite(metres) ? metres : -1.f;
      });
    else
      for (int y = 0; y < map.height(); ++y)
        for (int x = 0; x < map.width(); ++x)
          tiles.arrows.push_back(layer.map().free({x, y}) ? field.direction(lift(map.middle({x, y})))
                                                          : vec2(0.f));
  }
}

/// What is missing for what is to be shown; empty when nothing is.
std::string missing(const DrawRequest& request, const TileGround* tiles) {
  if (request.show.empty()) return "";
  if (tiles == nullptr)
    return fmt::format("--show {} needs a ground of tiles; this one is open", request.show);
  const bool to = request.show == "distance" || request.show == "flow" || request.show == "search";
  if (to && !request.to) return fmt::format("--show {} needs --to x,y", request.show);
  if (request.show == "search" && !request.from) return "--show search needs --from x,y";
  return "";
}

}  // namespace

int draw(const DrawRequest& request) {
  auto player = Player::open(request.scene, 0);
  if (!player) return exit_could_not;
  if (const std::string what = missing(request, player->play().tiles()); !what.empty()) {
    remark(what);
    return exit_could_not;
  }
  std::vector<std::vector<vec3>> trails(player->scene().npcs.size());
  double next = 0;
  const bool finished = player->play(request.at, [&] {
    if (!request.trail || player->world().time() < next - 1e-9) return;
    next += trail_every;
    for (std::size_t i = 0; i < trails.size(); ++i)
      if (player->play().npcs()[i].alive()) trails[i].push_back(player->play().npcs()[i].position());
  });
  if (!finished) remark_stopped(player->world().time());
  Chart chart = chart_of(*player, trails);
  if (!request.show.empty()) show(chart, *player->play().tiles(), request);
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
