// Reads scene files: from TOML to a `Scene` in which all references are valid.

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <tuple>

#include "base/checksum.hpp"
#include "base/geometry.hpp"
#include "scene/names.hpp"
#include "scene/read_events.hpp"
#include "scene/read_toml.hpp"
#include "scene/values.hpp"

namespace ambulon {
namespace {

using scene::as_array;
using scene::as_table;
using scene::mistake;
using scene::place_of;
using scene::Reader;

/// Writes a value in canonical form, with the places and gaits that it refers to.
void spell(const toml::node& node, const toml::table& top, std::string& out) {
  if (const toml::table* table = node.as_table()) {
    for (const auto& [key, value] : *table) {
      out += fmt::format("{{{}=", key.str());
      spell(value, top, out);
    }
  } else if (const toml::array* list = node.as_array()) {
    for (const toml::node& each : *list) spell(each, top, out += '[');
  } else if (const auto text = node.value<std::string>(); text && node.is_string()) {
    out += fmt::format("\"{}\"", *text);
    if (const toml::node* place = top["place"][*text].node()) spell(*place, top, out += '@');
    if (const toml::node* gait = top["gait"][*text].node()) spell(*gait, top, out += '~');
  } else {
    out += fmt::format("{}{}", node.value<double>().value_or(0), node.is_boolean() ? "?" : ",");
  }
}

/// Returns a checksum of some keys of a table.
std::uint64_t sum_of(const toml::table& table, std::initializer_list<std::string_view> keys,
                     const toml::table& top) {
  std::string all;
  for (const std::string_view key : keys)
    if (const toml::node* node = table.get(key)) spell(*node, top, all += fmt::format(";{}=", key));
  return checksum(std::as_bytes(std::span(all)));
}

class SceneReader {
 public:
  SceneReader(const toml::table& toml, const std::string& file)
      : file_(file), top_(file, toml, scene::scene_table), names_(file, scene_) {
    scene_.file = file;
  }

  Scene read(const Scene* before) {
    top_.one_of("format");
    scene_.title = top_.text("title").value_or("");
    scene_.seed = static_cast<std::uint64_t>(top_.whole("seed").value_or(1));
    scene_.rate = static_cast<int>(top_.whole("rate").value_or(60));
    scene_.length = top_.number("length").value_or(60);
    top_.into(scene_.patience, "patience");
    top_.into(scene_.avoid, "avoid");
    scene_.route_work = static_cast<std::uint64_t>(top_.whole("route_work").value_or(0));
    scene_.ground_sum = sum_of(top_.toml(), {"ground", "terrain", "crossing"}, top_.toml());
    const bool same_ground = before != nullptr && before->ground_sum == scene_.ground_sum;
    scene_.ground = same_ground ? before->ground : scene::read_ground(top_);
    read_places();
    read_gaits();
    read_detail();
    read_limits();
    read_cameras();
    begin_reach_from();
    if (!same_ground) read_crossings();
    read_npc_names();
    read_npcs();
    read_events();
    end_reach_from();
    return std::move(scene_);
  }

 private:
  void read_places() {
    if (!top_.has("place")) return;
    for (const auto& [name, node] : as_table(file_, top_.node("place"), "place"))
      scene_.places.push_back({.name = std::string(name.str()),
                               .at = scene::coordinates(file_, node, fmt::format("place {}", name.str())),
                               .where = place_of(node)});
  }

  void read_gaits() {
    if (!top_.has("gait")) return;
    for (const auto& [name, node] : as_table(file_, top_.node("gait"), "gait"))
      scene_.gaits.push_back({.name = std::string(name.str()),
                              .gait = names_.gait(node, fmt::format("gait {}", name.str())),
                              .where = place_of(node)});
  }

  void read_detail() {
    if (!top_.has("detail")) return;
    const Reader reader(file_, as_table(file_, top_.node("detail"), "detail"), scene::detail_table);
    for (const toml::node& each : as_array(file_, reader.node("viewers"), "viewers"))
      scene_.viewers.push_back(names_.point(each, "a point of viewers", false).at);
    reader.into(scene_.detail.near, "near");
    const auto whole = [&](std::string_view key, std::uint32_t otherwise) {
      return static_cast<std::uint32_t>(reader.whole(key).value_or(otherwise));
    };
    scene_.detail.max_interval = whole("max_interval", scene_.detail.max_interval);
    scene_.detail.budget = whole("budget", scene_.detail.budget);
  }

