#include "keys.hpp"

#include <algorithm>
#include <array>

namespace ambulon::scene {
namespace {

constexpr double day = 86'400;

constexpr Key number(std::string_view name, double least, double most, std::string_view unit,
                     std::string_view doc) {
  return {name, Kind::number, doc, least, most, unit};
}
constexpr Key whole(std::string_view name, double least, double most, std::string_view unit,
                    std::string_view doc) {
  return {name, Kind::whole, doc, least, most, unit};
}
constexpr Key range(std::string_view name, double least, double most, std::string_view unit,
                    std::string_view doc) {
  return {name, Kind::range, doc, least, most, unit};
}
constexpr Key text(std::string_view name, std::string_view doc) { return {name, Kind::text, doc}; }
constexpr Key flag(std::string_view name, std::string_view doc) { return {name, Kind::flag, doc}; }
constexpr Key point(std::string_view name, std::string_view doc) { return {name, Kind::point, doc}; }
constexpr Key one_of(std::string_view name, std::string_view words, std::string_view doc) {
  return {name, Kind::one_of, doc, 0, 0, {}, words};
}
constexpr Key shape(std::string_view name, std::string_view of, std::string_view doc) {
  return {name, Kind::shape, doc, 0, 0, {}, of};
}
constexpr Key needed(Key key) {
  key.required = true;
  return key;
}

constexpr Key scene_keys[] = {
    needed(one_of("format", "ambulon-scene/1", "The version of this format.")),
    text("title", "The scene's name."),
    whole("seed", 0, 9e15, "", "Seed of all random numbers."),
    whole("rate", 1, 1000, "", "Ticks per second."),
    number("length", 0.001, 30 * day, "seconds", "How long the scene is played by default."),
    needed(shape("ground", "ground", "What can be walked on.")),
    shape("place", "places", "Named points."),
    shape("gait", "gaits", "Named gaits."),
    shape("npc", "npcs", "The characters."),
    shape("event", "events", "What happens when."),
};

constexpr Key ground_keys[] = {
    needed(flag("open", "A plane without obstacles.")),
};

constexpr Key gait_keys[] = {
    number("speed", 0.01, 100, "metres per second", "Walking speed."),
    number("acceleration", 0.05, 1000, "metres per second squared", "How fast it speeds up."),
    number("braking", 0.05, 1000, "metres per second squared", "How fast it slows down."),
    number("turn_rate", 1, 50'000, "degrees per second", "How fast it turns."),
    flag("turn_first", "Stands still and turns before it sets off in another direction."),
    number("slowing_distance", 0, 1000, "metres", "Over how much way it slows down before its goal."),
    number("floor_speed", 0, 1, "fraction of speed", "Part of its speed below which slowing does not go."),
    number("stride", 0.01, 100, "metres", "Way walked in one cycle of both feet."),
};

constexpr Key body_keys[] = {
    number("radius", 0.01, 50, "metres", "Half its width."),
    number("height", 0.01, 100, "metres", "Its height."),
    number("step_up", 0, 100, "metres", "How high it steps up without a jump."),
    number("jump_up", 0, 100, "metres", "How high it jumps up."),
    number("drop_down", 0, 1000, "metres", "How deep it lets itself down."),
    number("leap", 0, 100, "metres", "How wide a gap it leaps over."),
};

constexpr Key npc_keys[] = {
    needed(text("name", "Its name, used once in a scene.")),
    needed(point("at", "Where it begins.")),
    number("heading", -360, 360, "degrees", "Which way it faces, counter-clockwise from +x."),
    shape("gait", "gait_or_name", "How it moves: a gait's name, or a gait written out."),
    shape("body", "body", "Its size and what it can get over."),
    shape("do", "steps", "What it does, one after another."),
    flag("repeat", "Starts over when everything is done."),
};

constexpr Key event_keys[] = {
    needed(number("at", 0, 30 * day, "seconds", "When it happens.")),
    text("signal", "Gives a signal to whoever waits for it."),
    shape("send", "send", "Sends an NPC somewhere; afterwards it takes up what it was doing."),
    text("remove", "Takes the NPC of that name out of the scene."),
};

constexpr Key send_keys[] = {
    needed(text("npc", "Who is sent.")),
    needed(point("to", "Where to.")),
    number("within", 0.001, 1000, "metres", "How near counts as there."),
};

constexpr Key condition_keys[] = {
    text("signal", "Holds when this signal is given."),
    text("near", "Holds when the NPC of that name is within `distance`."),
    text("apart", "Holds when the NPC of that name is further than `distance`."),
    number("distance", 0, 100'000, "metres", "Of `near` and `apart`."),
};

constexpr Key waypoint_keys[] = {
    needed(point("at", "Where it is.")),
    range("pause", 0, 1e6, "seconds", "How long to stand there."),
    shape("facing", "facing", "Where to turn on arrival: a point, or a heading in degrees."),
};

// What every verb can have.
constexpr Key after = number("after", 0, 1e6, "seconds", "How long to wait first.");
constexpr Key at_most = number("for", 0.001, 1e6, "seconds", "How long at the most.");
constexpr Key until = shape("until", "condition", "What ends it before its time.");

constexpr Key go_to_keys[] = {
    needed(point("go_to", "Walks to a point.")),
    number("within", 0.001, 1000, "metres", "How near counts as there."),
    after,
    at_most,
    until,
};

constexpr Key turn_to_keys[] = {
    needed(shape("turn_to", "facing", "Turns to a point, or to a heading in degrees.")),
    after,
    at_most,
    until,
};

constexpr Key pause_keys[] = {
    needed(range("pause", 0, 1e6, "seconds", "Stands still.")),
    after,
    at_most,
    until,
};

constexpr Key patrol_keys[] = {
    needed(shape("patrol", "waypoints", "Walks from waypoint to waypoint.")),
    one_of("order", "around|back_and_forth|once|shuffled", "In which order they are visited."),
    one_of("path", "straight|curve", "Straight legs, or one smooth curve through all of them."),
    one_of("start", "nearest|first", "With which waypoint it begins."),
    number("lap", 0.1, 1e6, "seconds",
           "Time for one lap, pauses included; without it the gait's speed decides."),
    number("within", 0.001, 1000, "metres", "How near a waypoint counts as there."),
    range("pause", 0, 1e6, "seconds", "How long to stand at each waypoint that does not say itself."),
    after,
    at_most,
    until,
};

constexpr Key wait_for_keys[] = {
    needed(text("wait_for", "Stands still until the signal is given.")),
    after,
    at_most,
    until,
};

}  // namespace

constexpr Table scene_table{"scene", "A scene.", scene_keys};
constexpr Table ground_table{"ground", "The ground; exactly one of its keys.", ground_keys};
constexpr Table gait_table{"gait", "How an NPC moves.", gait_keys};
constexpr Table body_table{"body", "The size of an NPC and what it can get over.", body_keys};
constexpr Table npc_table{"npc", "A character.", npc_keys};
constexpr Table event_table{"event", "What happens at one time; exactly one of signal, send, remove.",
                            event_keys};
constexpr Table send_table{"send", "Who is sent where.", send_keys};
constexpr Table condition_table{"condition", "Exactly one of signal, near, apart.", condition_keys};
constexpr Table waypoint_table{"waypoint", "A point of a beat and what is done there.", waypoint_keys};
constexpr Table go_to_table{"go_to", "Walks to a point.", go_to_keys};
constexpr Table turn_to_table{"turn_to", "Turns on the spot.", turn_to_keys};
constexpr Table pause_table{"pause", "Stands still for a time.", pause_keys};
constexpr Table patrol_table{"patrol", "Walks a beat.", patrol_keys};
constexpr Table wait_for_table{"wait_for", "Stands still until a signal.", wait_for_keys};

std::span<const Table* const> step_tables() {
  static constexpr std::array tables = {&go_to_table, &turn_to_table, &pause_table, &patrol_table,
                                        &wait_for_table};
  return tables;
}

const Key* find_key(const Table& table, std::string_view name) {
  const auto key = std::ranges::find(table.keys, name, &Key::name);
  return key == table.keys.end() ? nullptr : &*key;
}

}  // namespace ambulon::scene
