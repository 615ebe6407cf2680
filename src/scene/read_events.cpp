// Reads the events of a scene.

#include "scene/read_events.hpp"

#include <algorithm>

namespace ambulon::scene {
namespace {

class EventReader {
 public:
  EventReader(const Names& names, Scene& scene, std::span<const std::string> barriers)
      : file_(names.file()), names_(names), scene_(scene), barriers_(barriers) {}

  decltype(SceneEvent::what) happening(const Reader& event) {
    const auto inside = [&](std::string_view key, const Table& table) {
      return Reader(file_, as_table(file_, event.node(key), key), table);
    };
    if (event.has("signal")) return SignalEvent{*event.text("signal")};
    if (event.has("click")) return click(inside("click", click_table));
    if (event.has("release")) return ReleaseEvent{who(event, "release")};
    if (event.has("remove")) return RemoveEvent{names_.npc(event, "remove")};
    if (event.has("suspend")) return SuspendEvent{names_.npc(event, "suspend"), true};
    if (event.has("resume")) return SuspendEvent{names_.npc(event, "resume"), false};
    if (event.has("teleport")) {
      const Reader put = inside("teleport", teleport_table);
      return TeleportEvent{names_.npc(put, "npc"), names_.point(put.node("to"), "to")};
    }
    if (event.has("change")) {
      const Reader change = inside("change", change_table);
      return ChangeEvent{names_.npc(change, "npc"), names_.gait_change(change.node("gait"), "gait")};
    }
    if (event.has("put")) return put(inside("put", barrier_table));
    if (event.has("move")) {
      const Reader move = inside("move", move_table);
      return MoveEvent{barrier(move, "barrier"), flat(names_.point(move.node("to"), "to", false).at)};
    }
    if (event.has("take_away")) return TakeAwayEvent{barrier(event, "take_away")};
    if (event.has("shut")) return shut(event, "shut");
    if (event.has("open")) return shut(event, "open");
    if (event.has("lay")) return lay(inside("lay", lay_table));
    if (event.has("add_waypoint")) return add_waypoint(inside("add_waypoint", add_waypoint_table));
    if (event.has("move_waypoint")) {
      const Reader move = inside("move_waypoint", move_waypoint_table);
      const auto [list, of] = waypoints(move);
      return MoveWaypointEvent{list, of, count(move, "number"),
                               names_.point(move.node("to"), "to", false).at};
    }
    if (event.has("remove_waypoint")) {
      const Reader remove = inside("remove_waypoint", remove_waypoint_table);
      const auto [list, of] = waypoints(remove);
      return RemoveWaypointEvent{list, of, count(remove, "number")};
    }
    const Reader send = inside("send", send_table);
    SendEvent sent{.npc = names_.npc(send, "npc"), .to = names_.point(send.node("to"), "to"), .options = {}};
    send.into(sent.options.within, "within");
    unreachable_into(sent.options.unreachable, send);
    return sent;
  }

  static std::uint32_t count(const Reader& reader, std::string_view key, std::uint32_t otherwise = 1) {
    return static_cast<std::uint32_t>(reader.whole(key).value_or(otherwise));
  }

  AddWaypointEvent add_waypoint(const Reader& event) const {
    const auto [list, of] = waypoints(event);
    return {list, of, read_waypoint(names_, event, {}), count(event, "before", 0)};
  }

  /// Reads which list of waypoints the event changes. Returns also its state at the start.
  std::pair<WaypointList, BeatPtr> waypoints(const Reader& event) const {
    const std::string name = *event.text("npc");
    std::vector<std::string_view> known;
    for (const SceneNpc& npc : scene_.npcs) {
      known.push_back(npc.written_name());
      if (npc.name != name && npc.written_name() != name) continue;
      const WaypointList wanted{npc.written_name(), count(event, "list")};
      BeatPtr found;
      std::uint32_t lists = 0;
      each_waypoint_list(npc.steps, [&](const WaypointList& list, const BeatPtr& beat) {
        lists = std::max(lists, list.number);
        if (list == wanted) found = beat;
      });
      if (found) return {wanted, found};
      event.wrong(event.has("list") ? "list" : "npc",
                  lists == 0 ? fmt::format("names \"{}\", which neither patrols nor hops", name)
                             : fmt::format("is {}, but {} has {} patrol{} or hop{} only", wanted.number, name,
                                           lists, lists == 1 ? "" : "s", lists == 1 ? "" : "s"));
    }
    event.wrong("npc", fmt::format("is \"{}\", but no NPC has that name{}", name, did_you_mean(name, known)));
  }

  const TileMap& tiles(const Reader& event, std::string_view key) const {
    if (!scene_.ground.tiles)
      event.wrong(key, fmt::format("needs a ground of tiles; this one is {}", scene_.ground.kind()));
    return *scene_.ground.tiles;
  }

  /// Reads the name of a barrier that an event puts on the ground.
  std::string barrier(const Reader& event, std::string_view key) const {
    const std::string name = *event.text(key);
    const std::vector<std::string_view> known(barriers_.begin(), barriers_.end());
    if (std::ranges::find(known, name) == known.end())
      event.wrong(key, fmt::format("names \"{}\", but no event puts up a barrier of that name{}", name,
                                   did_you_mean(name, known)));
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
        points.push_back(flat(coordinates(file_, node, "a point of hull")));
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
      shape = shape->between(heights->min, heights->max);
    }
    return {*event.text("barrier"), *shape};
  }