  void read_limits() {
    if (!top_.has("limits")) return;
    const Reader reader(file_, as_table(file_, top_.node("limits"), "limits"), scene::limits_table);
    SceneLimits& limits = scene_.limits;
    reader.into(limits.detour, "detour");
    reader.into(limits.time_over_ideal, "time_over_ideal");
    reader.into(limits.deepest_overlap, "deepest_overlap");
    reader.into(limits.speed_jitters, "speed_jitters");
    reader.into(limits.heading_jitters, "heading_jitters");
    reader.into(limits.stuck_seconds, "stuck_seconds");
    reader.into(limits.bend_slowdown, "bend_slowdown");
    reader.into(limits.sliding, "sliding");
    reader.into(limits.vertical_speed, "vertical_speed");
    reader.into(limits.jam_turning, "jam_turning");
    reader.into(limits.short_of_goal, "short_of_goal");
    reader.into(limits.done_by, "done_by");
  }

  void read_cameras() {
    if (!top_.has("camera")) return;
    for (const auto& [name, node] : as_table(file_, top_.node("camera"), "camera")) {
      const Reader reader(file_, as_table(file_, node, fmt::format("camera {}", name.str())),
                          scene::camera_table);
      auto camera = this->camera(reader);
      if (!camera) mistake(file_, node, camera.error().text);
      scene_.cameras.push_back({.name = std::string(name.str()), .camera = *camera, .where = place_of(node)});
    }
  }

  /// Sets the points that a level is kept around: those of the file, or all of the scene.
  void begin_reach_from() {
    std::vector<vec3>& points = scene_.ground.rules.reach_from;
    points.clear();
    if (!scene_.ground.level) return;
    if (const toml::node* listed = top_.toml()["ground"]["reach_from"].node()) {
      for (const toml::node& each : as_array(file_, *listed, "reach_from"))
        points.push_back(names_.point(each, "a point of reach_from", false).at);
      return;
    }
    for (const Place& place : scene_.places) points.push_back(place.at);
    names_.gather(points);
  }
  void end_reach_from() {
    std::vector<vec3>& points = scene_.ground.rules.reach_from;
    const auto order = [](vec3 a, vec3 b) { return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z); };
    std::ranges::sort(points, order);
    points.erase(std::unique(points.begin(), points.end()), points.end());
  }

  Expected<Camera> camera(const Reader& reader) const {
    if (reader.has("field_of_view") + reader.has("height") + reader.has("scale") != 1)
      return problem("a camera has one of field_of_view, height and scale");
    const auto pair = [&](std::string_view key, vec2 otherwise) {
      if (!reader.has(key)) return otherwise;
      const std::vector<float> numbers = reader.numbers(key, 2);
      return vec2(numbers[0], numbers[1]);
    };
    const Screen screen{.size = pair("size", {1280.f, 800.f})};
    if (const auto scale = reader.number("scale"))
      return Camera::flat(static_cast<float>(*scale), pair("origin", {0.f, 0.f}), screen);
    if (!reader.has("eye") || !reader.has("target"))
      return problem("the camera lacks the keys eye and target");
    const Camera::Look look{.eye = *reader.vector("eye"),
                            .target = *reader.vector("target"),
                            .up = reader.vector("up").value_or(vec3(0.f, 0.f, 1.f))};
    if (const auto height = reader.number("height"))
      return Camera::orthographic(look, static_cast<float>(*height), screen);
    return Camera::perspective(look, radians(static_cast<float>(*reader.number("field_of_view"))), screen);
  }

  void read_crossings() {
    each_in("crossing", [&](const toml::table& toml) {
      const Reader reader(file_, toml, scene::crossing_table);
      if (!scene_.ground.is_mesh())
        mistake(file_, toml,
                fmt::format("a crossing needs a plan or a level; the ground is {}", scene_.ground.kind()));
      SceneGround::NamedCrossing named{.name = *reader.text("name"), .crossing = {}, .where = place_of(toml)};
      if (std::ranges::find(scene_.ground.crossings, named.name, &SceneGround::NamedCrossing::name) !=
          scene_.ground.crossings.end())
        reader.wrong("name", fmt::format("\"{}\" is used twice; each crossing needs its own", named.name));
      Crossing& crossing = named.crossing;
      crossing.kind = static_cast<Passage>(*reader.one_of("kind"));
      crossing.from = names_.point(reader.node("from"), "from", false).at;
      crossing.to = names_.point(reader.node("to"), "to", false).at;
      reader.into(crossing.both_ways, "both_ways");
      reader.into(crossing.cost, "cost");
      reader.into(named.shut, "shut");
      if (const auto good = validate(crossing); !good) mistake(file_, toml, good.error().text);
      scene_.ground.crossings.push_back(std::move(named));
    });
  }

  Avoidance avoidance(const toml::node& node) const {
    const Reader reader(file_, as_table(file_, node, "avoidance"), scene::avoidance_table);
    Avoidance avoidance;
    reader.into(avoidance.takes_part, "takes_part");
    reader.into(avoidance.horizon, "horizon");
    reader.into(avoidance.sight, "sight");
    reader.into(avoidance.side, "side", radians(1.f));
    avoidance.priority = static_cast<int>(reader.whole("priority").value_or(avoidance.priority));
    return avoidance;
  }

