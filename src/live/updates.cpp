// The messages for pages, as JSON.

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

#include <toml++/toml.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "json.hpp"
#include "live/live_scene.hpp"
#include "route/curve.hpp"
#include "scene/named_values.hpp"
#include "toml_json.hpp"

namespace ambulon {
namespace {

using live::json;
using live::outcomes_of;
using live::rounded;
using live::to_json;

constexpr float near_by = 3.f;             // metres within which neighbours are sent
constexpr double scores_kept = 10;         // seconds of the scene after the last page asked
constexpr std::size_t notes_at_once = 60;  // of the journal
constexpr std::size_t routes_at_once = 300;

/// Encodes bytes as base64 (RFC 4648).
std::string base64(std::span<const std::uint8_t> bytes) {
  static constexpr char signs[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string text;
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    std::uint32_t bits = 0;
    for (std::size_t k = 0; k < 3; ++k) bits = bits << 8U | (i + k < bytes.size() ? bytes[i + k] : 0U);
    for (std::size_t k = 0; k < 4; ++k)
      text += i + k <= bytes.size() ? signs[bits >> (18 - 6 * k) & 63U] : '=';
  }
  return text;
}

template <class Value>
std::string base64_of(const std::vector<Value>& values) {
  const auto bytes = std::as_bytes(std::span(values));
  return base64({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()});
}

json of_tiles(const TileMap& map) {
  std::vector<std::uint8_t> costs;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      costs.push_back(map.free({x, y}) ? map.cost({x, y}) : TileMap::blocked);
  return {{"width", map.width()},
          {"height", map.height()},
          {"cell", rounded(map.cell_size())},
          {"origin", to_json(map.origin())},
          {"costs", base64(costs)}};
}

/// Divides a polygon until its parts follow the floor, which may be uneven below it.
class Draped {
 public:
  Draped(const ConvexMesh& mesh, std::uint32_t polygon) : mesh_(mesh), polygon_(polygon) {}

  void triangle(const std::array<dvec2, 3>& corners, std::vector<float>& to, int depth = 0) const {
    std::size_t worst = 3;
    for (std::size_t i = 0; i < 3; ++i)
      if (bent(corners[i], corners[(i + 1) % 3]) &&
          (worst == 3 || length(corners, i) > length(corners, worst)))
        worst = i;
    if (worst == 3 || depth == max_cuts) {
      for (const dvec2 corner : corners) add(corner, to);
      return;
    }
    const dvec2 a = corners[worst], b = corners[(worst + 1) % 3], c = corners[(worst + 2) % 3],
                half = 0.5 * (a + b);
    triangle({a, half, c}, to, depth + 1);
    triangle({half, b, c}, to, depth + 1);
  }
  void line(dvec2 from, dvec2 end, std::vector<float>& to, int depth = 0) const {
    if (depth == max_cuts || !bent(from, end)) return add(from, to), add(end, to);
    const dvec2 half = 0.5 * (from + end);
    line(from, half, to, depth + 1);
    line(half, end, to, depth + 1);
  }

 private:
  static constexpr double flat_enough = 40, short_enough = 150;  // millimetres
  static constexpr int max_cuts = 10;

  static double length(const std::array<dvec2, 3>& corners, std::size_t i) {
    return glm::distance(corners[i], corners[(i + 1) % 3]);
  }
  bool bent(dvec2 from, dvec2 to) const {
    if (glm::distance(from, to) < short_enough) return false;
    const double a = mesh_.height(polygon_, from), b = mesh_.height(polygon_, to);
    for (const double part : {0.25, 0.5, 0.75})
      if (std::abs(mesh_.height(polygon_, from + part * (to - from)) - (a + part * (b - a))) > flat_enough)
        return true;
    return false;
  }
  void add(dvec2 at, std::vector<float>& to) const {
    to.push_back(static_cast<float>(at.x / 1000));
    to.push_back(static_cast<float>(at.y / 1000));
    to.push_back(static_cast<float>(mesh_.height(polygon_, at) / 1000));
  }

