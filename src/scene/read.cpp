// Scene files: from TOML to a `Scene` in which every name is known to stand for something.

#include <algorithm>
#include <cmath>
#include <fstream>
#include <map>
#include <sstream>

#include "reader.hpp"

namespace ambulon {
namespace {

using scene::as_array;
using scene::as_table;
using scene::mistake;
using scene::Reader;

class SceneReader {
 public:
  SceneReader(const toml::table& toml, const std::string& file)
      : file_(file), top_(file, toml, scene::scene_table) {
    scene_.file = file;
  }

  Scene read() {
    top_.one_of("format");
    scene_.title = top_.text("title").value_or("");
    scene_.seed = static_cast<std::uint64_t>(top_.whole("seed").value_or(1));
    scene_.rate = static_cast<int>(top_.whole("rate").value_or(60));
    scene_.length = top_.number("length").value_or(60);
    read_ground();
    read_places();
    read_gaits();
    read_npc_names();
    read_npcs();
    read_events();
    return std::move(scene_);
  }

 private:
  void read_ground() {
    const Reader ground(file_, as_table(file_, top_.node("ground"), "ground"), scene::ground_table);
    if (!*ground.flag("open"))
      ground.wrong("open", "must be true; leave the key out for another kind of ground");
  }

  void read_places() {
    if (!top_.has("place")) return;
    for (const auto& [name, node] : as_table(file_, top_.node("place"), "place"))
      scene_.places.push_back(
          {std::string(name.str()), coordinates(node, fmt::format("place {}", name.str()))});
  }

  void read_gaits() {
    if (!top_.has("gait")) return;
    for (const auto& [name, node] : as_table(file_, top_.node("gait"), "gait"))
      gaits_[std::string(name.str())] = gait(node, fmt::format("gait {}", name.str()));
  }

  Gait gait(const toml::node& node, const std::string& what) {
    const Reader reader(file_, as_table(file_, node, what), scene::gait_table);
    Gait gait;
    reader.into(gait.speed, "speed");
    reader.into(gait.acceleration, "acceleration");
    reader.into(gait.braking, "braking");
    reader.into(gait.turn_rate, "turn_rate", radians(1.f));
    reader.into(gait.turn_first, "turn_first");
    reader.into(gait.slowing_distance, "slowing_distance");
    reader.into(gait.floor_speed, "floor_speed");
    reader.into(gait.stride, "stride");
    return gait;
  }

  Body body(const toml::node& node) {
    const Reader reader(file_, as_table(file_, node, "body"), scene::body_table);
    Body body;
    reader.into(body.radius, "radius");
    reader.into(body.height, "height");
    reader.into(body.step_up, "step_up");
    reader.into(body.jump_up, "jump_up");
    reader.into(body.drop_down, "drop_down");
    reader.into(body.leap, "leap");
    return body;
  }

  // --- Points and names ---

  vec3 coordinates(const toml::node& node, const std::string& what) {
    const toml::array& list = as_array(file_, node, what);
    if (list.size() < 2 || list.size() > 3)
      mistake(file_, node,
              fmt::format("{} has {} coordinates; it must be [x, y] or [x, y, z]", what, list.size()));
    vec3 point{0.f};
    for (std::size_t i = 0; i < list.size(); ++i)
      point[static_cast<int>(i)] =
          static_cast<float>(scene::finite_number(file_, list[i], fmt::format("a coordinate of {}", what)));
    return point;
  }

  ScenePoint point(const toml::node& node, const std::string& what, bool npc_allowed = true) {
    if (!node.is_string()) return {.at = coordinates(node, what), .npc = {}};
    const std::string name = *node.value<std::string>();
    const auto place = std::ranges::find(scene_.places, name, &Place::name);
    if (place != scene_.places.end()) return {.at = place->at, .npc = {}};
    if (is_npc(name) && npc_allowed) return {.at = vec3(0.f), .npc = name};
    if (is_npc(name))
      mistake(file_, node,
              fmt::format("{} is the NPC {}, which moves; it must be a place or coordinates", what, name));
    std::vector<std::string_view> known;
    for (const Place& each : scene_.places) known.push_back(each.name);
    if (npc_allowed) known.insert(known.end(), npc_names_.begin(), npc_names_.end());
    mistake(file_, node,
            fmt::format("{} is \"{}\", but no place{} has that name{}", what, name,
                        npc_allowed ? " or NPC" : "", scene::did_you_mean(name, known)));
  }

  bool is_npc(const std::string& name) const {
    return std::ranges::find(npc_names_, name) != npc_names_.end();
  }

  std::string npc_name(const Reader& reader, std::string_view key) {
    std::string name = *reader.text(key);
    if (!is_npc(name)) {
      const std::vector<std::string_view> known(npc_names_.begin(), npc_names_.end());
      reader.wrong(
          key, fmt::format("is \"{}\", but no NPC has that name{}", name, scene::did_you_mean(name, known)));
    }
    return name;
  }

