#include "scene/play.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// The play of a scene, and all sentences of its journal after it was played.
struct Played {
  Scene scene;
  std::unique_ptr<Play> play;
  std::string told;

  Played(const std::string& text, double seconds)
      : scene(read_scene_text("format = \"ambulon-scene/1\"\nground = { open = true }\n[place]\ngate = [0, "
                              "0]\nlamp = [6, 0]\n" +
                                  text,
                              "test")
                  .value()),
        play(Play::start(scene).value()) {
    while (play->world().time() < seconds - 1e-6) play->tick();
    const Journal& journal = play->world().journal();
    for (auto number = journal.first(); number < journal.next(); ++number)
      told += play->sentence(journal[number]) + "\n";
  }
  Npc npc(const char* name) { return play->world().find(name); }
};

TEST(Play, WorksThroughAListAndStartsOverWhenAskedTo) {
  Played once(
      "[[npc]]\nname = \"cat\"\nat = \"gate\"\ndo = [ { go_to = \"lamp\" }, { turn_to = 90 }, { pause = 1, "
      "after = 0.5 } ]",
      60);
  EXPECT_FALSE(once.npc("cat").busy());
  EXPECT_NEAR(once.npc("cat").heading(), pi / 2, 0.02f);
  EXPECT_TRUE(contains(once.told, "cat was given the order go_to, to lamp"));
  Played over(
      "[[npc]]\nname = \"cat\"\nat = \"gate\"\nrepeat = true\ndo = [ { go_to = \"lamp\" }, { go_to = "
      "\"gate\" } ]",
      60);
  EXPECT_GT(over.npc("cat").statistics().arrivals, 8U);
}

TEST(Play, ForAndUntilEndAStep) {
  Played play(R"([[npc]]
name = "cat"
at = "gate"
do = [ { wait_for = "never", time_limit = 2 }, { patrol = ["gate", "lamp"], until = { signal = "bell" } }, { go_to = [50, 0], until = { near = "dog", distance = 3 } }, { turn_to = "dog" } ]
[[npc]]
name = "dog"
at = [20, 0]
[[event]]
at = 9
signal = "bell")",
              40);
  EXPECT_TRUE(contains(play.told, "cat's wait_for ended as timed_out: its time limit of 2 s has passed"));
  EXPECT_TRUE(contains(play.told, "cat's patrol ended as cancelled"));
  EXPECT_LE(flat_distance(play.npc("cat").position(), {20, 0, 0}), 3.f);
  EXPECT_GT(flat_distance(play.npc("cat").position(), {20, 0, 0}), 2.5f);
}

TEST(Play, WhoIsSentElsewhereTakesUpItsWorkAgain) {
  Played play(R"([[npc]]
name = "porter"
at = "gate"
do = [ { patrol = ["gate", "lamp"] } ]
[[event]]
at = 5
send = { npc = "porter", to = [3, 9] }
[[event]]
at = 30
remove = "porter")",
              32);
  EXPECT_TRUE(contains(play.told, "porter's patrol ended as replaced: it was replaced by the order go_to"));
  EXPECT_TRUE(contains(play.told, "porter's go_to ended as arrived"));
  const auto back = play.told.find("was given the order patrol", play.told.find("go_to ended as arrived"));
  EXPECT_NE(back, std::string::npos) << play.told;
  EXPECT_FALSE(play.play->npcs()[0].alive());
  EXPECT_GT(play.play->statistics(0).metres, 20);  // kept after it was removed
  EXPECT_EQ(play.play->world().size(), 0U);
}

TEST(Play, SequencesRepeatAndEndByTheirConditionsLikeAnythingElse) {
  Played play(R"([[npc]]
name = "cat"
at = "gate"
do = [
  { sequence = [ { go_to = "lamp" }, { go_to = "gate" } ], times = 2 },
  { sequence = [ { go_to = "lamp" }, { pause = 100 } ], times = 0, time_limit = 8 },
  { go_to = [0, 5], when = { signal = "bell" }, gait = { speed = 3 } },
]
[[event]]
at = 40
signal = "bell")",
              60);
  EXPECT_EQ(play.npc("cat").statistics().arrivals, 6U);
  EXPECT_TRUE(contains(play.told, "cat's pause ended as cancelled"));
  EXPECT_EQ(play.npc("cat").gait().speed, 3);
  EXPECT_NEAR(play.npc("cat").position().y, 5, 0.4f);
}

