#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "commands.hpp"
#include "draw/chart.hpp"
#include "draw/chart_mesh.hpp"
#include "draw/chart_npc.hpp"
#include "draw/chart_tiles.hpp"
#include "draw/picture.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_part.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "ground/tiles/tile_sweep.hpp"
#include "options.hpp"
#include "player.hpp"
#include "scene/search_visits.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon draw`.
struct DrawRequest {
  std::string scene;
  std::string output;
  double time = 0;
  bool trail = false;
  std::string show;  // overlay; empty: none
  std::optional<vec3> from, to;
  std::optional<vec2> z_range;  // heights in metres: of a level only what lies between
  Body body;
  bool body_given = false;  // otherwise a saved ground uses a body that it was built for
  int width = 1280, height = 800;
  bool json = false;
};

constexpr double trail_every = 0.1;  // seconds

/// Returns the label of a `count`: "visitor, 60".
std::string how_many(const Scene& scene, const std::string& many) {
  return fmt::format("{}, {}", many, std::ranges::count(scene.npcs, many, &SceneNpc::many));
}

Chart chart_of(Player& player, std::vector<std::vector<vec3>>& trails, const DrawRequest& request) {
  const Scene& scene = player.scene();
  Chart chart{.title = scene.title.empty() ? scene.file : scene.title, .seconds = player.world().time()};
  chart.ground = ChartBox{scene.ground.min(), scene.ground.max()};
  if (const TileGround* tiles = player.play().tiles()) chart.tiles = chart_tiles(tiles->map());
  if (const MeshGround* mesh = player.play().mesh()) {
    Body point = request.body;                    // so that the edges are those of the ground itself
    if (!scene.ground.built) point.radius = 0.f;  // otherwise another mesh would be built
    chart.mesh = chart_mesh(mesh->mesh(point), false, request.z_range);
  }
  for (const Place& place : scene.places) chart.places.push_back({place.name, place.at});
  for (const SceneNpc& npc : scene.npcs)
    for (const SceneStep& step : npc.steps)
      if (const auto* patrol = std::get_if<PatrolStep>(&step.verb))
        chart.beats.push_back(chart_beat(*patrol->beat));
  std::map<std::string, std::size_t> colours;  // by name; a `count` shares one
  for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
    const Npc npc = player.play().npcs()[i];
    if (!npc.alive()) continue;
    const std::string& many = scene.npcs[i].many;
    const auto [colour, fresh] =
        colours.try_emplace(many.empty() ? scene.npcs[i].name : many, colours.size());
    ChartNpc& drawn = chart.npcs.emplace_back(chart_npc(npc));
    drawn.trail = std::move(trails[i]);
    if (many.empty()) continue;
    drawn.name = fresh ? how_many(scene, many) : "";
    drawn.colour = colour->second;
  }
  return chart;
}

float max_of(const std::vector<float>& values) {
  float max = 0.f;
  for (const float value : values)
    if (std::isfinite(value)) max = std::max(max, value);
  return max;
}

/// Shades the cells by `value(cell)`, negative: none; the caption names the maximum.
template <class Value>
void shade(ChartTiles& tiles, const TileMap& map, const char* caption, Value&& value) {
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) tiles.shades.push_back(value(Cell{x, y}));
  const float max = max_of(tiles.shades);
  for (float& each : tiles.shades) each = std::isfinite(each) && each >= 0.f && max > 0.f ? each / max : -1.f;
  tiles.shades_mean = fmt::format(fmt::runtime(caption), max);
}

/// Returns the spots of a search, if the body fits anywhere.
std::optional<std::pair<Spot, Spot>> ends_of_search(const Ground& ground, const DrawRequest& request) {
  const Body& body = request.body;
  const float anywhere = std::numeric_limits<float>::infinity();
  const Snap from = ground.snap(*request.from, anywhere, body), to = ground.snap(*request.to, anywhere, body);
  if (!from.found) return {};
  return std::pair(from.spot, to.spot);
}

