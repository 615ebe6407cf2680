#include "scene/keys.hpp"

#include <algorithm>

#include "scene/key_makers.hpp"

namespace ambulon::scene {
namespace {

constexpr double day = 86'400;

constexpr Key scene_keys[] = {
    needed(one_of("format", "ambulon-scene/1", "The version of this format.")),
    text("title", "The scene's name."),
    whole("seed", 0, 9e15, "", "Seed of all random numbers."),
    whole("rate", 1, 1000, "", "Ticks per second."),
    number("length", 0.001, 30 * day, "seconds", "How long the scene is played by default."),
    number("patience", 0.1, 1e6, "seconds",
           "Without progress after which an order ends as stuck; 4 by default. Gaits and steps may have "
           "their own."),
    flag("avoid", "Characters avoid each other."),
    whole("route_work", 0, 1e9, "search nodes",
          "Search nodes expanded per tick, over all route requests; 0, the default: unlimited."),
    shape("detail", "detail", "Level of detail: characters far from viewers decide less often."),
    shape("limits", "limits", "Upper limits for the score of each character; `run` names the broken ones."),
    needed(shape("ground", "ground", "The ground.")),
    shape("terrain", "terrains", "Named terrains besides floor and wall."),
    shape("place", "places", "Named points."),
    shape("gait", "gaits", "Named gaits."),
    shape("camera", "cameras", "Named cameras for clicks of events."),
    shape("npc", "npcs", "The characters."),
    shape("crossing", "crossings",
          "Ladders, doors and leaps placed by hand, on plans and levels. They replace those of a built "
          "ground."),
    shape("event", "events", "Events in order of time."),
};

constexpr Key detail_keys[] = {
    needed(shape("viewers", "places_or_points", "Positions of the players' views.")),
    number("near", 0, 1e6, "metres", "Characters nearer to a viewer decide in each tick; 30 by default."),
    whole("max_interval", 1, 64, "ticks", "Between the decisions of the furthest characters; 8 by default."),
    whole("budget", 0, 4e9, "",
          "Approximate number of characters that decide in a tick; 0, the default: unlimited."),
};

constexpr Key limits_keys[] = {
    number("detour", 1, 1000, "", "Metres walked over the shortest route, of all legs together."),
    number("time_over_ideal", 1, 1000, "", "Seconds over those at the gait's speed, of all legs together."),
    number("deepest_overlap", 0, 100, "metres", "Deepest overlap of two bodies."),
    number("speed_jitters", 0, 1e9, "", "Reversals of the acceleration within 0.5 s."),
    number("heading_jitters", 0, 1e9, "", "Reversals of the turn within 0.5 s."),
    number("stuck_seconds", 0, 1e9, "seconds", "Time in which its body is held fast."),
    number("bend_slowdown", 0, 1, "fraction of speed", "Largest part of its speed that it loses at a bend."),
    number("sliding", 0, 100, "", "Metres that its feet slide per metre, if animated at its stride phase."),
    number("vertical_speed", 0, 1000, "metres per second", "Fastest rise or fall on foot."),
    number("jam_turning", 0, 1e5, "degrees per second",
           "Mean turning beside others while it hardly moves, though it wants to."),
    number("short_of_goal", 0, 1e6, "metres", "Distance from the goal at which a go_to ended as arrived."),
    number("done_by", 0, 30 * day, "seconds", "Time after which no character has an order."),
};

constexpr Key camera_keys[] = {
    vector("eye", "metres", "Its position."),
    vector("target", "metres", "The point that it looks at."),
    vector("up", "", "Up direction of the picture; [0, 0, 1] by default."),
    number("field_of_view", 1, 170, "degrees", "Vertical angle of a perspective view."),
    number("height", 0.001, 1e6, "metres", "Instead: height of an orthographic view."),
    number("scale", 0.001, 1e5, "pixels a metre", "Instead: scale of a view straight down."),
    numbers("origin", "[x, y]: the pixel of the origin in a view straight down; [0, 0] by default.",
            "pixels"),
    numbers("size", "[width, height] of the window in pixels; [1280, 800] by default.", "pixels"),
};

constexpr Key click_keys[] = {
    needed(texts("who", "Names or tags of the characters that are sent.")),
    point("to", "The goal; or else"),
    numbers("screen", "[x, y]: the clicked pixel from the upper left corner of the window,", "pixels"),
    text("camera", "with this camera; or else"),
    shape("ray", "ray", "[[x, y, z], [x, y, z]]: origin and direction of a ray."),
    flag("then", "True: appended to the places clicked before; false: replaces them."),
    flag("hold", "The pointer is held until `release`; the characters follow it."),
    number("within", 0.001, 1000, "metres", "Distance that counts as arrived."),
    number("every", 0, 10, "seconds", "Minimum time between two plans while the pointer moves."),
    unreachable_key,
    one_of("formation", "as_they_are|line|column|wedge|ring|block",
           "Formation at the goal. Places are assigned so that the sum of distances is smallest."),
    number("spacing", 0.1, 100, "metres", "Distance of neighbours in the formation; 1.2 by default."),
};

constexpr Key crossing_keys[] = {
    needed(text("name", "Its name for events.")),
    needed(one_of("kind", "jump_up|drop_down|leap|ladder|door", "How it is crossed.")),
    needed(point("from", "One end.")),
    needed(point("to", "The other end.")),
    flag("both_ways", "False: from `from` to `to` only."),
    number("cost", 0, 1000, "metres", "Added to its length in the cost of a route; 0 by default."),
    flag("shut", "True: closed until an event opens it."),
};

constexpr Key ground_keys[] = {
    flag("open", "A plane without obstacles."),
    shape("extent", "extent", "Two opposite corners of the ground; by default 100 km to each side."),
    shape("plan", "plan_or_file", "A plan of the walkable area, or the name of a plan file."),
    text("level",
         "Name of a geometry file: .gltf, .glb, .obj, .ply, .stl and more. All of it is solid, and walkable "
         "where it is flat enough."),
    text("built", "Name of a file made by `ambulon build`."),
    one_of("up", "y|z", "Up axis of the level; by default z for .ply and .stl, y for others."),
    far_vector("shift", "metres",
               "Added to all coordinates of the level's file, to bring it near the origin. Points of the "
               "scene are in the shifted frame."),
    number("max_slope", 0, 80, "degrees", "Maximum walkable slope of the level; 45 by default."),
    number("gap", 0, 0.2, "metres", "Maximum gap between pieces of one floor; 0.03 by default."),
    flag("closed",
         "The level should consist of closed pieces: `check` and `build` list those that are not. Does not "
         "change the ground."),
    shape("reach_from", "places_or_points",
          "Only ground that can be reached from one of these points is kept. By default: all points of the "
          "scene; []: all ground is kept."),
    texts("decor",
          "Names of nodes, meshes and materials of the level that do not obstruct and are not walkable; * "
          "matches anything."),
    texts("barred", "Names of those that obstruct and are not walkable."),
    shape("cost", "costs", "Names of those with a cost per metre, and the cost (1 to 255)."),
    shape("tiles", "tiles",
          "Rows of characters from north to south, or the name of a tile map file: .png, .map (octile), or "
          "text."),
    shape("legend", "legend",
          "Terrain of each character, or of each colour \"#rrggbb\" of a picture; . is floor and # is wall."),
    whole("threshold", 0, 255, "", "Pixels at least this bright are floor, if the legend has no colours."),
    number("cell", 0.001, 1000, "metres", "Edge of a cell; 1 by default."),
    vector("origin", "metres", "South-western corner of the tiles; [0, 0] by default."),
    one_of("neighbours", "eight|four", "Whether diagonal steps are allowed."),
    one_of("corners", "both_free|one_free|cut", "Which cells beside a diagonal step must be free."),
    flag("along_cells", "Routes lead over cell centres instead of being pulled taut."),
};

constexpr Key plan_keys[] = {
    needed(shape("outline", "rings", "Rings of points around walkable ground.")),
    shape("hole", "rings", "Rings around holes in the ground."),
    shape("solid", "rings", "Rings around obstacles."),
    shape("wall", "walls", "Walls: lines with a thickness."),
    shape("region", "regions", "Areas with a cost per metre; where several overlap, the last one counts."),
};

constexpr Key region_keys[] = {
    needed(shape("ring", "outline", "Its outline.")),
    needed(number("cost", 1, 255, "", "Cost per metre of a route.")),
};

constexpr Key plan_file_keys[] = {
    needed(one_of("format", "ambulon-plan/1", "The version of this format.")),
};

constexpr Key wall_keys[] = {
    needed(shape("line", "line", "At least two points.")),
    number("thickness", 0.001, 1000, "metres", "Thickness, half on each side of the line; 0.2 by default."),
};

constexpr Key terrain_keys[] = {
    whole("cost", 1, 255, "", "Cost per metre of a route; 1 by default."),
    flag("walkable", "False: not walkable."),
};

constexpr Key barrier_keys[] = {
    needed(text("barrier", "Its name.")),
    numbers("box", "[x, y, length, width]: centre and size"),
    number("heading", -360, 360, "degrees", "Heading of a box."),
    numbers("disc", "[x, y, radius]"),
    shape("hull", "outline", "Points; the barrier is their convex hull."),
    number("cost", 1, 255, "",
           "Makes it walkable ground with that cost per metre, instead of an obstacle; on plans and levels."),
    range("heights", -1e5, 1e5, "metres",
          "Its bottom and top, on a level; by default it stands on all floors."),
};

constexpr Key move_keys[] = {
    needed(text("barrier", "Which barrier.")),
    needed(point("to", "New place of its centre.")),
};

constexpr Key lay_keys[] = {
    needed(text("terrain", "New terrain of the cells.")),
    needed(numbers("box", "[x, y, length, width]: centre and size")),
};

constexpr Key gait_keys[] = {
    number("speed", 0.01, 100, "metres per second", "Walking speed."),
    number("acceleration", 0.05, 1000, "metres per second squared", "Acceleration."),
    number("braking", 0.05, 1000, "metres per second squared", "Deceleration."),
    number("turn_rate", 1, 50'000, "degrees per second", "Turn rate."),
    flag("turn_first",
         "Turns on the spot until it faces its way; otherwise until it is within 45 degrees of it."),
    number("slowing_distance", 0, 1000, "metres", "Distance before its goal over which it slows down."),
    number("floor_speed", 0, 1, "fraction of speed", "Lowest speed while it slows down."),
    number("stride", 0.01, 100, "metres", "Distance of one cycle of both feet."),
    number("clearance", 0, 100, "metres",
           "Distance that its routes keep from corners and edges, where there is room."),
    number("bend_distance", 0.01, 100, "metres",
           "Distance by which it may swing out at a bend; 0.15 by default. The more, the faster."),
    number("rounding", 0, 100, "metres",
           "Radius of the arcs on which it passes bends where the ground allows, if that is more than "
           "`bend_distance` gives; 0 by default."),
    number("uphill", 0.05, 1, "fraction of speed", "Speed up a slope of 45 degrees; 1 by default."),
    number("downhill", 0.05, 1, "fraction of speed", "Speed down a slope of 45 degrees; 1 by default."),
    number("mass", 0.01, 100, "times its own weight",
           "Total mass: divides acceleration, deceleration and turn rate."),
    number("patience", 0, 1e6, "seconds",
           "Without progress after which its orders end as stuck; 0, the default: as for the scene."),
};

constexpr Key body_keys[] = {
    number("radius", 0.01, 50, "metres", "Half its width."),
    number("height", 0.01, 100, "metres", "Its height."),
    number("step_up", 0, 100, "metres", "Height that it steps up without a jump."),
    number("jump_up", 0, 100, "metres", "Height that it jumps up."),
    number("drop_down", 0, 1000, "metres", "Depth that it drops down."),
    number("leap", 0, 100, "metres", "Width of gaps that it leaps over."),
    vector("deck", "metres", "Length and width of its deck, which carries others."),
    texts("passes", "Tags of characters that it passes through."),
};

constexpr Key avoidance_keys[] = {
    flag("takes_part", "False: it does not avoid others; they avoid it."),
    number("horizon", 0.1, 30, "seconds", "Time ahead that is kept free of contacts; 2 by default."),
    number("sight", 0.5, 50, "metres", "Distance within which others count; 5 by default."),
    number("side", -57, 57, "degrees",
           "Angle by which it keeps to the right while another one in front goes another way; negative: to "
           "the left."),
    whole("priority", -1000, 1000, "",
          "Characters with a lower priority avoid those with a higher one; 0 by default."),
};

constexpr Key npc_keys[] = {
    needed(text("name",
                "Its name, unique in the scene; with `count` also a tag, and the beginning of the names.")),
    needed(point("at", "Its start; with `count` the centre of all starts.")),
    whole("count", 1, 10000, "", "Number of equal characters: NAME 1, NAME 2 and so on."),
    number("spacing", 0.05, 100, "metres", "Distance of the starts of one `count`; 1 by default."),
    number("heading", -360, 360, "degrees", "Direction that it faces, counter-clockwise from +x."),
    shape("gait", "gait_or_name", "How it moves: the name of a gait, or a gait."),
    shape("body", "body", "Its size, and what it can step, jump and leap over."),
    texts("tags", "Groups that it belongs to."),
    shape("avoidance", "avoidance", "How it avoids others, in a scene with `avoid`."),
    whole("route_priority", -1000, 1000, "",
          "Each unit counts as one second of waiting for a route; 0 by default."),
    shape("switch", "gait_switches", "Changes of its gait, with conditions."),
    shape("on_touch", "on_touch", "The signal it gives when another body begins to touch it."),
    shape("do", "steps", "Its orders, in sequence."),
    flag("repeat", "Restarts its orders at the end."),
};

constexpr Key event_keys[] = {
    needed(number("at", 0, 30 * day, "seconds", "Time of the event.")),
    text("signal", "Gives a signal."),
    shape("send", "send", "Sends an NPC to a point; then it resumes its order."),
    shape("click", "click", "Clicks a goal for characters; then they resume their orders."),
    texts("release", "Releases the pointer that these names or tags follow."),
    text("remove", "Removes that NPC from the scene."),
    text("suspend", "Suspends that NPC in the middle of its order."),
    text("resume", "Resumes a suspended NPC."),
    shape("teleport", "teleport", "Teleports an NPC."),
    shape("change", "change", "Changes the gait of an NPC."),
    shape("put", "barrier", "Puts a barrier on the ground; one of the same name is moved."),
    shape("move", "move", "Moves a barrier."),
    text("take_away", "Removes that barrier."),
    text("shut", "Shuts that crossing."),
    text("open", "Opens that crossing."),
    shape("lay", "lay", "Changes the terrain of cells."),
    shape("add_waypoint", "add_waypoint", "Adds a waypoint to a patrol or a hop."),
    shape("move_waypoint", "move_waypoint", "Moves a waypoint of a patrol or a hop."),
    shape("remove_waypoint", "remove_waypoint", "Removes a waypoint of a patrol or a hop."),
};

constexpr Key teleport_keys[] = {
    needed(text("npc", "The character that is teleported.")),
    needed(point("to", "The goal.")),
};

constexpr Key change_keys[] = {
    needed(text("npc", "The character whose gait changes.")),
    needed(shape("gait", "gait_or_name", "The new gait: the name of one, or values.")),
};

// Keys of conditions, in `until`, `when` and `switch`.
constexpr Key signal_key = text("signal", "True when this signal is given.");
constexpr Key near_key = text("near", "True while that NPC is within `distance`.");
constexpr Key apart_key = text("apart", "True while that NPC is further away than `distance`.");
constexpr Key arrived_key = text("arrived", "True when that NPC reaches a goal or a waypoint.");
constexpr Key stuck_key = text("stuck", "True when an order of that NPC ends as stuck.");
constexpr Key distance_key = number("distance", 0, 100'000, "metres", "The distance of `near` and `apart`.");

constexpr Key gait_switch_keys[] = {
    needed(shape("gait", "gait_or_name", "The new gait: the name of one, or values.")),
    signal_key,
    near_key,
    apart_key,
    arrived_key,
    stuck_key,
    distance_key,
};

constexpr Key act_keys[] = {
    needed(number("within", 0.01, 100'000, "metres", "Distance of the target at which it acts.")),
    text("enter", "Signal that it gives when the target comes within that distance."),
    text("leave", "Signal that it gives when the target leaves that distance."),
};

constexpr Key on_touch_keys[] = {
    needed(text("signal", "Signal that it gives, once until the bodies have parted by 5 cm.")),
    texts("tags", "Only bodies with one of these tags count; by default all."),
};

constexpr Key send_keys[] = {
    needed(text("npc", "The character that is sent.")),
    needed(point("to", "The goal.")),
    number("within", 0.001, 1000, "metres", "Distance that counts as arrived."),
    unreachable_key,
};

constexpr Key condition_keys[] = {
    signal_key, near_key, apart_key, arrived_key, stuck_key, distance_key,
};

constexpr Key waypoint_keys[] = {
    needed(point("at", "Its position.")),
    range("pause", 0, 1e6, "seconds", "Duration of the stop there."),
    shape("facing", "facing", "Point or heading (degrees) to turn to on arrival."),
    number("within", 0.001, 1000, "metres", "Distance that counts as arrived; by default that of the order."),
    number("weight", 0, 1e6, "", "Relative probability that `hop` chooses it; 1 by default."),
};

// Keys of events that change the waypoints of a patrol or a hop.
constexpr Key whose_waypoints = needed(text(
    "npc", "The character that walks them; the members of a `count` share them, under their common name."));
constexpr Key which_list =
    whole("list", 1, 1000, "", "Number of the patrol or hop in its `do` list; 1 by default.");
constexpr Key waypoint_number = needed(whole("number", 1, 1e6, "", "Number of the waypoint, from 1."));

constexpr Key add_waypoint_keys[] = {
    whose_waypoints,
    which_list,
    whole("before", 1, 1e6, "", "Number of the waypoint before which it is inserted; by default at the end."),
};
constexpr Key move_waypoint_keys[] = {whose_waypoints, which_list, waypoint_number,
                                      needed(point("to", "The goal."))};
constexpr Key remove_waypoint_keys[] = {whose_waypoints, which_list, waypoint_number};

constexpr Key term_keys[] = {
    point("seek", "Moves straight to a point, an NPC or the nearest with a tag."),
    point("arrive", "Moves there and stops within `within`."),
    point("flee", "Moves away from it while it is within `within`."),
    text("pursue", "Moves to the predicted meeting point with the NPC."),
    text("evade", "Moves away from the predicted meeting point, while that is within `within`."),
    text("keep_distance", "Keeps a distance from the NPC within `band`."),
    text("follow_offset", "Keeps `offset` from the NPC, in its frame."),
    shape("follow_path", "points", "Moves along the line through these points; looks `within` ahead."),
    number("wander", 0, 360, "degrees", "Wanders, with a random turn of at most that angle each `every`."),
    text("separation", "Keeps a distance of `within` from those with the tag; \"all\": from all."),
    text("alignment", "Takes the mean direction of those with the tag within `within`."),
    text("cohesion", "Moves to the centre of those with the tag within `within`."),
    text("avoid_obstacles", "Avoids those with the tag that it would hit within `every` seconds."),
    flag("avoid_edges", "Turns away from edges of the ground within `within`."),
    number("weight", 0, 1000, "", "Weight; 1 by default."),
    number("within", 0.01, 100'000, "metres", "Radius or distance of the behaviour."),
    range("band", 0, 100'000, "metres", "Distances of keep_distance."),
    vector("offset", "metres", "Offset of follow_offset: ahead and to the left."),
    number("every", 0.05, 1e6, "seconds", "Time between turns, or time ahead."),
    number("view_angle", 1, 360, "degrees", "Field of view for those with a tag; 360 by default."),
};

}  // namespace

constexpr Table scene_table{"scene", "A scene.", scene_keys};
constexpr Table detail_table{"detail", "Level of detail: characters far from viewers decide less often.",
                             detail_keys};
constexpr Table limits_table{"limits", "Upper limits for the score of each character.", limits_keys};
constexpr Table camera_table{"camera", "A camera; exactly one of field_of_view, height and scale.",
                             camera_keys};
constexpr Table click_table{"click", "A click for characters; exactly one of to, screen and ray.",
                            click_keys};
constexpr Table ground_table{
    "ground", "The ground; exactly one of `open`, `tiles`, `plan`, `level` and `built`, with its options.",
    ground_keys};
constexpr Table plan_table{"plan", "The walkable area, seen from above.", plan_keys};
constexpr Table plan_file_table{"plan", "A plan.", plan_file_keys, plan_keys};
constexpr Table region_table{"region", "An area with a cost.", region_keys};
constexpr Table wall_table{"wall", "A line with a thickness.", wall_keys};
constexpr Table terrain_table{"terrain", "A kind of surface.", terrain_keys};
constexpr Table barrier_table{"barrier", "A barrier; exactly one of box, disc and hull.", barrier_keys};
constexpr Table crossing_table{"crossing", "A connection that is not walked.", crossing_keys};
constexpr Table move_table{"move", "A barrier and its new place.", move_keys};
constexpr Table lay_table{"lay", "A terrain and the cells that get it.", lay_keys};
constexpr Table gait_table{"gait", "How an NPC moves.", gait_keys};
constexpr Table body_table{"body", "The size of an NPC, and what it can step, jump and leap over.",
                           body_keys};
constexpr Table avoidance_table{"avoidance", "How an NPC avoids others.", avoidance_keys};
constexpr Table npc_table{"npc", "A character.", npc_keys};
constexpr Table event_table{"event", "An event; exactly one key besides `at`.", event_keys};
constexpr Table send_table{"send", "Sends a character somewhere.", send_keys};
constexpr Table condition_table{"condition", "Exactly one of signal, near, apart, arrived, stuck.",
                                condition_keys};
constexpr Table waypoint_table{"waypoint", "A waypoint.", waypoint_keys};
constexpr Table add_waypoint_table{"add_waypoint", "A new waypoint and its list.", add_waypoint_keys,
                                   waypoint_keys};
constexpr Table move_waypoint_table{"move_waypoint", "A waypoint and its new place.", move_waypoint_keys};
constexpr Table remove_waypoint_table{"remove_waypoint", "A waypoint to remove.", remove_waypoint_keys};
constexpr Table gait_switch_table{"gait_switch", "A gait, and exactly one condition for it.",
                                  gait_switch_keys};
constexpr Table teleport_table{"put", "Teleports a character.", teleport_keys};
constexpr Table change_table{"change", "Changes the gait of a character.", change_keys};
constexpr Table on_touch_table{"on_touch", "The signal for contacts with other bodies.", on_touch_keys};
constexpr Table act_table{"act", "Signals for the distance of its target.", act_keys};
constexpr Table term_table{"term", "One behaviour of a blend; exactly one of the keys up to avoid_edges.",
                           term_keys};

const Key* find_key(const Table& table, std::string_view name) {
  for (const std::span<const Key> keys : {table.keys, table.common})
    if (const auto key = std::ranges::find(keys, name, &Key::name); key != keys.end()) return &*key;
  return nullptr;
}

}  // namespace ambulon::scene