  float facing(const toml::node& node, vec3 from, const std::string& what) {
    if (node.is_number()) return radians(static_cast<float>(heading(node, what)));
    return heading_of(flat(point(node, what, false).at - from));
  }

  double heading(const toml::node& node, const std::string& what) {
    const double degrees = scene::finite_number(file_, node, what);
    if (std::abs(degrees) > 360)
      mistake(file_, node, fmt::format("{} is {} degrees; it must lie between -360 and 360", what, degrees));
    return degrees;
  }

  // --- NPCs and what they do ---

  template <class Each>
  void each_in(std::string_view key, Each&& each) {
    if (!top_.has(key)) return;
    for (const toml::node& node : as_array(file_, top_.node(key), fmt::format("{} ([[{}]])", key, key)))
      each(as_table(file_, node, key));
  }

  void read_npc_names() {
    each_in("npc", [&](const toml::table& toml) {
      const Reader npc(file_, toml, scene::npc_table);
      const std::string name = *npc.text("name");
      if (is_npc(name)) npc.wrong("name", fmt::format("\"{}\" is used twice; each NPC needs its own", name));
      if (std::ranges::find(scene_.places, name, &Place::name) != scene_.places.end())
        npc.wrong("name",
                  fmt::format("\"{}\" is also a place's; a point of that name would mean both", name));
      npc_names_.push_back(name);
    });
  }

  void read_npcs() {
    each_in("npc", [&](const toml::table& toml) {
      const Reader reader(file_, toml, scene::npc_table);
      SceneNpc npc;
      npc.name = *reader.text("name");
      npc.where = {static_cast<int>(toml.source().begin.line), static_cast<int>(toml.source().begin.column)};
      npc.at = point(reader.node("at"), "at", false);
      reader.into(npc.heading, "heading", radians(1.f));
      if (reader.has("gait")) npc.gait = gait_of(reader);
      if (reader.has("body")) npc.body = body(reader.node("body"));
      reader.into(npc.repeat, "repeat");
      if (reader.has("do"))
        for (const toml::node& node : as_array(file_, reader.node("do"), "do"))
          npc.steps.push_back(step(as_table(file_, node, "an entry of do")));
      scene_.npcs.push_back(std::move(npc));
    });
  }

  Gait gait_of(const Reader& npc) {
    const toml::node& node = npc.node("gait");
    if (!node.is_string()) return gait(node, "gait");
    const std::string name = *node.value<std::string>();
    if (const auto found = gaits_.find(name); found != gaits_.end()) return found->second;
    std::vector<std::string_view> known;
    for (const auto& [each, unused] : gaits_) known.push_back(each);
    npc.wrong("gait", fmt::format("is \"{}\", but the scene has no gait of that name{}", name,
                                  scene::did_you_mean(name, known)));
  }

  /// The table of the entry's verb. The pause of a patrol is one of its options, not a second verb.
  const scene::Table& verb_of(const toml::table& toml) {
    std::vector<std::string_view> verbs;
    const scene::Table* found = nullptr;
    for (const scene::Table* table : scene::step_tables()) {
      verbs.push_back(table->name);
      if (!toml.contains(table->name) ||
          (found != nullptr && scene::find_key(*found, table->name) != nullptr))
        continue;
      if (found != nullptr && scene::find_key(*table, found->name) == nullptr)
        mistake(file_, toml,
                fmt::format("an entry of do has two verbs, {} and {}; make them two entries", found->name,
                            table->name));
      found = table;
    }
    if (found != nullptr) return *found;
    std::string hint;
    for (const auto& [key, value] : toml)
      if (hint.empty()) hint = scene::did_you_mean(key.str(), verbs);
    mistake(file_, toml,
            fmt::format("an entry of do has no verb; it must be one of {}{}", fmt::join(verbs, ", "), hint));
  }

  SceneStep step(const toml::table& toml) {
    const scene::Table* const found = &verb_of(toml);
    const Reader reader(file_, toml, *found);
    SceneStep step;
    if (found == &scene::go_to_table) {
      GoToStep go_to{.to = point(reader.node("go_to"), "go_to"), .options = {}};
      reader.into(go_to.options.within, "within");
      step.verb = go_to;
    } else if (found == &scene::turn_to_table) {
      const toml::node& to = reader.node("turn_to");
      TurnToStep turn_to;
      if (to.is_number())
        turn_to.heading = radians(static_cast<float>(heading(to, "turn_to")));
      else
        turn_to.to = point(to, "turn_to");
      step.verb = turn_to;
    } else if (found == &scene::pause_table) {
      step.verb = PauseStep{*reader.range("pause")};
    } else if (found == &scene::patrol_table) {
      step.verb = patrol(reader);
    } else {
      step.verb = WaitForStep{*reader.text("wait_for")};
    }
    reader.into(step.after, "after");
    if (const auto seconds = reader.number("for")) step.seconds = static_cast<float>(*seconds);
    if (reader.has("until")) step.until = condition(as_table(file_, reader.node("until"), "until"));
    return step;
  }

