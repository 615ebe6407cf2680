#include "keys.hpp"

#include <algorithm>
#include <array>

namespace ambulon::scene {
namespace {

constexpr double day = 86'400;

constexpr Key scene_keys[] = {
    {.name = "format",
     .kind = Kind::one_of,
     .doc = "The version of this format.",
     .of = "ambulon-scene/1",
     .required = true},
    {.name = "title", .kind = Kind::text, .doc = "The scene's name."},
    {.name = "seed", .kind = Kind::whole, .doc = "Seed of all random numbers.", .least = 0, .most = 9e15},
    {.name = "rate", .kind = Kind::whole, .doc = "Ticks per second.", .least = 1, .most = 1000},
    {.name = "length",
     .kind = Kind::number,
     .doc = "How long the scene is played by default.",
     .least = 0.001,
     .most = 30 * day,
     .unit = "seconds"},
    {.name = "ground",
     .kind = Kind::shape,
     .doc = "What can be walked on.",
     .of = "ground",
     .required = true},
    {.name = "place", .kind = Kind::shape, .doc = "Named points.", .of = "places"},
    {.name = "gait", .kind = Kind::shape, .doc = "Named gaits.", .of = "gaits"},
    {.name = "npc", .kind = Kind::shape, .doc = "The characters.", .of = "npcs"},
    {.name = "event", .kind = Kind::shape, .doc = "What happens when.", .of = "events"},
};

constexpr Key ground_keys[] = {
    {.name = "open", .kind = Kind::flag, .doc = "A plane without obstacles.", .required = true},
};

constexpr Key gait_keys[] = {
    {.name = "speed",
     .kind = Kind::number,
     .doc = "Walking speed.",
     .least = 0.01,
     .most = 100,
     .unit = "metres per second"},
    {.name = "acceleration",
     .kind = Kind::number,
     .doc = "How fast it speeds up.",
     .least = 0.05,
     .most = 1000,
     .unit = "metres per second squared"},
    {.name = "braking",
     .kind = Kind::number,
     .doc = "How fast it slows down.",
     .least = 0.05,
     .most = 1000,
     .unit = "metres per second squared"},
    {.name = "turn_rate",
     .kind = Kind::number,
     .doc = "How fast it turns.",
     .least = 1,
     .most = 50'000,
     .unit = "degrees per second"},
    {.name = "turn_first",
     .kind = Kind::flag,
     .doc = "Stands still and turns before it sets off in another direction."},
    {.name = "slowing_distance",
     .kind = Kind::number,
     .doc = "Over how much way it slows down before its goal.",
     .least = 0,
     .most = 1000,
     .unit = "metres"},
    {.name = "floor_speed",
     .kind = Kind::number,
     .doc = "Part of its speed below which slowing does not go.",
     .least = 0,
     .most = 1,
     .unit = "fraction of speed"},
    {.name = "stride",
     .kind = Kind::number,
     .doc = "Way walked in one cycle of both feet.",
     .least = 0.01,
     .most = 100,
     .unit = "metres"},
};

constexpr Key body_keys[] = {
    {.name = "radius",
     .kind = Kind::number,
     .doc = "Half its width.",
     .least = 0.01,
     .most = 50,
     .unit = "metres"},
    {.name = "height",
     .kind = Kind::number,
     .doc = "Its height.",
     .least = 0.01,
     .most = 100,
     .unit = "metres"},
    {.name = "step_up",
     .kind = Kind::number,
     .doc = "How high it steps up without a jump.",
     .least = 0,
     .most = 100,
     .unit = "metres"},
    {.name = "jump_up",
     .kind = Kind::number,
     .doc = "How high it jumps up.",
     .least = 0,
     .most = 100,
     .unit = "metres"},
    {.name = "drop_down",
     .kind = Kind::number,
     .doc = "How deep it lets itself down.",
     .least = 0,
     .most = 1000,
     .unit = "metres"},
    {.name = "leap",
     .kind = Kind::number,
     .doc = "How wide a gap it leaps over.",
     .least = 0,
     .most = 100,
     .unit = "metres"},
};

constexpr Key npc_keys[] = {
    {.name = "name", .kind = Kind::text, .doc = "Its name, used once in a scene.", .required = true},
    {.name = "at", .kind = Kind::point, .doc = "Where it begins.", .required = true},
    {.name = "heading",
     .kind = Kind::number,
     .doc = "Which way it faces, counter-clockwise from +x.",
     .least = -360,
     .most = 360,
     .unit = "degrees"},
    {.name = "gait",
     .kind = Kind::shape,
     .doc = "How it moves: a gait's name, or a gait written out.",
     .of = "gait_or_name"},
    {.name = "body", .kind = Kind::shape, .doc = "Its size and what it can get over.", .of = "body"},
    {.name = "do", .kind = Kind::shape, .doc = "What it does, one after another.", .of = "steps"},
    {.name = "repeat", .kind = Kind::flag, .doc = "Starts over when everything is done."},
};

constexpr Key event_keys[] = {
    {.name = "at",
     .kind = Kind::number,
     .doc = "When it happens.",
     .least = 0,
     .most = 30 * day,
     .unit = "seconds",
     .required = true},
    {.name = "signal", .kind = Kind::text, .doc = "Gives a signal to whoever waits for it."},
    {.name = "send",
     .kind = Kind::shape,
     .doc = "Sends an NPC somewhere; afterwards it takes up what it was doing.",
     .of = "send"},
    {.name = "remove", .kind = Kind::text, .doc = "Takes the NPC of that name out of the scene."},
};

constexpr Key send_keys[] = {
    {.name = "npc", .kind = Kind::text, .doc = "Who is sent.", .required = true},
    {.name = "to", .kind = Kind::point, .doc = "Where to.", .required = true},
    {.name = "within",
     .kind = Kind::number,
     .doc = "How near counts as there.",
     .least = 0.001,
     .most = 1000,
     .unit = "metres"},
};

constexpr Key condition_keys[] = {
    {.name = "signal", .kind = Kind::text, .doc = "Holds when this signal is given."},
    {.name = "near", .kind = Kind::text, .doc = "Holds when the NPC of that name is within `distance`."},
    {.name = "apart",
     .kind = Kind::text,
     .doc = "Holds when the NPC of that name is further than `distance`."},
    {.name = "distance",
     .kind = Kind::number,
     .doc = "Of `near` and `apart`.",
     .least = 0,
     .most = 100'000,
     .unit = "metres"},
};

constexpr Key waypoint_keys[] = {
    {.name = "at", .kind = Kind::point, .doc = "Where it is.", .required = true},
    {.name = "pause",
     .kind = Kind::range,
     .doc = "How long to stand there.",
     .least = 0,
     .most = 1e6,
     .unit = "seconds"},
    {.name = "facing",
     .kind = Kind::shape,
     .doc = "Where to turn on arrival: a point, or a heading in degrees.",
     .of = "facing"},
};

// Each verb's table ends with the keys that all of them have.
#define AMBULON_COMMON_KEYS            \
  {.name = "after",                    \
   .kind = Kind::number,               \
   .doc = "How long to wait first.",   \
   .least = 0,                         \
   .most = 1e6,                        \
   .unit = "seconds"},                 \
      {.name = "for",                  \
       .kind = Kind::number,           \
       .doc = "How long at the most.", \
       .least = 0.001,                 \
       .most = 1e6,                    \
       .unit = "seconds"},             \
      {.name = "until", .kind = Kind::shape, .doc = "What ends it before its time.", .of = "condition"}

constexpr Key go_to_keys[] = {
    {.name = "go_to", .kind = Kind::point, .doc = "Walks to a point.", .required = true},
    {.name = "within",
     .kind = Kind::number,
     .doc = "How near counts as there.",
     .least = 0.001,
     .most = 1000,
     .unit = "metres"},
    AMBULON_COMMON_KEYS,
};

constexpr Key turn_to_keys[] = {
    {.name = "turn_to",
     .kind = Kind::shape,
     .doc = "Turns to a point, or to a heading in degrees.",
     .of = "facing",
     .required = true},
    AMBULON_COMMON_KEYS,
};

constexpr Key pause_keys[] = {
    {.name = "pause",
     .kind = Kind::range,
     .doc = "Stands still.",
     .least = 0,
     .most = 1e6,
     .unit = "seconds",
     .required = true},
    AMBULON_COMMON_KEYS,
};

constexpr Key patrol_keys[] = {
    {.name = "patrol",
     .kind = Kind::shape,
     .doc = "Walks from waypoint to waypoint.",
     .of = "waypoints",
     .required = true},
    {.name = "order",
     .kind = Kind::one_of,
     .doc = "In which order they are visited.",
     .of = "around|back_and_forth|once|shuffled"},
    {.name = "path",
     .kind = Kind::one_of,
     .doc = "Straight legs, or one smooth curve through all of them.",
     .of = "straight|curve"},
    {.name = "start", .kind = Kind::one_of, .doc = "With which waypoint it begins.", .of = "nearest|first"},
    {.name = "lap",
     .kind = Kind::number,
     .doc = "Time for one lap, pauses included; without it the gait's speed decides.",
     .least = 0.1,
     .most = 1e6,
     .unit = "seconds"},
    {.name = "within",
     .kind = Kind::number,
     .doc = "How near a waypoint counts as there.",
     .least = 0.001,
     .most = 1000,
     .unit = "metres"},
    {.name = "pause",
     .kind = Kind::range,
     .doc = "How long to stand at each waypoint that does not say itself.",
     .least = 0,
     .most = 1e6,
     .unit = "seconds"},
    AMBULON_COMMON_KEYS,
};

constexpr Key wait_for_keys[] = {
    {.name = "wait_for",
     .kind = Kind::text,
     .doc = "Stands still until the signal is given.",
     .required = true},
    AMBULON_COMMON_KEYS,
};

#undef AMBULON_COMMON_KEYS

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
