// Scene files: from TOML to a `Scene` in which every name is known to stand for something.

#include <algorithm>
#include <cmath>
#include <map>

#include "names.hpp"
#include "read_toml.hpp"

namespace ambulon {
namespace {

using scene::as_array;
using scene::as_table;
using scene::mistake;
using scene::place_of;
using scene::Reader;

class SceneReader {
 public:
  SceneReader(const toml::table& toml, const std::string& file)
      : file_(file), top_(file, toml, scene::scene_table), names_(file, scene_) {
    scene_.file = file;
  }

  Scene read() {
    top_.one_of("format");
    scene_.title = top_.text("title").value_or("");
    scene_.seed = static_cast<std::uint64_t>(top_.whole("seed").value_or(1));
    scene_.rate = static_cast<int>(top_.whole("rate").value_or(60));
    scene_.length = top_.number("length").value_or(60);
    scene_.ground = scene::read_ground(top_);
    read_places();
    read_gaits();
    read_crossings();
    read_npc_names();
    read_npcs();
    read_events();
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
      if (const auto good = checked(crossing); !good) mistake(file_, toml, good.error().text);
      scene_.ground.crossings.push_back(std::move(named));
    });
  }

  ShutEvent shut(const Reader& event, std::string_view key) const {
    const std::string name = *event.text(key);
    const auto& all = scene_.ground.crossings;
    const auto found = std::ranges::find(all, name, &SceneGround::NamedCrossing::name);
    if (found == all.end()) {
      std::vector<std::string_view> known;
      for (const auto& each : all) known.push_back(each.name);
      event.wrong(key, fmt::format("names \"{}\", but there is no crossing of that name{}", name,
                                   scene::did_you_mean(name, known)));
    }
    return {static_cast<std::size_t>(found - all.begin()), key == "shut"};
  }