void show_route(Chart& chart, const Ground& ground, const Spot& from, const Spot& to) {
  Route route;
  ground.route(from, to, route);
  chart.route.assign(route.bends.begin(), route.bends.end());
}

void show_search(Chart& chart, const TileGround& ground, const DrawRequest& request) {
  const auto ends = ends_of_search(ground, request);
  if (!ends) return;
  show_route(chart, ground, ends->first, ends->second);
  TileVisits visits = search_visits(ground, ends->first, ends->second, request.body);
  chart.tiles->marks = std::move(visits.cells);
  chart.tiles->marks_mean = fmt::format("visited by the search, {} nodes expanded", visits.expanded);
}

void show(Chart& chart, const TileGround& ground, const DrawRequest& request) {
  ChartTiles& tiles = *chart.tiles;
  const TileLayer& layer = ground.layer(request.body.radius);
  const TileMap& map = ground.map();
  if (request.show == "clearance") {
    shade(tiles, map, "clearance, up to {:.1f} m",
          [&](Cell cell) { return map.free(cell) ? clearance(map, map.middle(cell), 100.f) : -1.f; });
  } else if (request.show == "components") {
    std::vector<std::uint32_t> labels;  // in order of appearance, numbered from 1
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
    const vec3 goal = *request.to;
    const FlowField field(ground, std::span(&goal, 1), request.body);
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

/// Shades the polygons by `value(polygon)`, 0 to 1, negative: none.
template <class Value>
void shade(ChartMesh& chart, Value&& value) {
  for (ChartMesh::Polygon& polygon : chart.polygons) polygon.shade = value(polygon.number);
}

void shade_heights(ChartMesh& chart) {
  const auto [lowest, highest] = std::ranges::minmax_element(chart.polygons, {}, &ChartMesh::Polygon::height);
  if (lowest == chart.polygons.end()) return;
  const float low = lowest->height, high = highest->height;
  chart.shades_mean = fmt::format("height, from {:.1f} to {:.1f} m", low, high);
  for (ChartMesh::Polygon& polygon : chart.polygons)
    polygon.shade = high > low ? (polygon.height - low) / (high - low) : 0.f;
}

/// Divides the polygons into small pieces, shaded by their distance from the edge of the ground.
void shade_clearance(ChartMesh& chart, const MeshGround& ground, const Body& point) {
  constexpr float furthest = 4.f;  // metres
  constexpr int pieces = 160;      // along the longer side of the chart
  const ConvexMesh& mesh = ground.mesh(point);
  const vec2 size = ground.max() - ground.min();
  const double step = 1000.0 * static_cast<double>(std::max(size.x, size.y)) / pieces;
  MeshPart part;
  std::vector<ChartMesh::Polygon> shaded;
  float max = 0.f;
  for (const ChartMesh::Polygon& polygon : chart.polygons) {
    const ConvexMesh::Polygon& box = mesh.polygons()[polygon.number];
    for (double y = std::floor(box.low.y / step) * step; y < box.high.y; y += step)
      for (double x = std::floor(box.low.x / step) * step; x < box.high.x; x += step) {
        part.cut_out(mesh, polygon.number, {x, y}, dvec2(x, y) + step);
        if (part.area() <= 0) continue;
        ChartMesh::Polygon& piece = shaded.emplace_back(polygon);
        piece.corners.clear();
        vec2 middle(0.f);
        for (const dvec2 corner : part.corners()) {
          piece.corners.push_back(vec2(corner / 1000.0));
          middle += piece.corners.back() / static_cast<float>(part.corners().size());
        }
        const auto height = static_cast<float>(mesh.height(polygon.number, 1000.0 * dvec2(middle)) / 1000.0);
        const auto edge = ground.nearest_edge(ground.snap(lift(middle, height), 1.f, point).spot, furthest);
        piece.shade = edge ? edge->off : furthest;
        max = std::max(max, piece.shade);
      }
  }
  for (ChartMesh::Polygon& piece : shaded) piece.shade = max > 0.f ? piece.shade / max : 0.f;
  chart.shades_mean = fmt::format("clearance, up to {:.1f} m{}", max, max < furthest ? "" : " or more");
  std::ranges::move(shaded, std::back_inserter(chart.polygons));
}

/// Returns true if a walkable surface above its centre hides a part.
bool hidden(const RejectedPart& part, const ConvexMesh& surface, std::optional<vec2> between) {
  constexpr double min = 150;  // millimetres
  vec3 middle(0.f);
  for (const vec3 corner : part.corners) middle += corner / static_cast<float>(part.corners.size());
  const dvec2 at = 1000.0 * dvec2(flat(middle));
  bool below = false;
  surface.each_near(at, at, [&](std::uint32_t polygon) {
    const double height = surface.height(polygon, at);
    const bool drawn = !between || (height > 1000.0 * between->x && height < 1000.0 * between->y);
    below = below || (drawn && height > 1000.0 * middle.z + min && surface.nearest_in(polygon, at) == at);
  });
  return below;
}

/// Adds what the body sees of a plan, within the edges of the plan.
void show(Chart& chart, const MeshGround& ground, bool built, const DrawRequest& request) {
  const ConvexMesh& mesh = ground.mesh(request.body);
  if (request.show == "heights") return shade_heights(*chart.mesh);
  Body point = request.body;
  if (!built) point.radius = 0.f;
  if (request.show == "clearance") return shade_clearance(*chart.mesh, ground, point);
  ChartMesh shown = chart_mesh(mesh, request.show == "polygons", request.z_range);
  shown.room = shown.edges;
  shown.room_means = fmt::format("walkable by the centre of a body of {:g} m", request.body.radius);
  // The ground itself is drawn below, so that the margin that bodies cannot reach is visible.
  shown.edges = std::move(chart.mesh->edges);
  shown.beneath = std::move(chart.mesh->polygons);
  if (request.show == "components") {
    std::vector<std::uint32_t> known;  // in order of appearance
    for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon)
      if (mesh.polygons()[polygon].count > 0 &&
          std::ranges::find(known, mesh.component(polygon)) == known.end())
        known.push_back(mesh.component(polygon));
    shown.shades_mean = fmt::format("components that can be reached from each other, {}", known.size());
    shade(shown, [&](std::uint32_t polygon) {
      const auto place = std::ranges::find(known, mesh.component(polygon)) - known.begin();
      return static_cast<float>(place + 1) / static_cast<float>(known.size());
    });
  } else if (const auto ends = request.show == "search" ? ends_of_search(ground, request) : std::nullopt) {
    show_route(chart, ground, ends->first, ends->second);
    const MeshVisits visits = search_visits(ground, ends->first, ends->second, request.body);
    shade(shown, [&](std::uint32_t polygon) {
      const int times = visits.times[polygon];
      return times == 0 ? -1.f : static_cast<float>(times) / static_cast<float>(visits.max);
    });
    shown.shades_mean =
        fmt::format("visited, up to {} times; {} nodes expanded", visits.max, visits.expanded);
  }
  if (request.show == "rejected") {
    shown.rejected = ground.rejected(request.body);
    std::erase_if(shown.rejected, [&, &surface = ground.mesh(point)](const RejectedPart& part) {
      return hidden(part, surface, request.z_range);
    });
    const auto outside = [&](const RejectedPart& part) {
      return request.z_range && std::ranges::none_of(part.corners, [&](vec3 corner) {
               return corner.z >= request.z_range->x && corner.z <= request.z_range->y;
             });
    };
    std::erase_if(shown.rejected, outside);
  }
  if (request.show == "crossings")
    shown.crossings = chart_crossings(ground.crossings(request.body), request.z_range);
  chart.mesh = std::move(shown);
}

/// Returns what the overlay needs and does not have; empty if nothing.
std::string missing(const DrawRequest& request, const Play& play) {
  const std::string& what = request.show;
  const bool of_tiles = what == "distance" || what == "flow",
             of_mesh = what == "polygons" || what == "heights" || what == "crossings" || what == "rejected";
  const std::string_view kind = play.scene().ground.kind();
  if (what.empty()) return "";
  if (of_tiles && play.tiles() == nullptr)
    return fmt::format("--show {} needs a ground of tiles; this one is {}", what, kind);
  if (of_mesh && play.mesh() == nullptr)
    return fmt::format("--show {} needs a plan or a level; this ground is {}", what, kind);
  if (play.tiles() == nullptr && play.mesh() == nullptr)
    return fmt::format("--show {} needs a ground of tiles, a plan or a level; this one is open", what);
  const bool to = what == "distance" || what == "flow" || what == "search";
  if (to && !request.to) return fmt::format("--show {} needs --to x,y", what);
  if (what == "search" && !request.from) return "--show search needs --from x,y";
  return "";
}

int draw(const DrawRequest& asked) {
  std::vector<vec3> points;
  for (const auto& point : {asked.from, asked.to})
    if (point) points.push_back(*point);
  auto player = Player::open(asked.scene, 0, points);
  if (!player) return exit_could_not;
  DrawRequest request = asked;
  if (const MeshGround* mesh = player->play().mesh())
    request.body = body_for(player->scene().ground, *mesh, asked.body, asked.body_given);
  if (const std::string what = missing(request, player->play()); !what.empty()) {
    announce(what);
    return exit_could_not;
  }
  std::vector<std::vector<vec3>> trails(player->scene().npcs.size());
  double next = 0;
  const bool finished = player->play(request.time, [&] {
    if (!request.trail || player->world().time() < next - 1e-9) return;
    next += trail_every;
    for (std::size_t i = 0; i < trails.size(); ++i)
      if (player->play().npcs()[i].alive()) trails[i].push_back(player->play().npcs()[i].position());
  });
  if (!finished) remark_stopped(player->world().time());
  Chart chart = chart_of(*player, trails, request);
  if (!request.show.empty()) {
    if (const TileGround* tiles = player->play().tiles())
      show(chart, *tiles, request);
    else
      show(chart, *player->play().mesh(), player->scene().ground.built != nullptr, request);
  }
  const auto saved = save_picture(request.output, request.width, request.height,
                                  [&](Canvas& canvas) { paint(chart, canvas); });
  if (!saved) {
    announce(saved.error().text);
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

}  // namespace

void add_draw(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<DrawRequest>();
  CLI::App* draw_command = add_command(app, "draw", "draw a chart of a scene", request->scene);
  draw_command->add_option("-o,--output", request->output, "output file, .png or .svg")
      ->required()
      ->type_name("FILE");
  draw_command->add_option("--time", request->time, "time in the scene")
      ->check(number_between(0, month))
      ->type_name("SECONDS")
      ->capture_default_str();
  draw_command->add_flag("--trail", request->trail, "draw the trail of each character");
  draw_command
      ->add_option(
          "--show", request->show,
          "overlay. All grounds: clearance, components, search (from --from to --to). Tiles: distance or "
          "flow (to --to). Plans and levels: polygons, crossings, rejected. Levels: heights")
      ->check(CLI::IsMember({"clearance", "components", "crossings", "distance", "flow", "heights",
                             "polygons", "rejected", "search"}))
      ->type_name("WHAT");
  add_point(*draw_command, "--from", request->from, "start of the search");
  add_point(*draw_command, "--to", request->to, "goal of the search");
  draw_command
      ->add_option_function<std::string>(
          "--z-range",
          [request](const std::string& text) {
            const std::vector<float> heights = numbers_of(text);
            if (heights.size() != 2 || heights[0] > heights[1])
              throw CLI::ValidationError(
                  "--z-range",
                  fmt::format("\"{}\" is not two heights, the lower one first; write -0.5,1.5", text));
            request->z_range = vec2(heights[0], heights[1]);
          },
          "range of heights: of a level only the floors within it, in metres")
      ->type_name("LOW,HIGH");
  add_body(*draw_command, request->body, &request->body_given);
  add_size(*draw_command, request->width, request->height);
  draw_command->add_flag("--json", request->json, "print one JSON document");
  draw_command->callback([request, &exit_code] { exit_code = draw(*request); });
}

}  // namespace ambulon::tool