  Body body(const toml::node& node, std::vector<std::string>& passes) {
    const Reader reader(file_, as_table(file_, node, "body"), scene::body_table);
    Body body;
    for (const auto& field : scene::body_fields) reader.into(body.*field.value, field.key, field.unit);
    body.deck = flat(reader.vector("deck").value_or(vec3(0.f)));
    passes = names_.tags(reader, "passes");
    if (const auto good = validate(body); !good) mistake(file_, node, good.error().text);
    return body;
  }

  template <class Each>
  void each_in(std::string_view key, Each&& each) {
    if (!top_.has(key)) return;
    for (const toml::node& node : as_array(file_, top_.node(key), fmt::format("{} ([[{}]])", key, key)))
      each(as_table(file_, node, key));
  }

  /// Returns its own name; for a `count` the name of each member.
  static std::vector<std::string> names_of(const Reader& npc) {
    const std::string name = *npc.text("name");
    if (!npc.has("count")) return {name};
    std::vector<std::string> names;
    for (std::int64_t i = 1; i <= *npc.whole("count"); ++i) names.push_back(fmt::format("{} {}", name, i));
    return names;
  }

  void read_npc_names() {
    constexpr int max_npcs = 10'000;
    int count = 0;
    each_in("npc", [&](const toml::table& toml) {
      const Reader npc(file_, toml, scene::npc_table);
      const std::string name = *npc.text("name");
      if (names_.is_npc(name))
        npc.wrong("name", fmt::format("\"{}\" is used twice; each NPC needs its own", name));
      if (names_.is_place(name))
        npc.wrong("name",
                  fmt::format("\"{}\" is also a place's; a point of that name would mean both", name));
      for (const std::string& each : names_of(npc)) {
        if (each != name && names_.is_npc(each))
          npc.wrong("count", fmt::format("makes another \"{}\"; each NPC needs its own name", each));
        names_.add_npc(each);
        if (++count > max_npcs)
          npc.wrong("name",
                    fmt::format("comes after {} others; a scene has at most that many characters", max_npcs));
      }
    });
    each_in("npc", [&](const toml::table& toml) {
      const Reader npc(file_, toml, scene::npc_table);
      if (npc.has("count") && !names_.is_tag(*npc.text("name"))) names_.add_tag(*npc.text("name"));
      for (const std::string& tag : npc.texts("tags")) {
        if (names_.is_npc(tag) || tag == "all")
          npc.wrong("tags", fmt::format("names \"{}\", which {}", tag,
                                        tag == "all" ? "means everybody" : "is an NPC"));
        if (names_.is_tag(tag)) continue;
        names_.add_tag(tag);
        scene_.tags.push_back({.name = tag, .where = place_of(npc.node("tags"))});
      }
    });
  }

  void read_npcs() {
    each_in("npc", [&](const toml::table& toml) {
      const Reader reader(file_, toml, scene::npc_table);
      SceneNpc npc;
      npc.name = *reader.text("name");
      npc.where = place_of(toml);
      npc.at = names_.point(reader.node("at"), "at", false);
      reader.into(npc.heading, "heading", radians(1.f));
      if (reader.has("gait")) npc.gait = names_.gait(reader.node("gait"), "gait");
      if (reader.has("body")) npc.body = body(reader.node("body"), npc.passes);
      npc.tags = reader.texts("tags");
      npc.route_priority = static_cast<int>(reader.whole("route_priority").value_or(0));
      if (reader.has("avoidance")) npc.avoidance = avoidance(reader.node("avoidance"));
      if (reader.has("switch"))
        for (const toml::node& node : as_array(file_, reader.node("switch"), "switch")) {
          const Reader entry(file_, as_table(file_, node, "an entry of switch"), scene::gait_switch_table);
          npc.switches.push_back({names_.gait(entry.node("gait"), "gait"), names_.condition(entry)});
        }
      if (reader.has("on_touch")) {
        const Reader touch(file_, as_table(file_, reader.node("on_touch"), "on_touch"),
                           scene::on_touch_table);
        npc.on_touch = {.signal = *touch.text("signal"), .tags = names_.tags(touch, "tags")};
      }
      reader.into(npc.repeat, "repeat");
      if (reader.has("do")) npc.steps = scene::read_steps(names_, reader.node("do"), "do");
      each_waypoint_list(npc.steps, [&, lists = 0U](WaypointList& list, const BeatPtr&) mutable {
        list = {npc.name, ++lists};
      });
      npc.work_sum = sum_of(toml, {"do", "repeat", "switch"}, top_.toml());
      reader.into(npc.spacing, "spacing");
      if (reader.has("count")) {
        npc.many = npc.name;
        npc.tags.push_back(npc.name);
      } else if (reader.has("spacing")) {
        reader.wrong("spacing", "is given without count; one alone begins right at its place");
      }
      for (std::string& name : names_of(reader)) {
        npc.name = std::move(name);
        scene_.npcs.push_back(npc);
      }
    });
  }

