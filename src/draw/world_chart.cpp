#include "ambulon/draw/world_chart.hpp"

#include <unordered_set>

#include <fmt/format.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "draw/chart_mesh.hpp"
#include "draw/chart_npc.hpp"
#include "draw/chart_tiles.hpp"
#include "draw/picture.hpp"
#include "ground/tiles/tile_layer.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_beats = 40;  // more would hide the ground, and take long to label

Expected<void> validate(const WorldChartOptions& options) {
  Body body = options.body;
  if (body.radius == 0.f) body.radius = 0.01f;  // 0 is the ground itself
  if (auto valid = ambulon::validate(body); !valid) return valid;
  for (const ChartPlace& place : options.places)
    if (!finite(place.at)) return problem(fmt::format("the place {} is not finite", place.name));
  return {};
}

void add_ground(Chart& chart, const Ground& ground, const Body& body) {
  if (const auto* open = dynamic_cast<const OpenGround*>(&ground)) {
    chart.ground = ChartBox{open->min(), open->max()};
  } else if (const auto* tiles = dynamic_cast<const TileGround*>(&ground)) {
    const TileMap& map = tiles->layer(body.radius).map();
    chart.ground = ChartBox{map.origin(), map.corner({map.width(), map.height()})};
    chart.tiles = chart_tiles(map);
  } else if (const auto* mesh = dynamic_cast<const MeshGround*>(&ground)) {
    chart.ground = ChartBox{mesh->min(), mesh->max()};
    chart.mesh = chart_mesh(mesh->mesh(body));
  }
}

}  // namespace

ChartNpc chart_npc(Npc npc) {
  const Motion motion = npc.motion();
  const ErrandState errand = npc.errand();
  const Npc target(*npc.world(), errand.target);
  // an NPC that flees has a target, but does not go to it
  const bool after = target.alive() && errand.name != "flee";
  return {.name = std::string(npc.name()),
          .at = motion.position,
          .facing = motion.facing,
          .radius = npc.body().radius,
          .goal = errand.goal,
          .arrival_radius = errand.arrival_radius,
          .slowing_distance = npc.gait().slowing_distance,
          .target = after ? std::optional(target.position()) : std::nullopt,
          .deck = npc.body().deck};
}

Expected<void> paint_chart(World& world, Canvas& canvas, const WorldChartOptions& options) {
  if (auto valid = validate(options); !valid) return valid;
  Chart chart{.title = options.title, .seconds = world.time(), .places = options.places};
  add_ground(chart, world.ground(), options.body);
  std::unordered_set<const Beat*> drawn;  // NPCs share beats
  world.each([&](Npc npc) {
    chart.npcs.push_back(chart_npc(npc));
    const Beat* beat = npc.beat();
    if (beat != nullptr && drawn.size() <= max_beats && drawn.insert(beat).second)
      chart.beats.push_back(chart_beat(*beat));
  });
  if (chart.beats.size() > max_beats) chart.beats.clear();
  paint(chart, canvas);
  return {};
}

Expected<std::string> save_chart(World& world, const std::string& file, const WorldChartOptions& options,
                                 int width, int height) {
  if (auto valid = validate(options); !valid) return problem(valid.error().text);
  return save_picture(file, width, height,
                      [&](Canvas& canvas) { (void)paint_chart(world, canvas, options); });
}

}  // namespace ambulon