  const ConvexMesh& mesh_;
  std::uint32_t polygon_;
};

/// Returns the polygons as triangles of nine numbers, those with a cost once more separately, and the edges
/// of the ground as lines of six numbers.
json of_mesh(const ConvexMesh& mesh) {
  std::vector<float> triangles, costly, edges;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    const auto sides = mesh.sides_of(polygon);
    const Draped draped(mesh, polygon);
    for (std::size_t i = 0; i < sides.size(); ++i) {
      const dvec2 from = sides[i].start, to = sides[(i + 1) % sides.size()].start;
      if (sides[i].across == ConvexMesh::none) draped.line(from, to, edges);
      if (i == 0 || i + 1 == sides.size()) continue;
      draped.triangle({sides[0].start, from, to}, triangles);
      if (mesh.polygons()[polygon].cost > 1.f) draped.triangle({sides[0].start, from, to}, costly);
    }
  }
  return {{"triangles", base64_of(triangles)}, {"costly", base64_of(costly)}, {"edges", base64_of(edges)}};
}

/// Returns the triangles of a level, nine numbers each, by kind: solid, barred, decor.
json of_level(const Level& level) {
  std::vector<float> kinds[3];
  for (const Level::Triangle& triangle : level.triangles)
    for (const std::uint32_t corner : triangle.corners)
      for (int axis = 0; axis < 3; ++axis)
        kinds[static_cast<std::size_t>(triangle.kind)].push_back(level.corners[corner][axis]);
  return {{"type", "level"},
          {"solid", base64_of(kinds[0])},
          {"barred", base64_of(kinds[1])},
          {"decor", base64_of(kinds[2])}};
}

json of_barrier(const std::string& name, const Barrier& barrier) {
  json corners = json::array();
  for (const vec2 corner : barrier.corners()) corners.push_back(to_json(corner));
  return {{"name", name},
          {"corners", corners},
          {"radius", rounded(barrier.radius())},
          {"bottom", rounded(barrier.bottom())},
          {"top", rounded(barrier.top())},
          {"cost", rounded(barrier.cost())}};
}

template <class Of>
json named_values(const Of& of) {
  json all = json::object();
  for (const auto& [key, value] : values_of(of)) all[std::string(key)] = value;
  return all;
}

/// Returns the verb of each step and its numbers, with defaults.
json of_steps(const SceneNpc& npc) {
  json all = json::array();
  for (const SceneStep& step : npc.steps)
    all.push_back({{"verb", verb_of(step)}, {"values", named_values(step)}});
  return all;
}

/// Returns the waypoints as they are now, with the path of those that the file contains.
json of_beats(const Scene& scene, const Play& play) {
  json beats = json::array();
  for (const SceneNpc& npc : scene.npcs)
    for (std::size_t step = 0; step < npc.steps.size(); ++step) {
      const auto* patrol = std::get_if<PatrolStep>(&npc.steps[step].verb);
      const auto* hop = std::get_if<HopStep>(&npc.steps[step].verb);
      const Beat* written = patrol != nullptr ? patrol->beat.get()
                            : hop != nullptr  ? hop->points.get()
                                              : nullptr;
      if (written == nullptr) continue;
      const Beat& beat = play.waypoints_now(patrol != nullptr ? patrol->list : hop->list, *written);
      json points = json::array();
      for (std::size_t i = 0; i < beat.size(); ++i) {
        json path = json::array();
        if (const auto in_file = written->find(beat.id(i)))
          path = {"npc",
                  npc.name,
                  "do",
                  std::to_string(step),
                  patrol != nullptr ? "patrol" : "hop",
                  std::to_string(*in_file)};
        points.push_back({{"at", to_json(beat[i].position)}, {"path", path}});
      }
      const bool curved = patrol != nullptr && beat.path() == BeatPath::curve;
      const json line = curved ? to_json(beat.curve().points()) : json::array();
      beats.push_back({{"npc", npc.name}, {"points", points}, {"line", line}});
    }
  return beats;
}

}  // namespace