  Body body(const toml::node& node, std::vector<std::string>& passes) {
    const Reader reader(file_, as_table(file_, node, "body"), scene::body_table);
    Body body;
    reader.into(body.radius, "radius");
    reader.into(body.height, "height");
    reader.into(body.step_up, "step_up");
    reader.into(body.jump_up, "jump_up");
    reader.into(body.drop_down, "drop_down");
    reader.into(body.leap, "leap");
    body.deck = flat(reader.vector("deck").value_or(vec3(0.f)));
    passes = names_.tags(reader, "passes");
    if (const auto good = checked(body); !good) mistake(file_, node, good.error().text);
    return body;
  }

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
      if (names_.is_npc(name))
        npc.wrong("name", fmt::format("\"{}\" is used twice; each NPC needs its own", name));
      if (names_.is_place(name))
        npc.wrong("name",
                  fmt::format("\"{}\" is also a place's; a point of that name would mean both", name));
      names_.add_npc(name);
    });
    each_in("npc", [&](const toml::table& toml) {
      const Reader npc(file_, toml, scene::npc_table);
      for (const std::string& tag : npc.texts("tags")) {
        if (names_.is_npc(tag) || tag == "all")
          npc.wrong("tags", fmt::format("names \"{}\", which {}", tag,
                                        tag == "all" ? "means everybody" : "is an NPC"));
        if (!names_.is_tag(tag)) names_.add_tag(tag);
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
      if (reader.has("switch"))
        for (const toml::node& node : as_array(file_, reader.node("switch"), "switch")) {
          const Reader entry(file_, as_table(file_, node, "an entry of switch"), scene::gait_switch_table);
          npc.switches.push_back({names_.gait(entry.node("gait"), "gait"), names_.condition(entry)});
        }
      reader.into(npc.repeat, "repeat");
      if (reader.has("do")) npc.steps = scene::read_steps(names_, reader.node("do"), "do");
      scene_.npcs.push_back(std::move(npc));
    });
  }

  decltype(SceneEvent::what) happening(const Reader& event) {
    const auto inside = [&](std::string_view key, const scene::Table& table) {
      return Reader(file_, as_table(file_, event.node(key), key), table);
    };
    if (event.has("signal")) return SignalEvent{*event.text("signal")};
    if (event.has("remove")) return RemoveEvent{names_.npc(event, "remove")};
    if (event.has("halt")) return HaltEvent{names_.npc(event, "halt"), true};
    if (event.has("resume")) return HaltEvent{names_.npc(event, "resume"), false};
    if (event.has("teleport")) {
      const Reader put = inside("teleport", scene::teleport_table);
      return TeleportEvent{names_.npc(put, "npc"), names_.point(put.node("to"), "to")};
    }
    if (event.has("change")) {
      const Reader change = inside("change", scene::change_table);
      return ChangeEvent{names_.npc(change, "npc"), names_.gait(change.node("gait"), "gait")};
    }
    if (event.has("put")) return put(inside("put", scene::barrier_table));
    if (event.has("move")) {
      const Reader move = inside("move", scene::move_table);
      return MoveEvent{barrier(move, "barrier"), flat(names_.point(move.node("to"), "to", false).at)};
    }
    if (event.has("take_away")) return TakeAwayEvent{barrier(event, "take_away")};
    if (event.has("shut")) return shut(event, "shut");
    if (event.has("open")) return shut(event, "open");
    if (event.has("lay")) return lay(inside("lay", scene::lay_table));
    const Reader send = inside("send", scene::send_table);
    SendEvent sent{.npc = names_.npc(send, "npc"), .to = names_.point(send.node("to"), "to"), .options = {}};
    send.into(sent.options.within, "within");
    return sent;
  }

  const TileMap& tiles(const Reader& event, std::string_view key) const {
    if (!scene_.ground.tiles)
      event.wrong(key, fmt::format("needs a ground of tiles; this one is {}", scene_.ground.kind()));
    return *scene_.ground.tiles;
  }

  /// The name of a barrier that some event puts up.
  std::string barrier(const Reader& event, std::string_view key) const {
    const std::string name = *event.text(key);
    const std::vector<std::string_view> known(barriers_.begin(), barriers_.end());
    if (std::ranges::find(known, name) == known.end())
      event.wrong(key, fmt::format("names \"{}\", but no event puts up a barrier of that name{}", name,
                                   scene::did_you_mean(name, known)));
    return name;
  }

  PutEvent put(const Reader& event) const {
    if (!scene_.ground.takes_barriers())
      event.wrong("barrier", "needs a ground of tiles, a plan or a level; this one is open");
    if (event.has("box") + event.has("disc") + event.has("hull") != 1)
      mistake(file_, event.toml(), "a barrier has one of box, disc and hull");
    const float heading = static_cast<float>(event.number("heading").value_or(0)) * radians(1.f);
    Expected<Barrier> shape = problem("");
    std::string_view key = "hull";
    if (event.has("box")) {
      const std::vector<float> numbers = event.numbers(key = "box", 4);
      shape = Barrier::box({numbers[0], numbers[1]}, {numbers[2], numbers[3]}, heading);
    } else if (event.has("disc")) {
      const std::vector<float> numbers = event.numbers(key = "disc", 3);
      shape = Barrier::disc({numbers[0], numbers[1]}, numbers[2]);
    } else {
      std::vector<vec2> points;
      for (const toml::node& node : as_array(file_, event.node("hull"), "hull"))
        points.push_back(flat(scene::coordinates(file_, node, "a point of hull")));
      shape = Barrier::hull(points);
    }
    if (!shape) event.wrong(key, shape.error().text);
    if (const auto cost = event.number("cost")) {
      if (!scene_.ground.is_mesh())
        event.wrong("cost", fmt::format("is for plans and levels; the ground is {}", scene_.ground.kind()));
      shape = shape->costing(static_cast<float>(*cost));
    }
    if (const auto heights = event.range("heights")) {
      if (!scene_.ground.is_level())
        event.wrong("heights", fmt::format("are for levels; the ground is {}", scene_.ground.kind()));
      shape = shape->between(heights->least, heights->most);
    }
    return {*event.text("barrier"), *shape};
  }

  LayEvent lay(const Reader& event) const {
    const TileMap& map = tiles(event, "terrain");
    const std::vector<float> box = event.numbers("box", 4);
    const vec2 middle(box[0], box[1]), half = 0.5f * vec2(box[2], box[3]) - 1e-4f;
    const CellBox cells = map.cells_in(middle - half, middle + half);
    if (cells.empty()) event.wrong("box", "covers no cell of the map");
    return {scene::read_terrain(file_, event.node("terrain"), map.terrains()), cells};
  }

  void read_events() {
    each_in("event", [&](const toml::table& toml) {  // names first, since they may be used before
      const Reader event(file_, toml, scene::event_table);
      if (!event.has("put")) return;
      barriers_.push_back(
          *Reader(file_, as_table(file_, event.node("put"), "put"), scene::barrier_table).text("barrier"));
    });
    each_in("event", [&](const toml::table& toml) {
      const Reader reader(file_, toml, scene::event_table);
      if (toml.size() != 2)
        mistake(file_, toml,
                fmt::format("the event has {} of the keys signal, send, remove, halt, resume, teleport, "
                            "change, put, move, take_away, shut, open and lay; it must have one",
                            toml.size() - 1));
      scene_.events.push_back(
          {.at = *reader.number("at"), .what = happening(reader), .where = place_of(toml)});
    });
    std::ranges::stable_sort(scene_.events, {}, &SceneEvent::at);
  }

  const std::string& file_;
  Reader top_;
  Scene scene_;
  scene::Names names_;
  std::vector<std::string> barriers_;  // that events put up
};

}  // namespace

Expected<Scene> read_scene_text(std::string_view text, const std::string& file) {
  return scene::read_toml<Scene>(text, file,
                                 [&](const toml::table& toml) { return SceneReader(toml, file).read(); });
}

Expected<Scene> read_scene(const std::string& file) {
  return text_of_file(file).and_then([&](const std::string& text) { return read_scene_text(text, file); });
}

std::string_view Scene::place_at(vec3 position) const {
  for (const Place& place : places)
    if (flat_distance(place.at, position) < 0.01f) return place.name;
  return {};
}

}  // namespace ambulon
