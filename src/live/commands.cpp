// The commands of pages: clock, changes of the scene's text, events, queries.

#include <cmath>
#include <fstream>

#include <fmt/format.h>

#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/world/pick.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "json.hpp"
#include "live/live_scene.hpp"
#include "scene/edit.hpp"
#include "scene/read_events.hpp"
#include "scene/search_visits.hpp"
#include "toml_json.hpp"

namespace ambulon {

using live::json;
using live::rounded;
using live::to_json;

namespace {

constexpr std::size_t max_npcs_close = 8;
constexpr std::size_t max_barriers = 500, max_signals = 500, max_waypoints = 1000;
constexpr std::size_t max_expanded = 4000;  // cells or polygons of a search that are sent

using Answer = Expected<json>;

Answer done() { return json{{"done", true}}; }

/// Returns a number of a command, or a problem.
Expected<double> number_in(const json& value, std::string_view what, double min, double max) {
  if (!value.is_number()) return problem(fmt::format("{} must be a number", what));
  const auto number = value.get<double>();
  if (number < min || number > max)
    return problem(fmt::format("{} is {:g}; it must lie between {:g} and {:g}", what, number, min, max));
  return number;
}

/// Returns three numbers of a command, or a problem.
Expected<vec3> point_in(const json& value, std::string_view what) {
  vec3 point(0.f);
  if (!value.is_array() || value.size() < 2 || value.size() > 3)
    return problem(fmt::format("{} must be [x, y] or [x, y, z]", what));
  for (std::size_t i = 0; i < value.size(); ++i) {
    if (!value[i].is_number()) return problem(fmt::format("{} must be made of numbers", what));
    point[static_cast<int>(i)] = value[i].get<float>();
  }
  if (!finite(point)) return problem(fmt::format("{} is not finite", what));
  return point;
}

}  // namespace

/// The value and the context of one command.
struct LiveScene::Command {
  LiveScene& live;
  PageState* page;
  const json& value;

  // --- the clock

  Answer play() const {
    if (!value.is_boolean()) return problem("play must be true or false");
    live.playing_ = value.get<bool>();
    return done();
  }
  Answer step() const {
    const auto ticks = number_in(value, "step, in ticks,", 1, 1000);
    if (!ticks) return tl::unexpected(ticks.error());
    live.playing_ = false;
    for (int i = 0; i < static_cast<int>(*ticks); ++i) live.tick();
    return done();
  }
  Answer speed() const {
    const auto speed = number_in(value, "speed", 0.05, 20);
    if (!speed) return tl::unexpected(speed.error());
    live.speed_ = *speed;
    return done();
  }
  Answer restart() const {
    if (auto begun = live.begin(live.text_); !begun) return tl::unexpected(begun.error());
    return done();
  }

  // --- subscriptions

  Answer watch() const {
    if (page == nullptr) return problem("watch is about a page; give its number as page");
    const json npcs = value.value("npcs", json::array());
    if (!npcs.is_array() || npcs.size() > max_npcs_close)
      return problem(fmt::format("npcs must be a list of at most {} names", max_npcs_close));
    std::vector<std::string> names;
    for (const json& each : npcs) {
      if (!each.is_string() || !live.play_->world().find(each.get<std::string>()).alive())
        return problem(fmt::format("there is no NPC {}", each.dump()));
      names.push_back(each.get<std::string>());
    }
    page->npcs = std::move(names);
    page->routes = value.value("routes", false);
    page->neighbours = value.value("neighbours", false);
    return done();
  }

  // --- the scene's text

  /// Changes a value of the scene file; the play continues with the changed scene.
  Answer set() const {
    const json path = value.value("path", json::array());
    if (!path.is_array() || path.empty() || !value.contains("value"))
      return problem("set needs a path, as a list of keys, and a value");
    std::vector<std::string> keys;
    for (const json& key : path) {
      if (!key.is_string()) return problem("the keys of a path are texts");
      keys.push_back(key.get<std::string>());
    }
    const auto changed = with_value(live.text_, keys, live::toml_of(value["value"]));
    if (!changed) return tl::unexpected(changed.error());
    if (auto taken = live.change_text(*changed); !taken) return tl::unexpected(taken.error());
    return done();
  }
  /// Returns to the scene of the file.
  Answer revert() const {
    if (auto taken = live.change_text(live.kept_text_); !taken) return tl::unexpected(taken.error());
    return done();
  }
  /// Saves the present scene to a file beside its own.
  Answer save() const {
    std::filesystem::path file(live.file_);
    file.replace_filename(file.stem().string() + "-tuned.toml");
    std::ofstream stream(file, std::ios::binary);
    if (!(stream << live.text_ << std::flush))
      return problem(fmt::format("{}: cannot be written", file.string()));
    return json{{"done", true}, {"file", file.string()}};
  }
  /// Returns the text of the file and the text that is played.
  Answer texts() const { return json{{"kept", live.kept_text_}, {"played", live.text_}}; }

