#include <gtest/gtest.h>

#include "base/geometry.hpp"
#include "scene/check.hpp"
#include "scene/play.hpp"

namespace ambulon {
namespace {

const std::string top = "format = \"ambulon-scene/1\"\nground = { open = true }\n";
const std::string market = top + "[place]\ngate = [2, 3]\nlamp-1 = [6.5, 3, 1]\n[gait.stroll]\nspeed = 1.3\n";

std::string npc(const std::string& rest) {
  return market + "[[npc]]\nname = \"porter\"\nat = \"gate\"\n" + rest;
}

TEST(Scene, ReadsWhatIsWritten) {
  const Expected<Scene> scene =
      read_scene_text("title = \"Quay\"\nseed = 7\nrate = 30\nlength = 9.5\n" + market + R"(
    [[npc]]
    name = "cat"
    at = [1, -2]
    heading = 90
    gait = { speed = 3, turn_rate = 180, turn_first = true }
    body = { radius = 0.15, height = 0.3 }
    repeat = true
    do = [
      { go_to = "lamp-1", within = 0.5, after = 2, time_limit = 9 },
      { turn_to = -90 },
      { pause = [1, 3], until = { near = "dog", distance = 4 } },
      { patrol = ["gate", { at = [4, 4], pause = 2, facing = "gate" }], order = "once", path = "curve", lap = 20, pause = [0.5, 1], start = "first" },
      { wait_for = "bell" },
      { go_to = "dog" },
    ]
    [[npc]]
    name = "dog"
    at = "gate"
    gait = "stroll"
    [[event]]
    at = 9
    remove = "dog"
    [[event]]
    at = 5
    send = { npc = "cat", to = "gate", within = 1 }
    )",
                      "quay.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  EXPECT_EQ(scene->title, "Quay");
  EXPECT_EQ(scene->seed, 7U);
  EXPECT_EQ(scene->rate, 30);
  EXPECT_EQ(scene->length, 9.5);
  EXPECT_EQ(scene->place_at({6.5f, 3, 0}), "lamp-1");
  const SceneNpc& cat = scene->npcs.at(0);
  EXPECT_EQ(cat.at.at, vec3(1, -2, 0));
  EXPECT_FLOAT_EQ(cat.heading, pi / 2);
  EXPECT_FLOAT_EQ(cat.gait.turn_rate, pi);
  EXPECT_TRUE(cat.gait.turn_first && cat.repeat);
  EXPECT_FLOAT_EQ(cat.body.radius, 0.15f);
  ASSERT_EQ(cat.steps.size(), 6U);
  EXPECT_EQ(std::get<GoToStep>(cat.steps[0].verb).to.at, vec3(6.5f, 3, 1));
  EXPECT_EQ(cat.steps[0].after, 2.f);
  EXPECT_EQ(cat.steps[0].time_limit, 9.f);
  EXPECT_FLOAT_EQ(*std::get<TurnToStep>(cat.steps[1].verb).heading, -pi / 2);
  EXPECT_EQ(cat.steps[2].until->npc, "dog");
  const PatrolStep& patrol = std::get<PatrolStep>(cat.steps[3].verb);
  EXPECT_EQ(patrol.beat->order(), BeatOrder::once);
  EXPECT_EQ(patrol.beat->path(), BeatPath::curve);
  EXPECT_EQ(patrol.options.lap, 20.f);
  EXPECT_EQ((*patrol.beat)[0].pause.max, 1.f);
  EXPECT_EQ((*patrol.beat)[1].pause.min, 2.f);
  EXPECT_NEAR(*(*patrol.beat)[1].facing, std::atan2(-1.f, -2.f), 1e-5f);
  EXPECT_EQ(std::get<GoToStep>(cat.steps[5].verb).to.npc, "dog");
  EXPECT_FLOAT_EQ(scene->npcs.at(1).gait.speed, 1.3f);
  EXPECT_EQ(scene->events.at(0).at, 5);  // in order of time
}

struct Broken {
  std::string text;
  std::string problem;  // how the message begins after the file's name
};

TEST(Scene, EveryMistakeIsNamedWithItsPlaceAndAWayOut) {
  const Broken all[] = {
      {"", "1:1: scene lacks the key \"format\""},
      {"format = \"ambulon-scene/2\"\nground = { open = true }\n",
       "1:10: format is \"ambulon-scene/2\"; it must be one of ambulon-scene/1 (did you mean"},
      {"format = \"ambulon-scene/1\"\n", "1:1: scene lacks the key \"ground\""},
      {top + "tilte = \"x\"", "3:1: unknown key \"tilte\" in scene (did you mean \"title\"?)"},
      {top + "weather = 3", "3:1: unknown key \"weather\" in scene"},
      {top + "rate = 0", "3:8: rate is 0; it must lie between 1 and 1000"},
      {top + "rate = 2.5", "3:8: rate must be a whole number"},
      {top + "length = nan", "3:10: length must be a finite number, not nan"},
      {top + "length = \"long\"", "3:10: length must be a number, not text"},
      {top + "title = 3", "3:9: title must be text in quotes, not a number"},
      {"format = \"ambulon-scene/1\"\nground = { open = false }", "2:19: open must be true"},
      {"format = \"ambulon-scene/1\"\nground = 3", "2:10: ground must be a table, not a number"},
      {top + "[place]\ngate = [1]", "4:8: place gate has 1 coordinates; it must be [x, y] or [x, y, z]"},
      {top + "[place]\ngate = [1, inf]", "4:12: a coordinate of place gate must be a finite number"},
      {top + "[place]\ngate = [1, 2]\ngate = [3, 4]", "5:8: "},
      {top + "[gait.run]\nspeed = -2",
       "4:9: speed is -2; it must lie between 0.01 and 100 metres per second"},
      {top + "[gait.run]\nturn_frist = true",
       "4:1: unknown key \"turn_frist\" in gait (did you mean \"turn_first\"?)"},
      {top + "npc = 3", "3:7: npc ([[npc]]) must be a list, not a number"},
      {npc("gait = \"strol\""),
       "11:8: gait is \"strol\", but the scene has no gait of that name (did you mean \"stroll\"?)"},
      {npc("heading = 400"), "11:11: heading is 400; it must lie between -360 and 360 degrees"},
      {npc("[[npc]]\nname = \"porter\"\nat = [0, 0]"), "12:8: name \"porter\" is used twice"},
      {npc("[[npc]]\nname = \"gate\"\nat = [0, 0]"), "12:8: name \"gate\" is also a place's"},
      {npc("[[npc]]\nname = \"cat\"\nat = \"porter\""), "13:6: at is the NPC porter, which moves"},
      {npc("do = [ { go_to = \"lamp1\" } ]"),
       "11:18: go_to is \"lamp1\", but no place or NPC has that name (did you mean \"lamp-1\"?)"},
      {npc("do = [ { goto = \"gate\" } ]"), "11:8: an entry of do has no verb (did you mean \"go_to\"?)"},
      {npc("do = [ { xylophone = \"gate\" } ]"),
       "11:8: an entry of do has no verb; it must be one of go_to, turn_to, pause, patrol, wait_for, roam"},
      {npc("do = [ { go_to = \"gate\", turn_to = 3 } ]"),
       "11:8: an entry of do has two verbs, go_to and turn_to; make them two entries"},
      {npc("do = [ { roam = 5, not_nearer = 6 } ]"),
       "11:33: not_nearer is 6, which leaves nothing of the 5 m"},
      {top + "[camera.roof]\neye = [0, 0, 9]", "3:1: a camera has one of field_of_view, height and scale"},
      {top + "[camera.roof]\nheight = 9", "3:1: the camera lacks the keys eye and target"},
      {top + "[camera.roof]\nheight = 9\neye = [1, 1]\ntarget = [1, 1]",
       "3:1: the camera's eye is at its target"},
      {npc("[[event]]\nat = 1\nclick = { who = [\"porter\"] }"),
       "13:9: a click has one of to, screen and ray"},
      {npc("[[event]]\nat = 1\nclick = { who = [], to = \"gate\" }"), "13:17: who is empty"},
      {npc("[[event]]\nat = 1\nclick = { who = [\"portr\"], to = \"gate\" }"),
       "13:18: who is \"portr\", but no NPC has that name or tag (did you mean \"porter\"?)"},
      {npc("[[event]]\nat = 1\nclick = { who = [\"porter\"], screen = [1, 2] }"),
       "13:9: screen and camera belong together"},
      {npc("[[event]]\nat = 1\nclick = { who = [\"porter\"], screen = [1, 2], camera = \"rof\" }\n"
           "[camera.roof]\nscale = 1"),
       "13:55: camera is \"rof\", but the scene has no camera of that name (did you mean \"roof\"?)"},
      {npc("[[event]]\nat = 1\nclick = { who = [\"porter\"], ray = [[0, 0, 1], [0, 0, 0]] }"),
       "13:35: ray has no direction"},
      {npc("[[event]]\nat = 1\nclick = { who = [\"porter\"], to = \"gate\", then = true, hold = true }"),
       "13:49: then goes with single clicks"},
      {npc("do = [ { follow = \"portr\" } ]"),
       "11:19: follow is \"portr\", but no NPC has that name or tag (did you mean \"porter\"?)"},
      {npc("do = [ { follow = \"porter\", stop = 3, resume = 2 } ]"),
       "11:48: resume is 2, which is less than stop (3)"},
      {npc("do = [ { escort = \"porter\", leash = 2, ring = [1, 3] } ]"),
       "11:37: leash is 2, which is less than the ring (3)"},
      {npc("do = [ { ease_to = \"gate\" } ]"),
       "11:8: ease_to lacks the key \"seconds\": Duration of the move."},
      {npc("do = [ { sway = [1, 2, 3, 4] } ]"), "11:17: sway has 4 parts; it must be [x, y] or [x, y, z]"},
      {npc("do = [ { pace = false } ]"), "11:17: pace must be true"},
      {npc("do = [ { steer = [] } ]"), "11:18: steer is empty"},
      {npc("do = [ { steer = [ { weight = 2 } ] } ]"),
       "11:20: an entry of steer has 0 behaviours; it must have one"},
      {npc("do = [ { steer = [ { separation = \"moth\" } ] } ]"),
       "11:35: separation is \"moth\", but no NPC has that name or tag"},
      {npc("do = [ { sequence = [] } ]"), "11:21: sequence is empty"},
      {npc("do = [ { pause = 1, gait = \"trott\" } ]"),
       "11:28: gait is \"trott\", but the scene has no gait of that name"},
      {npc("body = { passes = [\"moth\"] }"), "11:19: passes names \"moth\", but no NPC has that tag"},
      {npc("tags = [\"porter\"]"), "11:8: tags names \"porter\", which is an NPC"},
      {npc("[[event]]\nat = 1\nsuspend = \"portr\""),
       "13:11: suspend is \"portr\", but no NPC has that name"},
      {npc("do = [ { go_to = \"gate\", witin = 3 } ]"),
       "11:26: unknown key \"witin\" in go_to (did you mean \"within\"?)"},
      {npc("do = [ { pause = [3, 1] } ]"),
       "11:18: pause runs from 3 down to 1; put the smaller number first"},
      {npc("do = [ { pause = -1 } ]"), "11:18: pause is -1; it must lie between 0 and 1000000 seconds"},
      {npc("do = [ { turn_to = 700 } ]"), "11:20: turn_to is 700 degrees; it must lie between -360 and 360"},
      {npc("do = [ { patrol = [] } ]"), "11:19: patrol is empty; give it at least one waypoint"},
      {npc("do = [ { patrol = [\"gate\"], order = \"round\" } ]"),
       "11:37: order is \"round\"; it must be one of around, back_and_forth, once, shuffled (did you mean "
       "\"around\"?)"},
      {npc("do = [ { patrol = [\"gate\", \"lamp-1\"], order = \"shuffled\", lap = 9 } ]"),
       "11:65: lap is given, but a shuffled beat has no lap"},
      {npc("do = [ { patrol = [\"gate\", \"lamp-1\"], order = \"shuffled\", path = \"curve\" } ]"),
       "11:66: path is curve, but a shuffled beat has no curve"},
      {npc("do = [ { patrol = [\"gate\", \"porter\"] } ]"),
       "11:28: a waypoint is the NPC porter, which moves; it must be a place or coordinates"},
      {npc("do = [ { pause = 1, until = {} } ]"),
       "11:29: the condition has 0 of the keys signal, near, apart, arrived and stuck; it must have one"},
      {npc("do = [ { pause = 1, until = { near = \"porter\" } } ]"),
       "11:29: the condition lacks the key \"distance\""},
      {npc("do = [ { pause = 1, until = { near = \"thief\", distance = 1 } } ]"),
       "11:38: near is \"thief\", but no NPC has that name"},
      {npc("[[event]]\nat = 3"),
       "11:1: the event has 0 of the keys signal, send, click, release, remove, suspend, resume, teleport, "
       "change, put, move,"},
      {npc("[[event]]\nat = 3\nremove = \"portre\""),
       "13:10: remove is \"portre\", but no NPC has that name (did you mean \"porter\"?)"},
      {npc("[[event]]\nat = 3\nremove_waypoint = { npc = \"portre\", number = 1 }"),
       "13:27: npc is \"portre\", but no NPC has that name (did you mean \"porter\"?)"},
      {npc("[[event]]\nat = 3\nremove_waypoint = { npc = \"porter\", number = 1 }"),
       "13:27: npc names \"porter\", which neither patrols nor hops"},
      {npc("do = [ { patrol = [\"gate\"] } ]\n[[event]]\nat = 3\nremove_waypoint = { npc = \"porter\", "
           "number = "
           "1, list = 2 }"),
       "14:56: list is 2, but porter has 1 patrol or hop only"},
      {npc("do = [ { patrol = [\"gate\"] } ]\n[[event]]\nat = 3\nmove_waypoint = { npc = \"porter\", number "
           "= 2, to "
           "= \"gate\" }\n[[event]]\nat = 2\nremove_waypoint = { npc = \"porter\", number = 1 }"),
       "12:1: porter has no waypoint 2 at 3 s; it has 0 then"},
      {npc("on_touch = { signal = \"caught\", tags = [\"moth\"] }"),
       "11:40: tags names \"moth\", but no NPC has that tag"},
      {npc("do = [ { pause = 1, patience = 3 } ]"), "11:21: unknown key \"patience\" in pause"},
      {npc("gait = { patience = 0.01 }"), "11:8: gait patience is 0.01 s; it must lie between 0.1 and"},
      {npc("[[event]]\nat = -3\nsignal = \"bell\""), "12:6: at is -3; it must lie between 0 and"},
      {top + "title = \"never closed", "3:"},
  };
  for (const Broken& broken : all) {
    const auto scene = read_scene_text(broken.text, "quay.toml");
    ASSERT_FALSE(scene) << broken.text;
    EXPECT_EQ(scene.error().text.substr(0, 10 + broken.problem.size()), "quay.toml:" + broken.problem)
        << scene.error().text;
  }
}

TEST(Scene, ManyAlikeBeginApartAroundTheirPlace) {
  const std::string head =
      "format = \"ambulon-scene/1\"\nlength = 5\n[ground]\nplan = { outline = [[[0, 0], [12, 0], [12, 9], "
      "[0, 9]]] }\n"
      "[[npc]]\nname = \"duck\"\n";
  const Scene scene = *read_scene_text(
      head + "at = [1, 1]\ncount = 40\nspacing = 0.7\nbody = { radius = 0.2 }\ndo = [ { go_to = [9, 5] } ]\n",
      "ducks.toml");
  ASSERT_EQ(scene.npcs.size(), 40U);
  EXPECT_EQ(scene.npcs[39].name, "duck 40");
  EXPECT_EQ(scene.npcs[0].tags, std::vector<std::string>{"duck"});
  const auto play = *Play::start(scene);
  for (const Npc& a : play->npcs())
    for (const Npc& b : play->npcs())
      if (a.id().slot < b.id().slot) {
        EXPECT_GT(flat_distance(a.position(), b.position()), 0.69f);
      }
  EXPECT_TRUE(check(scene).empty());
  EXPECT_NE(play->world().find("duck 17").id().generation, 0U);

  const auto error = [&](const std::string& text) {
    const auto read = read_scene_text(head + text, "ducks.toml");
    if (!read) return read.error().text;
    const auto start = Play::start(*read);
    return start ? "" : start.error().text;
  };
  EXPECT_EQ(error("at = [1, 1]\ncount = 0\n"), "ducks.toml:8:9: count is 0; it must lie between 1 and 10000");
  EXPECT_NE(error("at = [1, 1]\nspacing = 2\n").find("given without count"), std::string::npos);
  EXPECT_NE(error("at = [1, 1]\ncount = 2\n[[npc]]\nname = \"duck 2\"\nat = [3, 3]\n").find("is used twice"),
            std::string::npos);
  EXPECT_NE(error("at = [1, 1]\ncount = 10000\n[[npc]]\nname = \"cat\"\nat = [3, 3]\n").find("10000 others"),
            std::string::npos);
  EXPECT_NE(error("at = [6, 4]\ncount = 40\nspacing = 5\n").find("there is no room for it 5 m apart"),
            std::string::npos);
}

TEST(Scene, ATruncatedFileIsRefusedAtWhateverByteItEnds) {
  const std::string whole =
      npc("do = [ { patrol = [\"gate\", { at = [1, 2], pause = [1, 2] }] }, { wait_for = \"bell\" } "
          "]\n[[event]]\nat = 3\nsignal = \"bell\"\n");
  ASSERT_TRUE(read_scene_text(whole, "quay.toml")) << read_scene_text(whole, "quay.toml").error().text;
  for (std::size_t length = 0; length < whole.size(); ++length) {
    const auto scene = read_scene_text(whole.substr(0, length), "quay.toml");
    if (!scene) {
      EXPECT_EQ(scene.error().text.substr(0, 10), "quay.toml:") << length;
    }
  }
}

TEST(Scene, AFileThatIsNotThereIsSaid) {
  EXPECT_EQ(read_scene("no/such.toml").error().text,
            "no/such.toml: cannot be read; is it there, is it a file, and not empty?");
  EXPECT_FALSE(read_scene("/"));
}

}  // namespace
}  // namespace ambulon