std::string LiveScene::scene_message() {
  const Scene& scene = *scene_;
  json places = json::array(), npcs = json::array();
  for (const Place& place : scene.places) places.push_back({{"name", place.name}, {"at", to_json(place.at)}});
  // As in the file: gaits by name, steps with the given options.
  const json file = live::json_of(toml::parse(text_));
  std::set<std::string> tags;
  const json entries = file.value("npc", json::array());
  std::size_t entry = 0;  // several NPCs may come from one entry
  for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
    const SceneNpc& npc = scene.npcs[i];
    tags.insert(npc.tags.begin(), npc.tags.end());
    if (i > 0 && (npc.where.line != scene.npcs[i - 1].where.line ||
                  npc.where.column != scene.npcs[i - 1].where.column))
      ++entry;
    const json& written = entries.at(entry);
    npcs.push_back(
        {{"name", npc.name},
         {"tags", npc.tags},
         {"radius", rounded(npc.body.radius)},
         {"height", rounded(npc.body.height)},
         {"deck", to_json(npc.body.deck)},
         {"shared_gait", written.contains("gait") && written["gait"].is_string() ? written["gait"] : json()},
         {"do", written.value("do", json::array())},
         {"orders", of_steps(npc)}});
  }
  const vec2 min = scene.ground.min(), max = scene.ground.max();
  return json{{"type", "scene"},
              {"revision", scene_revision()},
              {"play", plays_},
              {"title", scene.title},
              {"file", file_},
              {"rate", scene.rate},
              {"length", scene.length},
              {"changed", text_ != kept_text_},
              {"kind", scene.ground.kind()},
              {"min", to_json(min)},
              {"max", to_json(max)},
              {"barriers", scene.ground.takes_barriers()},
              {"levels", scene.ground.is_level()},
              {"places", places},
              {"beats", of_beats(scene, *play_)},
              {"tags", tags},
              {"npcs", npcs}}
      .dump();
}

std::string LiveScene::ground_message() {
  json message = {{"type", "ground"}, {"revision", ground_revision()}};
  if (const TileGround* tiles = play_->tiles()) message["tiles"] = of_tiles(tiles->map());
  if (const MeshGround* mesh = play_->mesh()) {
    const Body body = scene_->npcs.empty() ? Body{} : scene_->npcs.front().body;
    message["mesh"] = of_mesh(mesh->mesh(body));
    json crossings = json::array();
    for (std::size_t i = 0; i < scene_->ground.crossings.size(); ++i) {
      const auto& placed = mesh->placed_crossings()[i];
      crossings.push_back({{"name", scene_->ground.crossings[i].name},
                           {"kind", name(placed.crossing.kind)},
                           {"from", to_json(placed.crossing.from)},
                           {"to", to_json(placed.crossing.to)},
                           {"shut", placed.shut}});
    }
    message["crossings"] = crossings;
  }
  json barriers = json::array();
  if (const BarrierGround* ground = play_->barrier_ground())
    for (const auto& [name, id] : play_->barriers())
      for (const PlacedBarrier& placed : ground->barriers())
        if (placed.id == id) barriers.push_back(of_barrier(name, placed.barrier));
  message["barriers"] = barriers;
  return message.dump();
}