TEST(Play, EveryVerbOfASceneDoesWhatItsNameSays) {
  Played play(R"([[npc]]
name = "leader"
at = [20, 20]
gait = { speed = 1 }
do = [ { go_to = [30, 20] } ]
[[npc]]
name = "roamer"
at = "gate"
do = [ { roam = 5, not_nearer = 1, visits = 2 } ]
[[npc]]
name = "hopper"
at = "gate"
do = [ { hop = [ "gate", { at = "lamp", weight = 2, pause = 0.5 } ], visits = 2 } ]
[[npc]]
name = "follower"
at = [15, 20]
do = [ { follow = "leader", stop = 1, resume = 2, act = { within = 2, enter = "met" } } ]
[[npc]]
name = "chaser"
at = [20, 12]
gait = { speed = 3 }
do = [ { chase = "leader" } ]
[[npc]]
name = "fugitive"
at = [21, 25]
gait = { speed = 4 }
do = [ { flee = "leader", reach = 9 } ]
[[npc]]
name = "companion"
at = [19, 20]
do = [ { escort = "leader", leash = 3, ring = [1, 2] } ]
[[npc]]
name = "marcher"
count = 3
at = [9, 12]
do = [ { march = [14, 12], formation = "line", spacing = 1.5 } ]
[[npc]]
name = "glider"
at = "gate"
do = [ { ease_to = "lamp", seconds = 3, easing = "linear", turn = "never" } ]
[[npc]]
name = "swayer"
at = [0, 9]
do = [ { sway = [2, 0], frequency = 0.5, times = 2 } ]
[[npc]]
name = "pacer"
at = [0, -9]
tags = ["crab"]
do = [ { pace = true, heading = 90, turns = 1, time_limit = 4 } ]
[[npc]]
name = "wanderer"
at = [-9, 0]
do = [ { wander = 40, every = 1, radius = 3, time_limit = 9 } ]
[[npc]]
name = "steerer"
at = [-9, 9]
do = [ { steer = [ { seek = "gate" }, { separation = "crab", within = 1 } ], time_limit = 3 } ]
[[npc]]
name = "jumper"
at = "gate"
do = [ { teleport = [-3, -3] } ]
[[npc]]
name = "waiter"
at = [9, -9]
do = [ { wait_for = "met" } ])",
              20);
  for (const char* line :
       {"roamer's roam ended as done: it has done so 2 times", "hopper's hop ended as done",
        "follower was given the order follow, after leader", "follower came near leader",
        "chaser's chase ended as arrived", "fugitive's flee ended as done",
        "glider's ease_to ended as arrived", "swayer's sway ended as done",
        "pacer's pace ended as timed_out: its time limit of 4 s has passed",
        "wanderer's wander ended as timed_out", "steerer's steer ended as timed_out",
        "marcher 3's march ended as arrived", "jumper was teleported to (-3.00, -3.00)",
        "waiter's wait_for ended as done"})
    EXPECT_TRUE(contains(play.told, line)) << line << "\n" << play.told;
  EXPECT_LT(flat_distance(play.npc("companion").position(), play.npc("leader").position()), 2.3f);
  float low = 99.f, high = -99.f;  // abreast, 1.5 m apart
  for (const char* name : {"marcher 1", "marcher 2", "marcher 3"}) {
    low = std::min(low, play.npc(name).position().y), high = std::max(high, play.npc(name).position().y);
    EXPECT_NEAR(play.npc(name).position().x, 14.f, 0.5f);
  }
  EXPECT_NEAR(high - low, 3.f, 0.5f);
}