  // --- queries

  /// Returns what a ray hits: an NPC, or a place on the ground.
  Answer pick() const {
    const json ends = value.value("ray", json::array());
    if (!ends.is_array() || ends.size() != 2) return problem("ray must be [from, direction]");
    const auto from = point_in(ends[0], "the beginning of a ray"), way = point_in(ends[1], "its direction");
    if (!from) return tl::unexpected(from.error());
    if (!way) return tl::unexpected(way.error());
    const Ray ray{*from, *way};
    const Npc clicked = pick_npc(live.play_->world(), ray, value.value("slack", 0.f));
    const Npc whose = live.play_->world().find(value.value("for", ""));
    const Picked picked = ambulon::pick(live.play_->ground(), ray, whose.body());
    static constexpr const char* names[] = {"ground", "off_ground", "sky", "nonsense"};
    return json{{"npc", clicked.alive() ? json(clicked.name()) : json()},
                {"what", names[static_cast<int>(picked.what)]},
                {"at", to_json(picked.at)},
                {"off", rounded(picked.nearest.off)},
                {"nearest", picked.nearest.found ? to_json(picked.nearest.spot.position) : json()},
                {"why", picked.why()}};
  }

  /// Returns the route of an NPC to a point, and the expanded search nodes.
  Answer search() const {
    const Npc npc = live.play_->world().find(value.value("npc", ""));
    if (!npc.alive()) return problem("search needs the name of an NPC as npc");
    const auto to = point_in(value.value("to", json()), "to");
    if (!to) return tl::unexpected(to.error());
    const Ground& ground = live.play_->ground();
    constexpr float any = 1e6f;
    const Spot from = ground.snap(npc.position(), any, npc.body()).spot;
    const Snap end = ground.snap(*to, any, npc.body());
    if (!end) return problem("there is no ground for that NPC");
    Route route;
    ground.route(from, end.spot, route);
    json cells = json::array();
    if (const TileGround* tiles = live.play_->tiles()) expand(*tiles, from, end.spot, npc.body(), cells);
    if (const MeshGround* mesh = live.play_->mesh()) expand(*mesh, from, end.spot, npc.body(), cells);
    return json{{"bends", to_json(route.bends)},
                {"length_xy", rounded(route.length_xy)},
                {"expanded", route.expanded},
                {"cells", cells}};
  }

  /// Returns what a search expanded, as outlines.
  static void expand(const TileGround& ground, const Spot& from, const Spot& to, const Body& body,
                     json& cells) {
    const TileMap& map = ground.layer(body.radius).map();
    for (const Cell cell : search_visits(ground, from, to, body).cells) {
      if (cells.size() >= max_expanded) return;
      const vec2 low = map.corner(cell), high = map.corner({cell.x + 1, cell.y + 1});
      cells.push_back({to_json(lift(low)), to_json(vec3(high.x, low.y, 0)), to_json(lift(high)),
                       to_json(vec3(low.x, high.y, 0))});
    }
  }
  static void expand(const MeshGround& ground, const Spot& from, const Spot& to, const Body& body,
                     json& cells) {
    const ConvexMesh& mesh = ground.mesh(body);
    const MeshVisits visits = search_visits(ground, from, to, body);
    for (std::uint32_t polygon = 0; polygon < visits.times.size(); ++polygon) {
      if (visits.times[polygon] == 0) continue;
      if (cells.size() >= max_expanded) return;
      json corners = json::array();
      for (const ConvexMesh::Side& side : mesh.sides_of(polygon))
        corners.push_back(to_json(
            lift(vec2(side.start / 1000.0), static_cast<float>(mesh.height(polygon, side.start) / 1000))));
      cells.push_back(corners);
    }
  }