  void read_events() {
    std::vector<std::string> barriers;  // first, since they may be moved before they are put in the file
    each_in("event", [&](const toml::table& toml) {
      const Reader event(file_, toml, scene::event_table);
      if (!event.has("put")) return;
      barriers.push_back(
          *Reader(file_, as_table(file_, event.node("put"), "put"), scene::barrier_table).text("barrier"));
    });
    std::vector<const toml::table*> tables;
    each_in("event", [&](const toml::table& toml) {
      const Reader event(file_, toml, scene::event_table);
      scene_.events.push_back({.at = *event.number("at"),
                               .what = scene::read_happening(names_, scene_, barriers, event),
                               .where = place_of(toml)});
      tables.push_back(&toml);
    });
    count_waypoints(tables);
    std::ranges::stable_sort(scene_.events, {}, &SceneEvent::at);
  }

  /// Checks, in order of time, that events change only waypoints that exist by then. `tables`: of the events.
  void count_waypoints(std::span<const toml::table* const> tables) const {
    std::vector<std::size_t> in_time(tables.size());
    std::iota(in_time.begin(), in_time.end(), 0U);
    std::ranges::stable_sort(in_time, {}, [&](std::size_t i) { return scene_.events[i].at; });
    std::map<WaypointList, std::size_t> counts;
    for (const std::size_t i : in_time) {
      const auto look = [&](const auto& event, std::uint32_t number, int change) {
        std::size_t& count = counts.try_emplace(event.list, event.of->size()).first->second;
        if (number > count)
          mistake(file_, *tables[i],
                  fmt::format("{} has no waypoint {} at {:g} s; it has {} then", event.list.npc, number,
                              scene_.events[i].at, count));
        count += static_cast<std::size_t>(change);
      };
      const auto& what = scene_.events[i].what;
      if (const auto* add = std::get_if<AddWaypointEvent>(&what)) look(*add, add->before, 1);
      if (const auto* move = std::get_if<MoveWaypointEvent>(&what)) look(*move, move->number, 0);
      if (const auto* out = std::get_if<RemoveWaypointEvent>(&what)) look(*out, out->number, -1);
    }
  }

  const std::string& file_;
  Reader top_;
  Scene scene_;
  scene::Names names_;
};

}  // namespace

Expected<Scene> read_scene_text(std::string_view text, const std::string& file, const Scene* before) {
  return scene::read_toml<Scene>(
      text, file, [&](const toml::table& toml) { return SceneReader(toml, file).read(before); });
}

namespace scene {
namespace {

const std::string event_file = "the event";  // for problems

SceneEvent event_of(const toml::table& toml, Scene& scene, std::span<const std::string> barriers) {
  Names names(event_file, scene);
  for (const SceneNpc& npc : scene.npcs) names.add_npc(npc.name);
  for (const SceneNpc& npc : scene.npcs)
    for (const std::string& tag : npc.tags) names.add_tag(tag);
  const Reader event(event_file, toml, event_table);
  return {.at = *event.number("at"), .what = read_happening(names, scene, barriers, event)};
}

}  // namespace

}  // namespace scene

Expected<SceneEvent> read_event(const toml::table& event, Scene& scene,
                                std::span<const std::string> barriers) {
  namespace reading = ambulon::scene;
  return reading::or_mistake<SceneEvent>([&] { return reading::event_of(event, scene, barriers); });
}

Expected<SceneEvent> read_event(std::string_view text, Scene& scene, std::span<const std::string> barriers) {
  namespace reading = ambulon::scene;
  return reading::read_toml<SceneEvent>(text, reading::event_file, [&](const toml::table& toml) {
    return reading::event_of(toml, scene, barriers);
  });
}

Expected<Scene> read_scene(const std::string& file) {
  return text_of_file(file).and_then([&](const std::string& text) { return read_scene_text(text, file); });
}

std::string_view Scene::place_at(vec3 position) const {
  const Place* nearest = nullptr;  // places may lie above each other
  for (const Place& place : places)
    if (flat_distance(place.at, position) < 0.01f &&
        (nearest == nullptr || glm::distance(place.at, position) < glm::distance(nearest->at, position)))
      nearest = &place;
  return nearest == nullptr ? std::string_view() : nearest->name;
}

}  // namespace ambulon