TEST(Play, ScenesSayWhoThinksLessOftenAndHowMuchWorkWaysMayTake) {
  const std::string scene = R"(format = "ambulon-scene/1"
route_work = 3
detail = { viewers = [[900, 0]], near = 5, max_interval = 4 }
[ground]
tiles = ["....................", ".####.####.####.####", "...................."]
[[npc]]
name  = "cat"
count = 20
at    = [10, 0.5]
spacing = 0.9
body  = { radius = 0.2 }
do    = [ { go_to = [1, 2.5] } ])";
  const Scene read = read_scene_text(scene, "market.toml").value();
  EXPECT_EQ(read.route_work, 3U);
  const auto play = Play::start(read).value();
  for (int tick = 0; tick < 120; ++tick) play->tick();
  EXPECT_GT(play->world().route_figures().longest_wait, 0.05);
  EXPECT_LT(play->world().deciding(), 15U);
  EXPECT_FALSE(
      read_scene_text("detail = { near = 3 }\n" + scene, "market.toml"));  // the key twice, and no viewers
}

TEST(Play, ManyBeginBesideThoseWhoAreThere) {
  const Scene read = read_scene_text(R"(format = "ambulon-scene/1"
[ground]
open = true
[[npc]]
name  = "cat"
count = 20
at    = [10, 5]
spacing = 0.5
body  = { radius = 0.2 }
[[npc]]
name  = "duck"
count = 20
at    = [10.3, 5]
spacing = 0.6
body  = { radius = 0.3, height = 0.3 }
[[npc]]
name  = "porter"
at    = [10, 5.1])",
                                     "market.toml")
                         .value();
  const auto play = Play::start(read).value();
  const auto npcs = play->npcs();
  ASSERT_EQ(npcs.size(), 41U);
  for (std::size_t i = 0; i < npcs.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      EXPECT_GT(flat_distance(npcs[i].position(), npcs[k].position()),
                npcs[i].body().radius + npcs[k].body().radius - 1e-3f)
          << npcs[i].name() << " and " << npcs[k].name();
}

TEST(Play, EventsHaltPutElsewhereAndChangeAndGaitsSwitchByDistanceAndSignal) {
  Played play(R"([[npc]]
name = "cat"
at = "gate"
gait = { speed = 1 }
switch = [ { gait = { speed = 2 }, near = "dog", distance = 4 }, { gait = { speed = 0.5 }, signal = "bell" } ]
do = [ { go_to = [30, 0] } ]
[[npc]]
name = "dog"
at = [10, 2]
[[event]]
at = 2
suspend = "cat"
[[event]]
at = 5
resume = "cat"
[[event]]
at = 8
teleport = { npc = "cat", to = [6.5, 0] }
[[event]]
at = 12
signal = "bell"
[[event]]
at = 14
change = { npc = "dog", gait = { speed = 5 } })",
              15);
  const auto order = [&](const char* a, const char* b) {
    EXPECT_LT(play.told.find(a), play.told.find(b)) << a << "\n" << play.told;
  };
  order("cat was suspended", "cat resumes its order");
  order("cat resumes its order", "cat was teleported to");
  order("cat was teleported to", "cat moves at 2.00 m/s");
  order("cat moves at 2.00 m/s", "cat moves at 0.50 m/s");
  EXPECT_EQ(play.npc("dog").gait().speed, 5);
  EXPECT_EQ(play.npc("cat").gait().speed, 0.5f);
}