  /// Returns a flow field to a point: samples of its direction, as many as a page can show.
  Answer field() const {
    const TileGround* tiles = live.play_->tiles();
    if (tiles == nullptr)
      return problem(
          fmt::format("a flow field needs a ground of tiles; this one is {}", live.scene_->ground.kind()));
    const auto to = point_in(value.value("to", json()), "to");
    if (!to) return tl::unexpected(to.error());
    const FlowField field(*tiles, std::span(&*to, 1),
                          live.play_->world().find(value.value("npc", "")).body());
    const TileMap& map = tiles->map();
    const int stride =
        1 + static_cast<int>(std::sqrt(static_cast<double>(map.width()) * map.height() / max_expanded));
    json arrows = json::array();
    for (int y = 0; y < map.height(); y += stride)
      for (int x = 0; x < map.width(); x += stride) {
        const vec3 at = lift(map.middle({x, y}));
        if (const vec2 way = field.direction(at); way != vec2(0.f))
          arrows.push_back({rounded(at.x), rounded(at.y), rounded(way.x), rounded(way.y)});
      }
    return json{{"arrows", arrows}, {"cell", rounded(map.cell_size() * static_cast<float>(stride))}};
  }
};

namespace {

/// Reads an event that a page sends; it happens at once.
Expected<SceneEvent> event_of(const std::string& key, const json& value, Scene& scene, const Play& play) {
  std::vector<std::string> barriers;
  for (const auto& [name, id] : play.barriers()) barriers.push_back(name);
  toml::table event = live::table_of({{key, value}});
  event.insert_or_assign("at", 0);
  return read_event(event, scene, barriers);
}

/// Returns what was clicked, if the event is a click along a ray.
json picked_by(const SceneEvent& event, Play& play) {
  const auto* click = std::get_if<ClickEvent>(&event.what);
  if (click == nullptr || !click->ray) return {{"done", true}};
  const Npc first = play.world().find(click->who.front());
  const Picked picked = pick(play.ground(), *click->ray, first.body());
  return {{"done", picked.what == Picked::What::ground || picked.what == Picked::What::off_ground},
          {"at", to_json(picked.at)},
          {"off", rounded(picked.nearest.off)},
          {"why", picked.why()}};
}

}  // namespace

/// Returns why an event is refused that would let the scene grow without limit; empty if it is not.
std::string LiveScene::too_much(const SceneEvent& event) {
  const auto* put = std::get_if<PutEvent>(&event.what);
  if (put != nullptr && !play_->barriers().contains(put->barrier) && play_->barriers().size() >= max_barriers)
    return fmt::format("there are {} barriers, which is the most; take some away", max_barriers);
  if (const auto* add = std::get_if<AddWaypointEvent>(&event.what);
      add != nullptr && play_->waypoints_now(add->list, *add->of).size() >= max_waypoints)
    return fmt::format("{} has {} waypoints, which is the most; take some out", add->list.npc, max_waypoints);
  const auto* given = std::get_if<SignalEvent>(&event.what);
  if (given == nullptr || signals_.contains(given->signal)) return {};
  if (signals_.size() >= max_signals)
    return fmt::format("pages have given {} different signals, which is the most", max_signals);
  signals_.insert(given->signal);
  return {};
}

Expected<std::string> LiveScene::command(std::string_view text, PageState* page) {
  if (!live::nests_little(text)) return problem("a command nests lists and objects too deeply");
  const json command = json::parse(text, nullptr, false);
  if (!command.is_object()) return problem("a command is a JSON object");
  std::string key;
  for (const auto& [each, value] : command.items()) {
    if (each == "page") continue;
    if (!key.empty()) return problem(fmt::format("a command has one key; this has {} and {}", key, each));
    key = each;
  }
  if (key.empty()) return problem("the command is empty");
  using Do = Answer (Command::*)() const;
  static constexpr std::pair<std::string_view, Do> own[] = {
      {"play", &Command::play},       {"step", &Command::step},     {"speed", &Command::speed},
      {"restart", &Command::restart}, {"watch", &Command::watch},   {"set", &Command::set},
      {"revert", &Command::revert},   {"save", &Command::save},     {"texts", &Command::texts},
      {"pick", &Command::pick},       {"search", &Command::search}, {"field", &Command::field}};
  const json& value = command[key];
  for (const auto& [name, what] : own) {
    if (name != key) continue;
    try {
      const Answer answer = (Command{*this, page, value}.*what)();
      return answer ? Expected<std::string>(answer->dump()) : tl::unexpected(answer.error());
    } catch (const json::exception&) {  // a value of the wrong type
      return problem(fmt::format("the value of {} is not of the kind that is expected", key));
    }
  }
  const auto event = event_of(key, value, *scene_, *play_);
  if (!event) return tl::unexpected(event.error());
  if (const std::string why = too_much(*event); !why.empty()) return problem(why);
  std::string answer = picked_by(*event, *play_).dump();
  if (auto done = play_->happen(*event); !done) return tl::unexpected(done.error());
  return answer;
}

}  // namespace ambulon