  LayEvent lay(const Reader& event) const {
    const TileMap& map = tiles(event, "terrain");
    const std::vector<float> box = event.numbers("box", 4);
    const vec2 middle(box[0], box[1]), half = 0.5f * vec2(box[2], box[3]) - 1e-4f;
    const CellBox cells = map.cells_in(middle - half, middle + half);
    if (cells.empty()) event.wrong("box", "covers no cell of the map");
    return {read_terrain(file_, event.node("terrain"), map.terrains()), cells};
  }

  /// Reads the names of NPCs and tags.
  std::vector<std::string> who(const Reader& event, std::string_view key) const {
    std::vector<std::string> names = event.texts(key);
    if (names.empty()) event.wrong(key, "is empty; name at least one NPC or tag");
    for (const toml::node& node : as_array(file_, event.node(key), key))
      (void)names_.target(node, std::string(key));
    return names;
  }

  static void unreachable_into(Unreachable& value, const Reader& reader) {
    if (const auto word = reader.one_of("unreachable")) value = static_cast<Unreachable>(*word);
  }

  ClickEvent click(const Reader& event) const {
    if (event.has("to") + event.has("screen") + event.has("ray") != 1)
      mistake(file_, event.toml(), "a click has one of to, screen and ray");
    if (event.has("screen") != event.has("camera"))
      mistake(file_, event.toml(), "screen and camera belong together; give both or neither");
    ClickEvent click{.who = who(event, "who"), .to = {}, .ray = {}, .options = {}};
    if (event.has("to")) click.to = names_.point(event.node("to"), "to");
    if (event.has("screen")) click.ray = seen_at(event);
    if (event.has("ray")) {
      const toml::array& ends = as_array(file_, event.node("ray"), "ray");
      if (ends.size() != 2) event.wrong("ray", "must be [from, direction], each [x, y, z]");
      click.ray = Ray{coordinates(file_, ends[0], "ray"), coordinates(file_, ends[1], "ray")};
      if (!sound(*click.ray)) event.wrong("ray", "has no direction");
    }
    event.into(click.then, "then");
    event.into(click.hold, "hold");
    if (click.then && click.hold)
      event.wrong("then", "goes with single clicks; a pointer that is held has one place");
    event.into(click.options.within, "within");
    event.into(click.options.every, "every");
    unreachable_into(click.options.unreachable, event);
    if (const auto word = event.one_of("formation")) click.formation = static_cast<Formation>(*word);
    if (event.has("spacing") && click.formation == Formation::as_they_are)
      event.wrong("spacing", "goes with a formation; as they are, they keep their distances");
    event.into(click.spacing, "spacing");
    return click;
  }

  /// Returns the ray through a point of a camera's window.
  Ray seen_at(const Reader& event) const {
    const std::string name = *event.text("camera");
    const auto camera = std::ranges::find(scene_.cameras, name, &SceneCamera::name);
    if (camera == scene_.cameras.end()) {
      std::vector<std::string_view> known;
      for (const SceneCamera& each : scene_.cameras) known.push_back(each.name);
      event.wrong("camera", fmt::format("is \"{}\", but the scene has no camera of that name{}", name,
                                        did_you_mean(name, known)));
    }
    camera->used = true;
    const std::vector<float> point = event.numbers("screen", 2);
    const auto ray = camera->camera.ray({point[0], point[1]});
    if (!ray) event.wrong("screen", ray.error().text);
    return *ray;
  }

  ShutEvent shut(const Reader& event, std::string_view key) const {
    const std::string name = *event.text(key);
    const auto& all = scene_.ground.crossings;
    const auto found = std::ranges::find(all, name, &SceneGround::NamedCrossing::name);
    if (found == all.end()) {
      std::vector<std::string_view> known;
      for (const auto& each : all) known.push_back(each.name);
      event.wrong(key, fmt::format("names \"{}\", but there is no crossing of that name{}", name,
                                   did_you_mean(name, known)));
    }
    return {static_cast<std::size_t>(found - all.begin()), key == "shut"};
  }

 private:
  const std::string& file_;
  const Names& names_;
  Scene& scene_;                           // whose items are marked as used
  std::span<const std::string> barriers_;  // of events that put one
};

}  // namespace

decltype(SceneEvent::what) read_happening(const Names& names, Scene& scene,
                                          std::span<const std::string> barriers, const Reader& event) {
  const std::size_t things = event.toml().size() - (event.has("at") ? 1 : 0);
  if (things != 1)
    mistake(
        names.file(), event.toml(),
        fmt::format(
            "the event has {} of the keys signal, send, click, release, remove, suspend, resume, teleport, "
            "change, put, move, take_away, shut, open, lay, add_waypoint, move_waypoint and "
            "remove_waypoint; it "
            "must have one",
            things));
  return EventReader(names, scene, barriers).happening(event);
}

}  // namespace ambulon::scene