TEST(Play, AChangeOfAGaitChangesWhatItSaysAndNothingElse) {
  Played played(
      "[gait.cart]\nspeed = 0.9\nacceleration = 1\nmass = 2\n"
      "[[npc]]\nname = \"porter\"\nat = [0, 3]\ngait = { speed = 2, rounding = 0.4, mass = 2 }\n"
      "[[npc]]\nname = \"cat\"\nat = [0, 6]\ngait = { speed = 3, clearance = 0.5 }\n"
      "[[event]]\nat = 1\nchange = { npc = \"porter\", gait = { mass = 4 } }\n"
      "[[event]]\nat = 2\nchange = { npc = \"porter\", gait = { turn_rate = 90 } }\n"
      "[[event]]\nat = 1\nchange = { npc = \"cat\", gait = \"cart\" }\n"
      "[[event]]\nat = 2\nchange = { npc = \"cat\", gait = { mass = 1 } }\n"
      "[[event]]\nat = 3\nteleport = { npc = \"cat\", to = [500000, 0] }\n",
      4);
  const Gait porter = played.npc("porter").gait(), cat = played.npc("cat").gait(), usual;
  EXPECT_EQ(porter.speed, 2);
  EXPECT_EQ(porter.rounding, 0.4f);
  EXPECT_NEAR(porter.acceleration, usual.acceleration / 4, 1e-4);
  EXPECT_NEAR(porter.turn_rate, radians(90.f), 1e-4);
  EXPECT_EQ(cat.speed, 0.9f);
  EXPECT_EQ(cat.clearance, 0);
  EXPECT_NEAR(cat.acceleration, 1, 1e-4);
  EXPECT_NEAR(cat.turn_rate, usual.turn_rate, 1e-4);
  EXPECT_TRUE(contains(played.told, "cat was not teleported: the goal is off the ground")) << played.told;
}

TEST(Play, EventsChangeTheWaypointsOfOnesWhoWalkThem) {
  const std::string scene = R"([[npc]]
name = "lamplighter"
at = "gate"
do = [ { sequence = [ { patrol = ["gate", "lamp"], time_limit = 18 }, { hop = [[0, 3], [0, 4]] } ] } ]
[[npc]]
name = "cats"
count = 3
at = [20, 20]
do = [ { patrol = [[20, 20], [24, 20]] } ]
[[event]]
at = 2
add_waypoint = { npc = "lamplighter", at = [0, 6], before = 1, pause = 1 }
[[event]]
at = 3
move_waypoint = { npc = "lamplighter", number = 3, to = [8, 0] }
[[event]]
at = 4
remove_waypoint = { npc = "lamplighter", list = 2, number = 1 }
[[event]]
at = 4
add_waypoint = { npc = "lamplighter", list = 2, at = [0, 9] }
[[event]]
at = 1
add_waypoint = { npc = "cats", at = [22, 26] })";
  Played play(scene, 60);
  EXPECT_TRUE(contains(play.told, "lamplighter reached waypoint 3 of 3, (8.00, 0.00)")) << play.told;
  EXPECT_TRUE(contains(play.told, "lamplighter reached waypoint 1 of 3, (0.00, 6.00)")) << play.told;
  EXPECT_TRUE(contains(play.told, "lamplighter reached (0.00, 9.00)")) << play.told;
  EXPECT_FALSE(contains(play.told, "lamplighter reached (0.00, 3.00)"));
  for (const char* cat : {"cats 1", "cats 2", "cats 3"})
    EXPECT_TRUE(contains(play.told, std::string(cat) + " reached waypoint 3 of 3, (22.00, 26.00)"));
  // The scene itself stays as it was read.
  EXPECT_EQ(std::get<PatrolStep>(play.scene.npcs[1].steps[0].verb).beat->size(), 2U);
  const auto twice = Play::start(play.scene).value();
  while (twice->world().time() < 60 - 1e-6) twice->tick();
  EXPECT_EQ(twice->world().journal().next(), play.play->world().journal().next());
  // An event that comes too late says so and changes nothing.
  for (const char* late : {"remove_waypoint = { npc = \"cats 2\", number = 4 }",
                           "move_waypoint = { npc = \"cats\", number = 4, to = \"gate\" }",
                           "add_waypoint = { npc = \"cats\", at = \"gate\", before = 4 }"}) {
    const auto event = read_event(std::string("at = 0\n") + late, play.scene, {});
    ASSERT_TRUE(event) << event.error().text;
    const auto done = play.play->happen(*event);
    ASSERT_FALSE(done);
    EXPECT_EQ(done.error().text, "cats has no waypoint 4; it has 3 now");
    EXPECT_EQ(play.npc("cats 1").beat()->size(), 3U);
  }
}

