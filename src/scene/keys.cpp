#include "keys.hpp"

#include <algorithm>
#include <array>

namespace ambulon::scene {
namespace {

constexpr double day = 86'400;

constexpr Key number(std::string_view name, double min, double max, std::string_view unit,
                     std::string_view doc) {
  return {name, Kind::number, doc, min, max, unit};
}
constexpr Key whole(std::string_view name, double min, double max, std::string_view unit,
                    std::string_view doc) {
  return {name, Kind::whole, doc, min, max, unit};
}
constexpr Key range(std::string_view name, double min, double max, std::string_view unit,
                    std::string_view doc) {
  return {name, Kind::range, doc, min, max, unit};
}
constexpr Key text(std::string_view name, std::string_view doc) { return {name, Kind::text, doc}; }
constexpr Key texts(std::string_view name, std::string_view doc) { return {name, Kind::texts, doc}; }
constexpr Key vector(std::string_view name, std::string_view unit, std::string_view doc) {
  return {name, Kind::vector, doc, -1e5, 1e5, unit};
}
constexpr Key far_vector(std::string_view name, std::string_view unit, std::string_view doc) {
  return {name, Kind::vector, doc, -1e7, 1e7, unit};
}
constexpr Key numbers(std::string_view name, std::string_view doc, std::string_view unit = "metres") {
  return {name, Kind::numbers, doc, -1e5, 1e5, unit};
}
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
    number("patience", 0.1, 1e6, "seconds",
           "Without progress after which an order ends as stuck; 4 by default. Gaits and steps may have "
           "their own."),
    flag("avoid", "All keep out of each other's way."),
    whole("route_work", 0, 1e9, "search nodes",
          "Search nodes expanded per tick, over all route requests; 0, the default: unlimited."),
    shape("detail", "detail", "Which characters decide less often, far from the players' views."),
    shape("limits", "limits", "Upper limits for the score of each character; `run` names the broken ones."),
    needed(shape("ground", "ground", "What can be walked on.")),
    shape("terrain", "terrains", "Named kinds of surface, besides floor and wall."),
    shape("place", "places", "Named points."),
    shape("gait", "gaits", "Named gaits."),
    shape("camera", "cameras", "Named cameras, through which events click."),
    shape("npc", "npcs", "The characters."),
    shape("crossing", "crossings",
          "Ladders, doors and leaps by hand, on plans and levels; instead of those that a built ground has."),
    shape("event", "events", "What happens when."),
};

constexpr Key detail_keys[] = {
    needed(shape("viewers", "places_or_points", "From where players look.")),
    number("near", 0, 1e6, "metres", "Nearer than that to an eye, all think each tick; 30 by default."),
    whole("max_interval", 1, 64, "ticks", "From thinking to thinking, of the furthest; 8 by default."),
    whole("budget", 0, 4e9, "",
          "Approximate number of characters that decide in a tick; 0, the default: unlimited."),
};

constexpr Key limits_keys[] = {
    number("detour", 1, 1000, "", "Metres walked over the least, of all legs together."),
    number("time_over_ideal", 1, 1000, "", "Seconds over those at full speed, of all legs together."),
    number("deepest_overlap", 0, 100, "metres", "Between two bodies."),
    number("speed_jitters", 0, 1e9, "", "Times that the speed turns up and down within half a second."),
    number("heading_jitters", 0, 1e9, "", "Times that it turns to and fro within half a second."),
    number("stuck_seconds", 0, 1e9, "seconds", "In which its body is held fast."),
    number("done_by", 0, 30 * day, "seconds", "From then on nobody has an order."),
};

constexpr Key camera_keys[] = {
    vector("eye", "metres", "Where it is."),
    vector("target", "metres", "Where it looks."),
    vector("up", "", "What is up in the picture; [0, 0, 1] by default."),
    number("field_of_view", 1, 170, "degrees", "From the lower to the upper edge of what it sees."),
    number("height", 0.001, 1e6, "metres", "Instead: the same, where distance makes nothing smaller."),
    number("scale", 0.001, 1e5, "pixels a metre", "Instead: looks straight down, in this scale."),
    numbers("origin", "[x, y]: the pixel at which a scale has the origin; [0, 0] by default.", "pixels"),
    numbers("size", "[width, height] of the window in pixels; [1280, 800] by default.", "pixels"),
};

constexpr Key unreachable = one_of("unreachable", "nearest|refuse|wait",
                                   "Where no way leads there: goes to the nearest spot that can be reached, "
                                   "refuses and goes on with what follows, or waits for a way.");

constexpr Key click_keys[] = {
    needed(texts("who",
                 "The names or tags of those who are sent; they keep their places to one another, or take up "
                 "a formation.")),
    point("to", "Where to; or else"),
    numbers("screen",
            "[x, y]: the point of the window that is clicked, in pixels from its upper left corner,",
            "pixels"),
    text("camera", "through this camera; or else"),
    shape("ray", "ray", "[[x, y, z], [x, y, z]]: where a ray begins and its direction."),
    flag("then", "After the places that were clicked before, instead of at once."),
    flag("hold", "The pointer is held there until `release`; they go wherever it is held next."),
    number("within", 0.001, 1000, "metres", "How near counts as there."),
    number("every", 0, 10, "seconds", "At the least from planning to planning while the pointer moves."),
    unreachable,
    one_of(
        "formation", "as_they_are|line|column|wedge|ring|block",
        "How they stand there, facing the way they came; each takes the place that makes all ways shortest."),
    number("spacing", 0.1, 100, "metres", "Between neighbours in a formation; 1.2 by default."),
};

constexpr Key crossing_keys[] = {
    needed(text("name", "What events call it.")),
    needed(one_of("kind", "jump_up|drop_down|leap|ladder|door", "How one gets over it.")),
    needed(point("from", "One of its ends.")),
    needed(point("to", "The other.")),
    flag("both_ways", "False: only from `from` to `to`."),
    number("cost", 0, 1000, "metres", "Of way that it counts as, on top of its length; 0 by default."),
    flag("shut", "True: nobody gets over it, until an event opens it."),
};

constexpr Key ground_keys[] = {
    flag("open", "A plane without obstacles."),
    shape("extent", "extent",
          "Two opposite corners beyond which there is no ground; without it 100 km to each side."),
    shape("plan", "plan_or_file", "What can be walked on, drawn from above; or the file of a plan."),
    text("level",
         "The file of a level's geometry: .gltf, .glb, .obj, .ply, .stl and more; all of it is solid, and "
         "walked on "
         "where it is flat enough."),
    text("built", "The file of a ground that was built beforehand, of a plan or a level."),
    one_of("up", "y|z",
           "Which axis of the level points up; by default z for .ply and .stl, y for all others."),
    far_vector("shift", "metres",
               "Added to all coordinates of the level's file, to bring it near the origin; the scene's "
               "points are where "
               "they are afterwards."),
    number("max_slope", 0, 80, "degrees", "The steepest part of the level that is walked on; 45 by default."),
    number("gap", 0, 0.2, "metres",
           "How far pieces of a floor may be apart that belong together; 0.03 by default."),
    flag("closed",
         "The level is meant to consist of closed pieces only: check and build name those that are not. The "
         "ground is the same without it."),
    shape("reach_from", "places_or_points",
          "Only ground of the level that a body can reach from one of these points is kept, on foot and by "
          "crossings. By default they are all points of the scene; []: all ground is kept."),
    texts("decor",
          "Names of nodes, meshes and materials of the level that are not there for those who walk; * stands "
          "for "
          "anything."),
    texts("barred", "Names of those that are in the way, and never walked on."),
    shape("cost", "costs",
          "Names of those on which a way costs more, and how many times its length (1 to 255)."),
    shape("tiles", "tiles",
          "Rows of characters, the northernmost first, or the file of a tile map: .png, .map (octile), or "
          "text."),
    shape("legend", "legend",
          "Which terrain characters, or colours \"#rrggbb\" of a picture, stand for; . is floor and # wall."),
    whole("threshold", 0, 255, "", "Pixels at least this bright are floor, when the legend has no colours."),
    number("cell", 0.001, 1000, "metres", "From side to side of a cell; 1 by default."),
    vector("origin", "metres", "The south-western corner of the tiles; [0, 0] by default."),
    one_of("neighbours", "eight|four", "Whether one steps from corner to corner of cells, too."),
    one_of("corners", "both_free|one_free|cut", "Which cells beside a corner must be free for that."),
    flag("along_cells", "Routes go from middle to middle of cells instead of being pulled taut."),
};

constexpr Key plan_keys[] = {
    needed(shape("outline", "rings", "Rings of points inside of which one can walk.")),
    shape("hole", "rings", "Rings inside of which one cannot."),
    shape("solid", "rings", "Rings around what stands on the ground."),
    shape("wall", "walls", "Lines with a thickness, on which one cannot walk."),
    shape("region", "regions", "Ground on which a way costs more; where several overlap, the last counts."),
};

constexpr Key region_keys[] = {
    needed(shape("ring", "outline", "The points around it.")),
    needed(number("cost", 1, 255, "", "Times the length of the way.")),
};

constexpr Key plan_file_keys[] = {
    needed(one_of("format", "ambulon-plan/1", "The version of this format.")),
};

constexpr Key wall_keys[] = {
    needed(shape("line", "line", "Its points, two or more.")),
    number("thickness", 0.001, 1000, "metres", "Half of it to each side of the line; 0.2 by default."),
};

constexpr Key terrain_keys[] = {
    whole("cost", 1, 255, "", "Times the length of the way; 1 by default."),
    flag("walkable", "False: nobody walks on it."),
};

constexpr Key barrier_keys[] = {
    needed(text("barrier", "Its name.")),
    numbers("box", "[x, y, length, width]: its middle and its size"),
    number("heading", -360, 360, "degrees", "By which a box is turned."),
    numbers("disc", "[x, y, radius]"),
    shape("hull", "outline", "Points, of which it is the convex hull."),
    number("cost", 1, 255, "",
           "Makes it walkable ground with a cost per metre of a route, instead of an obstacle; on "
           "plans and "
           "levels."),
    range("heights", -1e5, 1e5, "metres",
          "Of its bottom and its top, on a level; without, it stands on all floors."),
};

constexpr Key move_keys[] = {
    needed(text("barrier", "Which barrier.")),
    needed(point("to", "Where its middle goes.")),
};

constexpr Key lay_keys[] = {
    needed(text("terrain", "What the cells are made of from now on.")),
    needed(numbers("box", "[x, y, length, width]: the middle and the size")),
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
    number("clearance", 0, 100, "metres", "What it likes to keep from corners and edges."),
    number("rounding", 0, 100, "metres", "Radius of the arcs it makes of bends."),
    number("mass", 0.01, 100, "times its own weight",
           "What it carries in all: it speeds up, brakes and turns that much more slowly."),
    number("patience", 0, 1e6, "seconds",
           "Without progress after which its orders end as stuck; 0, the default: as the scene says."),
};

constexpr Key body_keys[] = {
    number("radius", 0.01, 50, "metres", "Half its width."),
    number("height", 0.01, 100, "metres", "Its height."),
    number("step_up", 0, 100, "metres", "How high it steps up without a jump."),
    number("jump_up", 0, 100, "metres", "How high it jumps up."),
    number("drop_down", 0, 1000, "metres", "How deep it lets itself down."),
    number("leap", 0, 100, "metres", "How wide a gap it leaps over."),
    vector("deck", "metres", "Length and width of its top, on which others stand and are carried along."),
    texts("passes", "Tags of those it passes through."),
};

constexpr Key avoidance_keys[] = {
    flag("takes_part", "False: it goes its way as if nobody were there, and the others keep out of it."),
    number("horizon", 0.1, 30, "seconds", "How far ahead it touches nobody; 2 by default."),
    number("sight", 0.5, 50, "metres", "How far it looks at others; 5 by default."),
    number("side", -57, 57, "degrees",
           "By how much it keeps to the right while somebody before it does not go the same way; to the left "
           "when negative."),
    whole("priority", -1000, 1000, "",
          "Characters of lower priority make way for those of higher; 0 by default."),
};

constexpr Key npc_keys[] = {
    needed(
        text("name", "Its name, used once in a scene; of many, their tag and the beginning of their names.")),
    needed(point("at", "Where it begins; of many, in the middle of them.")),
    whole("count", 1, 10000, "", "Number of equal characters: NAME 1, NAME 2 and so on."),
    number("spacing", 0.05, 100, "metres",
           "Between the places where many begin, beside others who begin there; 1 by default."),
    number("heading", -360, 360, "degrees", "Which way it faces, counter-clockwise from +x."),
    shape("gait", "gait_or_name", "How it moves: a gait's name, or a gait written out."),
    shape("body", "body", "Its size and what it can get over."),
    texts("tags", "The groups it belongs to."),
    shape("avoidance", "avoidance", "How it keeps out of the way of others, in a scene with `avoid`."),
    whole("route_priority", -1000, 1000, "",
          "When it waits for a way, each step of it counts as a second; 0 by default."),
    shape("switch", "gait_switches", "When it takes up another gait."),
    shape("on_touch", "on_touch", "The signal it gives when another body begins to touch it."),
    shape("do", "steps", "What it does, one after another."),
    flag("repeat", "Starts over when everything is done."),
};

constexpr Key event_keys[] = {
    needed(number("at", 0, 30 * day, "seconds", "When it happens.")),
    text("signal", "Gives a signal to whoever waits for it."),
    shape("send", "send", "Sends an NPC somewhere; afterwards it takes up what it was doing."),
    shape("click", "click", "Points somebody to a place; afterwards they take up what they were doing."),
    texts("release", "The pointer that these names or tags were to follow is let go."),
    text("remove", "Takes the NPC of that name out of the scene."),
    text("suspend", "Lets the NPC of that name stand still in the middle of what it does."),
    text("resume", "Lets it go on."),
    shape("teleport", "teleport", "Puts an NPC elsewhere at once."),
    shape("change", "change", "Changes how an NPC moves."),
    shape("put", "barrier", "Puts a barrier on the ground; one of the same name is moved."),
    shape("move", "move", "Moves a barrier."),
    text("take_away", "Takes the barrier of that name away."),
    text("shut", "Shuts the crossing of that name."),
    text("open", "Opens it again."),
    shape("lay", "lay", "Lays another terrain."),
    shape("add_waypoint", "add_waypoint", "Adds a waypoint to a patrol or a hop."),
    shape("move_waypoint", "move_waypoint", "Moves a waypoint of a patrol or a hop."),
    shape("remove_waypoint", "remove_waypoint", "Takes a waypoint out of a patrol or a hop."),
};

constexpr Key teleport_keys[] = {
    needed(text("npc", "The character that is put elsewhere.")),
    needed(point("to", "Where to.")),
};

constexpr Key change_keys[] = {
    needed(text("npc", "The character whose gait changes.")),
    needed(shape("gait", "gait_or_name", "What it changes to: a gait's name, or a gait written out.")),
};

// What a condition can be, in `until`, `when` and `switch`.
constexpr Key signal_key = text("signal", "Holds when this signal is given.");
constexpr Key near_key = text("near", "Holds when the NPC of that name is within `distance`.");
constexpr Key apart_key = text("apart", "Holds when the NPC of that name is further than `distance`.");
constexpr Key arrived_key = text("arrived", "Holds when the NPC of that name reaches a goal or a waypoint.");
constexpr Key stuck_key = text("stuck", "Holds when an order of the NPC of that name ends as stuck.");
constexpr Key distance_key = number("distance", 0, 100'000, "metres", "Of `near` and `apart`.");

constexpr Key gait_switch_keys[] = {
    needed(shape("gait", "gait_or_name", "What it changes to: a gait's name, or a gait written out.")),
    signal_key,
    near_key,
    apart_key,
    arrived_key,
    stuck_key,
    distance_key,
};

constexpr Key act_keys[] = {
    needed(number("within", 0.01, 100'000, "metres", "How near it is when it acts.")),
    text("enter", "The signal it gives when it comes within."),
    text("leave", "The signal it gives when it goes away again."),
};

constexpr Key on_touch_keys[] = {
    needed(text("signal", "The signal it gives, once until the two have parted by 5 cm.")),
    texts("tags", "Only bodies with one of these tags count; by default all do."),
};

constexpr Key send_keys[] = {
    needed(text("npc", "The character that is sent.")),
    needed(point("to", "Where to.")),
    number("within", 0.001, 1000, "metres", "How near counts as there."),
    unreachable,
};

constexpr Key condition_keys[] = {
    signal_key, near_key, apart_key, arrived_key, stuck_key, distance_key,
};

constexpr Key waypoint_keys[] = {
    needed(point("at", "Where it is.")),
    range("pause", 0, 1e6, "seconds", "How long to stand there."),
    shape("facing", "facing", "Where to turn on arrival: a point, or a heading in degrees."),
    number("weight", 0, 1e6, "", "How often `hop` chooses it, compared to others; 1 by default."),
};

// Of events that change the waypoints of a patrol or a hop.
constexpr Key whose_waypoints = needed(text(
    "npc", "The character that walks them; those of one `count` share theirs, under their common name."));
constexpr Key which_list =
    whole("list", 1, 1000, "", "Which of that NPC's patrols and hops, counted in its `do`; 1 by default.");
constexpr Key waypoint_number = needed(whole("number", 1, 1e6, "", "Which waypoint, counted from 1."));

constexpr Key add_waypoint_keys[] = {
    whose_waypoints,
    which_list,
    whole("before", 1, 1e6, "", "Number of the waypoint before which it is added; by default at the end."),
};
constexpr Key move_waypoint_keys[] = {whose_waypoints, which_list, waypoint_number,
                                      needed(point("to", "Where to."))};
constexpr Key remove_waypoint_keys[] = {whose_waypoints, which_list, waypoint_number};

constexpr Key every_step_keys[] = {
    number("after", 0, 1e6, "seconds", "How long to wait first."),
    shape("when", "condition", "What it waits for first."),
    shape("gait", "gait_or_name", "The gait it takes up for this and what follows."),
    number("for", 0.001, 1e6, "seconds", "Longest duration."),
    shape("until", "condition", "What ends it before its time."),
};

// What several verbs have.
constexpr Key within = number("within", 0.001, 1000, "metres", "How near counts as there.");
constexpr Key leg_time =
    number("leg_time", 0, 1e6, "seconds", "How long one leg may take before it is given up; 0: any.");
constexpr Key patience =
    number("patience", 0.1, 1e6, "seconds",
           "Without progress after which it ends as stuck; by default as the gait says.");
constexpr Key visits = whole("visits", 0, 4e9, "", "After how many it is done; 0: goes on for ever.");
constexpr Key pick = one_of("pick", "nearest|any", "Which one of a group it goes after.");
constexpr Key act =
    shape("act", "act", "Signals it gives on coming near whom it is after, and on going away.");
constexpr Key replan_distance = number("replan_distance", 0.01, 1000, "metres",
                                       "How far the target moves before the route is planned again.");
constexpr Key foresight =
    number("foresight", 0, 60, "seconds", "How far it looks ahead of where the target is going.");
constexpr Key anywhere = flag("anywhere", "Over what is no ground, too, and up and down.");

constexpr Key go_to_keys[] = {needed(point("go_to", "Walks to a point.")), within, unreachable, patience};

constexpr Key turn_to_keys[] = {
    needed(shape("turn_to", "facing", "Turns to a point, or to a heading in degrees.")),
};

constexpr Key pause_keys[] = {needed(range("pause", 0, 1e6, "seconds", "Stands still."))};

constexpr Key patrol_keys[] = {
    needed(shape("patrol", "waypoints", "Walks from waypoint to waypoint.")),
    one_of("order", "around|back_and_forth|once|shuffled", "In which order they are visited."),
    one_of("path", "straight|curve", "Straight legs, or one smooth curve through all of them."),
    one_of("start", "nearest|first", "With which waypoint it begins."),
    number("lap", 0.1, 1e6, "seconds",
           "Time for one lap, pauses included; without it the gait's speed decides."),
    within,
    leg_time,
    range("pause", 0, 1e6, "seconds", "How long to stand at each waypoint that does not say itself."),
    unreachable,
    patience,
};

constexpr Key wait_for_keys[] = {
    needed(text("wait_for", "Stands still until the signal is given.")),
};

constexpr Key roam_keys[] = {
    needed(number("roam", 0.1, 100'000, "metres", "Walks to random spots so far around its home.")),
    point("home", "The middle; without it, where it stands."),
    number("not_nearer", 0, 100'000, "metres", "Leaves out spots nearer to the middle."),
    flag("from_where_it_stands", "The circle goes along with it."),
    range("pause", 0, 1e6, "seconds", "How long to stay at each."),
    visits,
    leg_time,
    within,
    unreachable,
    patience,
};

constexpr Key hop_keys[] = {
    needed(shape("hop", "waypoints", "Walks to random points of a set.")),
    flag("repeats", "May choose the point it stands at again."),
    range("pause", 0, 1e6, "seconds", "How long to stay at each point that does not say itself."),
    visits,
    leg_time,
    within,
    unreachable,
    patience,
};

constexpr Key follow_keys[] = {
    needed(text("follow", "Goes after the NPC of that name, or one with that tag, and stands near.")),
    pick,
    number("stop", 0.05, 1000, "metres", "How near it stands."),
    number("resume", 0.05, 100'000, "metres", "From how far it goes on again."),
    vector("offset", "metres", "Its place: ahead of and to the left of the target, or in the world's frame."),
    one_of("frame", "target|world", "In whose frame the offset is."),
    range("distances", 0, 100'000, "metres", "At these distances it has …"),
    range("speeds", 0, 100, "metres per second", "… these speeds, and evenly between."),
    replan_distance,
    act,
    unreachable,
    patience,
};

constexpr Key chase_keys[] = {
    needed(text("chase", "Runs after the NPC of that name, or one with that tag.")),
    pick,
    number("reach", 0.01, 1000, "metres", "How near counts as caught."),
    number("give_up", 0, 100'000, "metres", "How far away the target has got away; 0: never."),
    foresight,
    replan_distance,
    act,
    unreachable,
    patience,
};

constexpr Key flee_keys[] = {
    needed(text("flee", "Runs away from the NPC of that name, or the nearest with that tag.")),
    pick,
    number("reach", 0.1, 100'000, "metres", "How far is far enough."),
    foresight,
    act,
};

constexpr Key escort_keys[] = {
    needed(text("escort", "Accompanies the NPC of that name.")),
    number("leash", 0.1, 100'000, "metres", "How far the leader may go before it comes after."),
    range("ring", 0.1, 1000, "metres", "How near to the leader it takes its place."),
    within,
    replan_distance,
    unreachable,
    patience,
};

constexpr Key march_keys[] = {
    needed(point("march", "Keeps its place in a squad of all who march there: to a point, or after an NPC.")),
    one_of("formation", "line|column|wedge|ring|block", "In which they march; block by default."),
    number("spacing", 0.1, 100, "metres", "Between neighbours; 1.2 by default."),
    within,
    unreachable,
    patience,
};

constexpr Key ease_to_keys[] = {
    needed(point("ease_to", "Moves there in a straight line.")),
    needed(number("seconds", 0.001, 1e6, "seconds", "In which time.")),
    one_of("easing", "linear|in|out|in_out", "How its speed runs; in_out by default."),
    one_of("turn", "first|going|never", "When it turns to where it goes; going by default."),
    anywhere,
};

constexpr Key sway_keys[] = {
    needed(vector("sway", "metres", "Goes there and back by a sine: from the middle to one end.")),
    vector("across", "metres", "With it, round an ellipse with these two half axes."),
    number("frequency", 1e-4, 100, "times per second", "How often there and back."),
    number("phase", -360, 360, "degrees", "Where it begins: 0 in the middle, 90 at the end."),
    whole("times", 0, 4e9, "", "How often there and back; 0: for ever."),
    anywhere,
};

constexpr Key pace_keys[] = {
    needed(flag("pace", "Goes straight on and turns round before what is in the way.")),
    number("heading", -360, 360, "degrees", "In which it begins; without it, where it faces."),
    number("gap", 0, 100, "metres", "How far it keeps from what is in the way."),
    range("pause", 0, 1e6, "seconds", "How long it stands before it turns round."),
    flag("flip", "Turns round at once, as in side view."),
    whole("turns", 0, 4e9, "", "After how many it is done; 0: goes on for ever."),
};

constexpr Key wander_keys[] = {
    needed(number("wander", 0, 360, "degrees", "Wanders, by turns of at most that.")),
    number("every", 0.05, 1e6, "seconds", "From turn to turn."),
    number("speed", 0, 100, "metres per second", "How fast; 0: as its gait."),
    number("radius", 0, 100'000, "metres", "How far from home it turns back; 0: never."),
    point("home", "Its home; without it, where it stands."),
};

constexpr Key flow_keys[] = {
    needed(shape("flow", "goals", "Goes to the nearest of some points by a flow field that all share.")),
    within,
    one_of("unreachable", "refuse|wait", "Where the field leads nowhere: refuses, or waits for a way."),
    patience,
};

constexpr Key thread_keys[] = {
    needed(one_of("thread", "random|toward|away|left|right",
                  "Threads the ways of a tile ground, choosing so at each junction.")),
    point("target", "Of toward and away: a point, an NPC, or the nearest with a tag."),
    whole("choices", 0, 4e9, "", "After how many it is done; 0: goes on for ever."),
};

constexpr Key steer_keys[] = {
    needed(shape("steer", "terms", "Steers by a blend of behaviours.")),
    one_of("mode", "weighted|priority", "The mean of the behaviours, or the first ones first."),
    number("budget", 0, 1, "", "Of all urgency, by priority."),
    number("speed", 0, 100, "metres per second", "How fast; 0: as its gait."),
    number("least_speed", 0, 100, "metres per second", "It does not go slower, as birds do."),
    number("settle", 0, 10, "seconds", "In which time it takes up a change of what it wants."),
    number("queue_gap", 0, 1000, "metres", "It queues so far behind whoever walks ahead of it."),
};

constexpr Key teleport_step_keys[] = {needed(point("teleport", "Is put elsewhere at once."))};

constexpr Key sequence_keys[] = {
    needed(shape("sequence", "steps", "Does these one after another.")),
    whole("times", 0, 4e9, "", "How often; 1 by default, 0: for ever."),
};

constexpr Key term_keys[] = {
    point("seek", "Goes straight to a point, an NPC or the nearest with a tag."),
    point("arrive", "Goes there and stands within `within`."),
    point("flee", "Runs away from it while it is within `within`."),
    text("pursue", "Makes for where it meets the NPC."),
    text("evade", "Runs from where it would meet the NPC, while that is within `within`."),
    text("keep_distance", "Backs off from the NPC, and closes up, to stay in `band`."),
    text("follow_offset", "Keeps at `offset` from the NPC, in its frame."),
    shape("follow_path", "points", "Goes along the line through these points, looking `within` ahead."),
    number("wander", 0, 360, "degrees", "Wanders, by turns of at most that, one each `every`."),
    text("separation", "Keeps `within` apart from those with the tag; \"all\" for everybody."),
    text("alignment", "Goes the way that those with the tag go within `within`."),
    text("cohesion", "Goes to the middle of those with the tag within `within`."),
    text("avoid_obstacles", "Goes aside of those with the tag whom it would run into in `every` seconds."),
    flag("avoid_edges", "Turns away from edges of the ground within `within`."),
    number("weight", 0, 1000, "", "How much it counts; 1 by default."),
    number("within", 0.01, 100'000, "metres", "How far it looks, or how near it goes."),
    range("band", 0, 100'000, "metres", "Of keep_distance."),
    vector("offset", "metres", "Of follow_offset: ahead and to the left."),
    number("every", 0.05, 1e6, "seconds", "From turn to turn, or how far it looks ahead."),
    number("view_angle", 1, 360, "degrees",
           "Of those with a tag it minds whom it sees within it, half of it to either side; 360 by default."),
};

}  // namespace

constexpr Table scene_table{"scene", "A scene.", scene_keys};
constexpr Table detail_table{"detail", "Which characters decide less often, far from the players' views.",
                             detail_keys};
constexpr Table limits_table{"limits", "Upper limits for the score of each character.", limits_keys};
constexpr Table camera_table{
    "camera", "How the scene is seen in a window; exactly one of field_of_view, height and scale.",
    camera_keys};
constexpr Table click_table{"click", "A click for some characters; exactly one of to, screen and ray.",
                            click_keys};
constexpr Table ground_table{
    "ground",
    "The ground; exactly one of `open`, `tiles`, `plan`, `level` and `built`, and what goes with it.",
    ground_keys};
constexpr Table plan_table{"plan", "What can be walked on, drawn from above.", plan_keys};
constexpr Table plan_file_table{"plan", "A plan.", plan_file_keys, plan_keys};
constexpr Table region_table{"region", "Ground on which a way costs more.", region_keys};
constexpr Table wall_table{"wall", "A line with a thickness.", wall_keys};
constexpr Table terrain_table{"terrain", "A kind of surface.", terrain_keys};
constexpr Table barrier_table{"barrier", "A barrier; exactly one of box, disc and hull.", barrier_keys};
constexpr Table crossing_table{"crossing", "A way over something that is not walked.", crossing_keys};
constexpr Table move_table{"move", "Which barrier goes where.", move_keys};
constexpr Table lay_table{"lay", "Which terrain is laid where.", lay_keys};
constexpr Table gait_table{"gait", "How an NPC moves.", gait_keys};
constexpr Table body_table{"body", "The size of an NPC and what it can get over.", body_keys};
constexpr Table avoidance_table{"avoidance", "How an NPC keeps out of the way of others.", avoidance_keys};
constexpr Table npc_table{"npc", "A character.", npc_keys};
constexpr Table event_table{"event", "What happens at one time; exactly one thing besides `at`.", event_keys};
constexpr Table send_table{"send", "Sends a character somewhere.", send_keys};
constexpr Table condition_table{"condition", "Exactly one of signal, near, apart, arrived, stuck.",
                                condition_keys};
constexpr Table waypoint_table{"waypoint", "A point of a beat and what is done there.", waypoint_keys};
constexpr Table add_waypoint_table{"add_waypoint", "A waypoint that is added, and to what.",
                                   add_waypoint_keys, waypoint_keys};
constexpr Table move_waypoint_table{"move_waypoint", "Which waypoint goes where.", move_waypoint_keys};
constexpr Table remove_waypoint_table{"remove_waypoint", "Which waypoint is taken out.",
                                      remove_waypoint_keys};
constexpr Table go_to_table{"go_to", "Walks to a point.", go_to_keys, every_step_keys};
constexpr Table turn_to_table{"turn_to", "Turns on the spot.", turn_to_keys, every_step_keys};
constexpr Table pause_table{"pause", "Stands still for a time.", pause_keys, every_step_keys};
constexpr Table patrol_table{"patrol", "Walks a beat.", patrol_keys, every_step_keys};
constexpr Table wait_for_table{"wait_for", "Stands still until a signal.", wait_for_keys, every_step_keys};
constexpr Table roam_table{"roam", "Roams.", roam_keys, every_step_keys};
constexpr Table hop_table{"hop", "Hops from point to point.", hop_keys, every_step_keys};
constexpr Table follow_table{"follow", "Follows somebody.", follow_keys, every_step_keys};
constexpr Table chase_table{"chase", "Chases somebody.", chase_keys, every_step_keys};
constexpr Table flee_table{"flee", "Flees from somebody.", flee_keys, every_step_keys};
constexpr Table escort_table{"escort", "Escorts a leader.", escort_keys, every_step_keys};
constexpr Table march_table{"march", "Marches in formation.", march_keys, every_step_keys};
constexpr Table ease_to_table{"ease_to", "Moves to a point in a given time.", ease_to_keys, every_step_keys};
constexpr Table sway_table{"sway", "Sways there and back.", sway_keys, every_step_keys};
constexpr Table pace_table{"pace", "Paces to and fro.", pace_keys, every_step_keys};
constexpr Table wander_table{"wander", "Wanders.", wander_keys, every_step_keys};
constexpr Table flow_table{"flow", "Goes by a flow field.", flow_keys, every_step_keys};
constexpr Table thread_table{"thread", "Threads a maze.", thread_keys, every_step_keys};
constexpr Table steer_table{"steer", "Steers by a blend.", steer_keys, every_step_keys};
constexpr Table teleport_step_table{"teleport", "Is put elsewhere.", teleport_step_keys, every_step_keys};
constexpr Table sequence_table{"sequence", "Several things one after another.", sequence_keys,
                               every_step_keys};
constexpr Table gait_switch_table{"gait_switch", "A gait, and exactly one condition for it.",
                                  gait_switch_keys};
constexpr Table teleport_table{"put", "Puts a character elsewhere.", teleport_keys};
constexpr Table change_table{"change", "Changes the gait of a character.", change_keys};
constexpr Table on_touch_table{"on_touch", "What it does when another body touches it.", on_touch_keys};
constexpr Table act_table{"act", "What it does near whom it is after.", act_keys};
constexpr Table term_table{"term", "One behaviour of a blend; exactly one of the keys up to avoid_edges.",
                           term_keys};

std::span<const Table* const> step_tables() {
  static constexpr std::array tables = {
      &go_to_table,   &turn_to_table,       &pause_table,   &patrol_table, &wait_for_table, &roam_table,
      &hop_table,     &follow_table,        &chase_table,   &flee_table,   &escort_table,   &march_table,
      &ease_to_table, &sway_table,          &pace_table,    &wander_table, &flow_table,     &thread_table,
      &steer_table,   &teleport_step_table, &sequence_table};
  return tables;
}

const Key* find_key(const Table& table, std::string_view name) {
  for (const std::span<const Key> keys : {table.keys, table.common})
    if (const auto key = std::ranges::find(keys, name, &Key::name); key != keys.end()) return &*key;
  return nullptr;
}

}  // namespace ambulon::scene