std::string LiveScene::closely_message(const PageState& page) {
  World& world = play_->world();
  json npcs = json::array(), routes = json::array();
  if (!page.npcs.empty()) {
    scores_until_ = world.time() + scores_kept;
    if (!scores_) scores_ = std::make_unique<Scorecard>(*play_);
  }
  for (const std::string& wanted : page.npcs) {
    const Npc npc = world.find(wanted);
    if (!npc.alive()) continue;
    const auto all = play_->npcs();
    const auto index = static_cast<std::size_t>(std::ranges::find(all, npc) - all.begin());
    const ErrandState state = npc.errand();
    const Statistics statistics = npc.statistics();
    const Motion motion = npc.motion();
    json neighbours = json::array();
    if (page.neighbours)
      for (const Neighbour& other : world.others().near(
               motion.position, {.radius = near_by, .height = npc.body().height, .except = npc.id()}))
        neighbours.push_back({{"name", Npc(world, other.id).name()}, {"off", to_json(other.offset)}});
    json about = {
        {"name", wanted},
        {"doing", npc.doing()},
        {"order", state.name},
        {"stance", name(motion.stance)},
        {"turn_deg", rounded(degrees(motion.turn))},
        {"stop", rounded(motion.stop)},
        {"at", to_json(motion.position)},
        {"speed", rounded(motion.speed())},
        {"walked", std::round(statistics.metres * 10) / 10},
        {"reached", statistics.arrivals},
        {"outcomes", outcomes_of(statistics)},
        {"bends", to_json(npc.bends())},
        {"wanted", to_json(npc.wanted_velocity())},
        {"neighbours", neighbours},
        {"left", state.progress.of_metres > 0 ? rounded(state.progress.of_metres - state.progress.metres)
                 : state.goal                 ? rounded(glm::distance(*state.goal, motion.position))
                                              : json()},
        {"goal", state.goal ? to_json(*state.goal) : json()},
        {"within", rounded(state.arrival_radius)},
        {"target", Npc(world, state.target).name()},
        {"gait", named_values(npc.gait())},
        {"body", named_values(npc.body())}};
    if (index < all.size()) about["scorecard"] = to_json(scores_->score(index));
    if (state.last) about["last"] = {{"ending", name(state.last->ending)}, {"why", state.last->why()}};
    npcs.push_back(std::move(about));
  }
  if (page.routes)
    for (const Npc npc : play_->npcs()) {
      if (routes.size() >= routes_at_once) break;
      if (const auto bends = npc.bends(); bends.size() > 1) routes.push_back(to_json(bends));
    }
  return json{{"type", "closely"},
              {"t", rounded(static_cast<float>(world.time()))},
              {"npcs", npcs},
              {"routes", routes}}
      .dump();
}

/// Returns the latest notes for the page, in words.
std::string LiveScene::journal_message(PageState& page) {
  const Journal& journal = play_->world().journal();
  json notes = json::array();
  std::uint64_t from = std::max(page.note_seen, journal.first());
  if (journal.next() - from > notes_at_once) from = journal.next() - notes_at_once;
  for (; from < journal.next(); ++from) {
    const Note& note = journal[from];
    notes.push_back({{"t", std::round(note.time * 100) / 100},
                     {"npc", Npc(play_->world(), note.who).name()},
                     {"event", name(note.event)},
                     {"good", note.event != Event::ended || static_cast<bool>(note.outcome)},
                     {"text", play_->sentence(note)}});
  }
  page.note_seen = journal.next();
  return json{{"type", "journal"}, {"notes", notes}}.dump();
}

std::vector<std::string> LiveScene::news(PageState& page, bool closely) {
  std::vector<std::string> all;
  const bool restarted = page.play_seen != plays_;
  if (restarted || (closely && page.scene_seen != scene_revision())) {
    all.push_back(scene_message());
    page.scene_seen = scene_revision();
  }
  if (restarted && scene_->ground.level) all.push_back(of_level(*scene_->ground.level).dump());
  if (restarted || (closely && page.ground_seen != ground_revision())) {
    all.push_back(ground_message());
    page.ground_seen = ground_revision();
  }
  if (restarted) page.note_seen = 0;
  page.play_seen = plays_;
  if (closely && page.note_seen != play_->world().journal().next()) all.push_back(journal_message(page));
  if (closely && (!page.npcs.empty() || page.routes)) all.push_back(closely_message(page));
  for (const Message& announce : messages_)
    if (announce.number > page.message_seen) {
      all.push_back(json{{"type", "remark"}, {"text", announce.text}}.dump());
      page.message_seen = announce.number;
    }
  return all;
}

}  // namespace ambulon