TEST(Play, AChangedSceneKeepsTheWaypointsOfThoseWhoseStepsAreTheSame) {
  const auto text = [](const char* lamp, const char* cat) {
    return fmt::format(
        "format = \"ambulon-scene/1\"\nground = {{ open = true }}\n"
        "[[npc]]\nname = \"lamplighter\"\nat = [0, 0]\ndo = [ {{ patrol = [[0, 0], {}] }} ]\n"
        "[[npc]]\nname = \"cat\"\nat = [0, 9]\ndo = [ {{ patrol = [[0, 9], {}] }} ]\n",
        lamp, cat);
  };
  const auto scene = [&](const char* lamp, const char* cat) {
    return std::make_shared<const Scene>(read_scene_text(text(lamp, cat), "test").value());
  };
  const auto first = scene("[5, 0]", "[5, 9]");
  const auto play = Play::start(first).value();
  Scene names = *first;
  for (const char* npc : {"cat", "lamplighter"})
    ASSERT_TRUE(play->happen(
        *read_event(fmt::format("at = 0\nadd_waypoint = {{ npc = \"{}\", at = [3, 3] }}", npc), names, {})));
  for (int i = 0; i < 30; ++i) play->tick();
  ASSERT_TRUE(play->reload(scene("[5, 0]", "[6, 9]")));
  for (int i = 0; i < 30; ++i) play->tick();
  EXPECT_EQ(play->world().find("lamplighter").beat()->size(), 3U);
  EXPECT_EQ(play->world().find("cat").beat()->size(), 2U);
}

TEST(Play, ATouchGivesASignalAndStepsHaveTheirOwnPatience) {
  Played play(R"([[npc]]
name = "cat"
at = [3, 0]
tags = ["cats"]
[[npc]]
name = "thief"
at = [0, 0]
on_touch = { signal = "caught", tags = ["constables"] }
do = [ { go_to = [9, 0], until = { signal = "caught" }, patience = 2 }, { turn_to = 90 } ]
[[npc]]
name = "constable"
at = [6, 0]
tags = ["constables"])",
              10);
  EXPECT_TRUE(contains(play.told, "thief touches constable, at a closing speed of 1.40 m/s")) << play.told;
  EXPECT_FALSE(contains(play.told, "touches cat"));
  EXPECT_TRUE(contains(play.told, "the signal \"caught\" was given")) << play.told;
  EXPECT_NEAR(play.npc("thief").position().x, 5.55f, 0.1f);  // it brakes
  EXPECT_EQ(read_scene_text("format = \"ambulon-scene/1\"\npatience = 7\nground = { open = true }", "test")
                ->patience,
            7);
  EXPECT_EQ(play.scene.npcs[1].steps[0].patience, 2);
}

TEST(Play, RoundsThatComeToNothingAreRepeatedSeldom) {
  for (const char* steps : {"{ go_to = [500000, 0] }", "{ go_to = [0, 3] }",
                            "{ sequence = [ { go_to = [0, 3] } ], times = 0 }", "{ teleport = [0, 3] }"}) {
    Played played(fmt::format("[[npc]]\nname = \"porter\"\nat = [0, 3]\ndo = [ {} ]\nrepeat = true\n", steps),
                  60);
    const auto orders = std::count(played.told.begin(), played.told.end(), '\n');
    EXPECT_GE(orders, 5) << steps;
    EXPECT_LE(orders, 30) << steps;
  }
}