  PatrolStep patrol(const Reader& reader) {
    const auto order = static_cast<BeatOrder>(reader.one_of("order").value_or(0));
    const auto path = static_cast<BeatPath>(reader.one_of("path").value_or(0));
    if (order == BeatOrder::shuffled && path == BeatPath::curve)
      reader.wrong("path", "is curve, but a shuffled beat has no curve; use straight");
    if (order == BeatOrder::shuffled && reader.has("lap"))
      reader.wrong("lap", "is given, but a shuffled beat has no lap; leave it out");

    PatrolStep step{.beat = std::make_shared<Beat>(order, path), .options = {}};
    step.options.start = static_cast<PatrolStart>(reader.one_of("start").value_or(0));
    reader.into(step.options.lap, "lap");
    reader.into(step.options.within, "within");
    const Range pause = reader.range("pause").value_or(Range{});
    const toml::array& list = as_array(file_, reader.node("patrol"), "patrol");
    if (list.empty()) reader.wrong("patrol", "is empty; give it at least one waypoint");
    for (const toml::node& node : list) {
      const Waypoint waypoint = read_waypoint(node, pause);
      if (auto added = step.beat->add(waypoint); !added) mistake(file_, node, added.error().text);
    }
    return step;
  }

  Waypoint read_waypoint(const toml::node& node, Range pause) {
    Waypoint waypoint{.position = vec3(0.f), .pause = pause, .facing = {}};
    if (!node.is_table()) {
      waypoint.position = point(node, "a waypoint", false).at;
      return waypoint;
    }
    const Reader reader(file_, *node.as_table(), scene::waypoint_table);
    waypoint.position = point(reader.node("at"), "a waypoint", false).at;
    waypoint.pause = reader.range("pause").value_or(pause);
    if (reader.has("facing")) waypoint.facing = facing(reader.node("facing"), waypoint.position, "facing");
    return waypoint;
  }

  SceneCondition condition(const toml::table& toml) {
    const Reader reader(file_, toml, scene::condition_table);
    const int kinds = reader.has("signal") + reader.has("near") + reader.has("apart");
    if (kinds != 1)
      mistake(file_, toml,
              fmt::format("until has {} of the keys signal, near and apart; it must have one", kinds));
    SceneCondition condition;
    if (reader.has("signal")) {
      if (reader.has("distance")) reader.wrong("distance", "belongs to near or apart, not to signal");
      condition.signal = *reader.text("signal");
      return condition;
    }
    condition.apart = reader.has("apart");
    condition.npc = npc_name(reader, condition.apart ? "apart" : "near");
    if (!reader.has("distance"))
      mistake(file_, toml, "until lacks the key \"distance\": within how many metres");
    reader.into(condition.metres, "distance");
    return condition;
  }

  void read_events() {
    each_in("event", [&](const toml::table& toml) {
      const Reader reader(file_, toml, scene::event_table);
      const int kinds = reader.has("signal") + reader.has("send") + reader.has("remove");
      if (kinds != 1)
        mistake(file_, toml,
                fmt::format("the event has {} of the keys signal, send and remove; it must have one", kinds));
      SceneEvent event{.at = *reader.number("at"), .what = {}};
      if (reader.has("signal")) event.what = SignalEvent{*reader.text("signal")};
      if (reader.has("remove")) event.what = RemoveEvent{npc_name(reader, "remove")};
      if (reader.has("send")) {
        const Reader send(file_, as_table(file_, reader.node("send"), "send"), scene::send_table);
        SendEvent sent{.npc = npc_name(send, "npc"), .to = point(send.node("to"), "to"), .options = {}};
        send.into(sent.options.within, "within");
        event.what = sent;
      }
      scene_.events.push_back(std::move(event));
    });
    std::ranges::stable_sort(scene_.events, {}, &SceneEvent::at);
  }

  const std::string& file_;
  Reader top_;
  std::map<std::string, Gait> gaits_;
  std::vector<std::string> npc_names_;
  Scene scene_;
};

}  // namespace

Expected<Scene> read_scene_text(std::string_view text, const std::string& file) {
  try {
    const toml::table toml = toml::parse(text, file);
    return SceneReader(toml, file).read();
  } catch (const toml::parse_error& error) {
    const auto place = error.source().begin;
    return problem(fmt::format("{}:{}:{}: {}", file, place.line, place.column, error.description()));
  } catch (const scene::Mistake& error) {
    return problem(error.what());
  }
}

Expected<Scene> read_scene(const std::string& file) {
  std::ifstream stream(file, std::ios::binary);
  std::stringstream text;
  if (!stream || !(text << stream.rdbuf()))
    return problem(fmt::format("{}: cannot be read; is it there, is it a file, and not empty?", file));
  return read_scene_text(text.str(), file);
}

std::string_view Scene::place_at(vec3 position) const {
  for (const Place& place : places)
    if (flat_distance(place.at, position) < 0.01f) return place.name;
  return {};
}

}  // namespace ambulon