TEST(Play, EventsClickByPointOfTheWindowByRayAndByPlace) {
  Played played(
      "[camera.above]\nscale = 10\norigin = [100, 300]\n"
      "[camera.roof]\neye = [0, -10, 10]\ntarget = [0, 0, 0]\nfield_of_view = 60\nsize = [400, 400]\n"
      "[[npc]]\nname = \"cat\"\nat = \"gate\"\ndo = [ { wait_for = \"dawn\" } ]\n"
      "[[npc]]\nname = \"one\"\nat = [0, 9]\ntags = [\"porters\"]\n"
      "[[npc]]\nname = \"two\"\nat = [0, 11]\ntags = [\"porters\"]\n"
      "[[npc]]\nname = \"dog\"\nat = [0, -9]\n"
      "[[event]]\nat = 1\nclick = { who = [\"cat\"], camera = \"above\", screen = [120, 280], within = 0.05 "
      "}\n"
      "[[event]]\nat = 1\nclick = { who = [\"porters\"], to = \"lamp\", within = 0.05 }\n"
      "[[event]]\nat = 2\nclick = { who = [\"porters\"], to = [6, 3], then = true, within = 0.05 }\n"
      "[[event]]\nat = 1\nclick = { who = [\"dog\"], camera = \"roof\", screen = [200, 200], hold = true }\n"
      "[[event]]\nat = 9\nclick = { who = [\"dog\"], ray = [[-3, 0, 5], [0, 0, -2]], hold = true }\n"
      "[[event]]\nat = 15\nrelease = [\"dog\"]\n"
      "[[event]]\nat = 16\nclick = { who = [\"cat\"], ray = [[0, 0, 5], [0, 0, 1]] }\n",
      30);
  EXPECT_LT(flat_distance(played.npc("cat").position(), {2, 2, 0}), 0.06f);
  EXPECT_EQ(played.npc("cat").errand().name, "wait_for");  // it has resumed its work
  EXPECT_LT(flat_distance(played.npc("one").position(), {6, 2, 0}), 0.06f);
  EXPECT_LT(flat_distance(played.npc("two").position(), {6, 4, 0}), 0.06f);
  EXPECT_LT(flat_distance(played.npc("dog").position(), {-3, 0, 0}), 0.31f);
  EXPECT_FALSE(played.npc("dog").busy());
  EXPECT_TRUE(contains(played.told, "dog was given the order click_to_move, to gate")) << played.told;
  EXPECT_TRUE(contains(played.told, "one sets out for (6.00, 2.00)")) << played.told;
  EXPECT_TRUE(contains(played.told, "cat was not sent: the click hit nothing but sky"));
}

TEST(Play, ASceneThatCannotBePutUpSaysWhereAndWhy) {
  const Scene scene =
      read_scene_text(
          "format = \"ambulon-scene/1\"\nground = { open = true }\n[[npc]]\nname = \"moth\"\nat = [2e5, 0]\n",
          "far.toml")
          .value();
  EXPECT_EQ(Play::start(scene).error().text,
            "far.toml:3:1: moth: (200000.00, 0.00) is off the ground; the nearest spot is (100000.00, 0.00), "
            "100000.00 m off");
}

TEST(Play, TheDemoRunsItsBeatsAndIsTheSameEachTime) {
  const auto ends = [] {
    const Scene scene = read_scene(AMBULON_SOURCE_DIR "/demo/lantern-quay.toml").value();
    const auto play = Play::start(scene).value();
    while (play->world().time() < scene.length) play->tick();
    std::vector<float> state;
    for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
      EXPECT_GT(play->statistics(i).arrivals, 0U) << scene.npcs[i].name;
      for (const Ending bad : {Ending::stuck, Ending::off_ground, Ending::no_route, Ending::refused})
        EXPECT_EQ(play->statistics(i).endings[static_cast<std::size_t>(bad)], 0U) << scene.npcs[i].name;
      state.insert(state.end(),
                   {play->motion(i).position.x, play->motion(i).position.y, play->motion(i).heading()});
    }
    // The watch keeps its times: three laps of forty seconds.
    int laps = 0;
    const Journal& journal = play->world().journal();
    for (auto number = journal.first(); number < journal.next(); ++number)
      if (const Note& note = journal[number];
          note.event == Event::lap && play->sentence(note).starts_with("watch")) {
        EXPECT_NEAR(note.value, 40.f, 0.4f);
        ++laps;
      }
    EXPECT_GE(laps, 2);
    return state;
  };
  EXPECT_EQ(ends(), ends());
}

}  // namespace
}  // namespace ambulon
