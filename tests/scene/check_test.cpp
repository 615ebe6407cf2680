#include "scene/check.hpp"

#include <algorithm>

#include <gtest/gtest.h>

namespace ambulon {
namespace {

const std::string top = R"(format = "ambulon-scene/1"
ground = { open = true, extent = [[0, 0], [20, 10]] }
length = 60
[place]
gate = [1, 1]
lamp = [6, 1]
)";

std::vector<Finding> findings(const std::string& text) {
  return check(read_scene_text(top + text, "quay.toml").value());
}

/// A scene with one NPC that has these lines and uses all places.
std::string npc(const std::string& lines) {
  return "[[npc]]\nname = \"porter\"\nat = \"gate\"\n" + lines +
         "\n[[npc]]\nname = \"child\"\nat = \"lamp\"\n";
}

TEST(Check, ASceneWithoutMistakesHasNoFindings) {
  EXPECT_TRUE(findings(npc("do = [ { go_to = \"lamp\" }, { patrol = [\"gate\", \"lamp\"] } ]")).empty());
}

TEST(Check, FollowsWhatHappensStepByStep) {
  const auto only = [](const std::string& text) {
    std::string all;
    for (const Finding& finding : findings(text)) all += finding.what + "; " + finding.why + "\n";
    return all;
  };
  const std::string porter = "[[npc]]\nname = \"porter\"\nat = \"gate\"\ndo = [ { go_to = \"lamp\" } ]\n";
  EXPECT_EQ(only(porter + "[[event]]\nat = 2\nsignal = \"bell\""),
            "no step waits for the signal \"bell\"; it has no effect; a name may be misspelt elsewhere\n");
  EXPECT_EQ(only(porter + "[[event]]\nat = 2\nremove = \"porter\"\n[[event]]\nat = 3\nsuspend = \"porter\""),
            "the event at 3 s is for porter, who was removed before; nothing happens\n");
  EXPECT_EQ(only(porter + "[[event]]\nat = 3\nsend = { npc = \"porter\", to = [25, 3] }"),
            "the event at 3 s leads to (25, 3), which is off the ground; the nearest ground is 5.00 m off\n");
  EXPECT_EQ(only(porter + "[[event]]\nat = 3\nteleport = { npc = \"porter\", to = [25, 3] }"),
            "the event at 3 s leads to (25, 3), which is off the ground; the nearest ground is 5.00 m off\n");
  EXPECT_EQ(only("[[npc]]\nname = \"porter\"\nat = \"gate\"\ndo = [ { patrol = [\"gate\", \"lamp\"], lap = "
                 "9, pause = 5 } ]"),
            "porter's lap is to take 9 s; its pauses alone take 10 s\n");
  EXPECT_TRUE(
      only("[[npc]]\nname = \"porter\"\nat = \"gate\"\ndo = [ { patrol = [\"gate\", \"lamp\"], lap = 0.5 } ]")
          .starts_with("porter's lap is to take 0.5 s; that is 20.0 m/s; a body of its height"));
  EXPECT_TRUE(only(porter + "[[npc]]\nname = \"cat\"\nat = [9, 5]\ndo = [ { patrol = [[1, 9.6], [10, 9.6], "
                            "[19, 9.6], [19, 1]], "
                            "path = \"curve\" } ]")
                  .starts_with("cat's curve leaves the ground by"));
  EXPECT_EQ(
      only(porter +
           "[[npc]]\nname = \"child\"\nat = [3, 3]\ngait = { speed = 1 }\ndo = [ { escort = \"porter\" } ]"),
      "child escorts porter at 1 m/s, who moves at 1.4 m/s; it falls behind\n");
}

/// Signals, distances, goals and names without effect.
TEST(Check, FindsWhatNeverComesToPass) {
  const auto only = [](const std::string& text) {
    std::string all;
    for (const Finding& finding :
         findings(text + "\n[[event]]\nat = 1\nsend = { npc = \"porter\", to = \"lamp\" }\n"))
      all += finding.what + "; " + finding.why + "\n";
    return all;
  };
  const auto pair = [&](const std::string& porter, const std::string& cat) {
    return only("[[npc]]\nname = \"porter\"\nat = \"gate\"\n" + porter +
                "\n[[npc]]\nname = \"cat\"\nat = [9, 5]\n" + cat);
  };
  const std::string hears = "do = [ { wait_for = \"caught\" } ]";
  const std::string chase = "{ chase = \"cat\", give_up = 30, act = { within = 2, enter = \"caught\" } }";
  EXPECT_EQ(pair("do = [ " + chase + " ]", hears), "");
  // A step after one that never ends, or a wait for a signal that only the waiting NPC itself raises.
  EXPECT_EQ(
      pair("do = [ { pause = 1, when = { signal = \"caught\" } }, " + chase + " ]", hears),
      "porter's pause never begins; only porter's chase gives the signal \"caught\", and that never begins\n"
      "cat waits for \"caught\", which only porter's chase gives, and that never begins; it will stand there "
      "for ever\n");
  EXPECT_EQ(pair("do = [ { pause = 1, when = { signal = \"caught\" }, time_limit = 3 }, " + chase + " ]",
                 "do = [ { wait_for = \"caught\", time_limit = 9 } ]")
                .find("never begins"),
            std::string("porter's pause ").size());
  EXPECT_EQ(pair("do = [ { wait_for = \"caught\", time_limit = 3 }, " + chase + " ]", hears), "");
  EXPECT_EQ(pair("do = [ { sequence = [ { roam = 3 } ], until = { near = \"cat\", distance = 2 } }, " +
                     chase + " ]",
                 hears),
            "");
  EXPECT_TRUE(
      pair("do = [ { sequence = [ { pause = 1 } ], times = 0 }, " + chase + " ]", hears)
          .ends_with("only porter's chase gives, and that never begins; it will stand there for ever\n"));
  EXPECT_EQ(pair("on_touch = { signal = \"ouch\" }", ""),
            "no step waits for the signal \"ouch\"; it has no effect; a name may be misspelt elsewhere\n");
  EXPECT_EQ(pair("on_touch = { signal = \"caught\" }", hears), "");
  EXPECT_EQ(pair("tags = [\"crew\"]", ""),
            "the tag crew is not used; nothing refers to it; a name may be misspelt elsewhere\n");
  EXPECT_EQ(pair("tags = [\"crew\"]", "body = { passes = [\"crew\"] }"), "");
  EXPECT_EQ(pair("", "[camera.roof]\nscale = 20"),
            "the camera roof is not used; no event clicks through it\n");
  // Unreachable targets: they stand on other ground, or the two bodies keep too far apart.
  EXPECT_EQ(pair("do = [ { chase = \"cat\" } ]", "body = { deck = [3, 3] }"), "");
  const std::string walls =
      "format = \"ambulon-scene/1\"\nlength = 60\navoid = true\n[ground]\nplan = { outline = [ [[0, 0], [8, "
      "0], [8, "
      "6], [0, 6]], [[12, 0], [20, 0], [20, 6], [12, 6]] ] }\n[[npc]]\nname = \"cat\"\nat = [15, "
      "3]\n[[npc]]\nname = \"porter\"\nat = [2, 3]\n[[npc]]\nname = \"dog\"\nat = [5, 3]\n";
  const auto beyond = [&](const std::string& text) {
    std::string all;
    for (const Finding& finding : check(read_scene_text(walls + text, "quay.toml").value()))
      all += finding.what + "; " + finding.why + "\n";
    return all;
  };
  EXPECT_EQ(beyond("do = [ { chase = \"porter\" } ]"), "");
  EXPECT_EQ(beyond("do = [ { chase = \"cat\" } ]"),
            "dog's chase leads to (15, 3); no route leads there from its start\n");
  EXPECT_EQ(beyond("do = [ { chase = \"porter\", until = { near = \"porter\", distance = 0.5 } } ]"),
            "dog is to come within 0.5 m of porter; their bodies touch at 0.60 m, and they avoid each "
            "other\n");
  EXPECT_EQ(beyond("[[event]]\nat = 2\nclick = { who = [\"dog\"], to = [15, 3] }"), "");
  EXPECT_EQ(beyond("[[event]]\nat = 2\nclick = { who = [\"dog\"], to = [15, 3], unreachable = \"refuse\" }"),
            "the event at 2 s leads to (15, 3); no route leads there from its start\n");
  EXPECT_EQ(
      beyond("do = [ { patrol = [[5, 3], [2, 1]] } ]\n[[event]]\nat = 2\nadd_waypoint = { npc = \"dog\", at "
             "= [15, 3] }"),
      "the event at 2 s leads to (15, 3); no route leads there from its start\n");
  const std::string hatch =
      "[[crossing]]\nname = \"hatch\"\nkind = \"door\"\nfrom = [7.6, 5]\nto = [12.4, 5]\n";
  EXPECT_EQ(beyond(hatch), "");
  EXPECT_EQ(beyond(hatch + "shut = true"),
            "the door hatch is shut and never opened; no character can cross it\n");
  EXPECT_EQ(beyond(hatch + "shut = true\n[[event]]\nat = 3\nopen = \"hatch\""), "");
}

TEST(Check, FindsABarrierThatShutsTheOnlyWay) {
  const std::string scene =
      "format = \"ambulon-scene/1\"\nlength = 60\n[ground]\nplan = { outline = [ [[0, 0], [20, 0], [20, 6], "
      "[0, 6]] ] }\n"
      "[[npc]]\nname = \"cat\"\nat = [2, 3]\ndo = [ { patrol = [[3, 3], [17, 3]] } ]\n[[event]]\nat = 9\nput "
      "= { barrier = "
      "\"cart\", box = [10, 3, 1, ";
  const auto found = [&](const std::string& rest) {
    return check(read_scene_text(scene + rest, "quay.toml").value());
  };
  ASSERT_EQ(found("7] }").size(), 1U);
  EXPECT_EQ(found("7] }")[0].what, "the barrier cart shuts the only route of cat to (17, 3)");
  EXPECT_TRUE(found("3] }").empty());
  EXPECT_TRUE(found("7] }\n[[event]]\nat = 12\ntake_away = \"cart\"").empty());
}

/// Two islands: an NPC reaches the other only by a teleport, or through a door that opens later.
TEST(Check, KnowsWhereItWasPutAndWhichDoorsAreOpened) {
  const std::string ground =
      "format = \"ambulon-scene/1\"\nlength = 60\n[ground]\nplan = { outline = [ [[0, 0], [8, 0], [8, 6], "
      "[0, 6]], "
      "[[12, 0], [20, 0], [20, 6], [12, 6]] ] }\n";
  const auto count = [&](const std::string& text) {
    return check(read_scene_text(ground + text, "quay.toml").value()).size();
  };
  const std::string npc = "[[npc]]\nname = \"cat\"\nat = [2, 3]\n";
  EXPECT_EQ(count(npc + "do = [ { go_to = [15, 3] } ]"), 1U);
  EXPECT_EQ(count(npc + "do = [ { teleport = [14, 3] }, { go_to = [15, 3] } ]"), 0U);
  EXPECT_EQ(count(npc + "do = [ { teleport = [14, 3] }, { go_to = [3, 3] } ]"), 1U);
  const std::string door =
      "[[crossing]]\nname = \"hatch\"\nkind = \"door\"\nfrom = [7.6, 3]\nto = [12.4, 3]\nshut = true\n";
  EXPECT_EQ(count(npc + "do = [ { go_to = [15, 3] } ]\n" + door), 2U);  // and the door never opens
  EXPECT_EQ(count(npc + "do = [ { go_to = [15, 3], unreachable = \"wait\" } ]\n" + door +
                  "[[event]]\nat = 5\nopen = \"hatch\""),
            0U);
}

TEST(Check, EachMistakeIsFoundWithItsPlaceItsReasonAndAValueThatWouldDo) {
  const struct {
    std::string scene;
    int line;
    std::string what, why, instead;
  } cases[] = {
      {npc("") + "[gait.run]\nspeed = 3", 14, "the gait run is not used", "moves differently",
       "leave it out"},
      {npc("") + "[[npc]]\nname = \"cat\"\nat = [6.2, 1]", 14, "cat begins 0.40 m inside child", "two bodies",
       "0.60 m apart"},
      {npc("do = [ { go_to = [25, 5] } ]"), 10, "porter's go_to leads to (25, 5), which is off the ground",
       "5.00 m off", "(20.00, 5.00) would do"},
      {npc("gait = { speed = 3, slowing_distance = 2 }\ndo = [ { go_to = \"lamp\", within = 0.02 } ]"), 11,
       "porter's go_to arrives within 0.02 m, but at 3 m/s a tick's step is 0.050 m", "between two ticks",
       "a `within` of 0.05 or more"},
      {npc("gait = { speed = 4, slowing_distance = 0.5, braking = 4 }"), 7,
       "porter slows down over 0.5 m, but needs 2.00 m to brake from 4 m/s", "as hard as it can",
       "a slowing_distance of 2.00 or more, or a braking of 16.0"},
      {npc("gait = { speed = 20, braking = 500 }"), 7, "porter moves at 20 m/s with a height of 1.7 m",
       "a body of that height runs at most", "or less"},
      {npc("gait = { speed = 0.02 }"), 7, "porter moves at 0.02 m/s", "50 s for one metre", "0.05 or more"},
      {npc("gait = { turn_rate = 2, turn_first = true }"), 7, "porter takes 90 s to turn half round",
       "hardly ever move", "90 or more"},
      {npc("do = [ { escort = \"child\", leash = 3, ring = [1, 2.8] } ]"), 10,
       "porter's leash is 3 m and its ring reaches 2.8 m", "sets off again", "a leash of 4.2 or more"},
      {npc("do = [ { patrol = [\"gate\", \"lamp\"] }, { pause = 1 } ]"), 10, "porter's pause never begins",
       "the patrol before it never ends", "a `time_limit`, an `until` or a number of times"},
      {npc("repeat = true\ndo = [ { pause = 1 }, { wander = 60 } ]"), 11, "porter's list does not start over",
       "its wander never ends", "leave out `repeat`"},
      {npc("do = [ { wait_for = \"bell\" } ]"), 10, "porter waits for \"bell\", which is never given",
       "for ever", "an event with that signal"},
      {npc("do = [ { pause = 1, when = { signal = \"bell\" } } ]"), 10, "porter's pause never begins",
       "no step or event gives the signal \"bell\"", "an event with that signal"},
      {npc("do = [ { pause = 1, after = 99 } ]"), 10, "porter's pause waits 99 s first", "ends at 60 s",
       "length"},
      {npc("do = [ { patrol = [\"gate\", \"lamp\", \"lamp\"] } ]"), 10,
       "porter's waypoints 2 and 3 are the same point", "twice", "leave one of them out"},
      {npc("do = [ { patrol = [\"gate\", \"lamp\", [6.2, 1]] } ]"), 10,
       "porter's waypoints 2 and 3 are 0.20 m apart, and it arrives within 0.3 m", "without a step between",
       "a `within` of 0.10 or less"},
      {npc("do = [ { hop = [\"lamp\"] } ]"), 10, "porter hops among one point only", "no_route",
       "repeats = true"},
      {npc("do = [ { chase = \"child\" } ]") + "gait = { speed = 2 }\ndo = [ { wander = 60 } ]", 10,
       "porter goes after child at 1.4 m/s, who moves at 2 m/s", "never catches up and never gives up",
       "a speed of 2.4 or more, or a give_up"},
      {npc("body = { radius = 6 }\ndo = [ { go_to = \"lamp\" } ]") +
           "tags = [\"young\"]\nbody = { passes = [\"young\"] }\n[[npc]]\nname = \"x\"\nat = [19, 9]",
       7, "porter is 12.00 m wide, and the ground only 10.00 m", "cannot move", "a radius of 4.50"},
      {npc("do = [ { go_to = \"lamp\" } ]") + "[[event]]\nat = 0\nsuspend = \"porter\"", 14,
       "porter is suspended from the beginning", "stand where it begins", "resume"},
      {npc("") + "[[event]]\nat = 70\nsignal = \"bell\"", 14, "the event at 70 s does not happen",
       "ends at 60 s", "a length of 71 or more"},
  };
  for (const auto& each : cases) {
    const auto found = findings(each.scene);
    const auto match = std::ranges::find_if(
        found, [&](const Finding& finding) { return finding.what.find(each.what) != std::string::npos; });
    ASSERT_NE(match, found.end()) << each.what << (found.empty() ? "" : "\n but: " + found.front().what);
    EXPECT_EQ(match->where.line, each.line) << each.what;
    EXPECT_NE(match->why.find(each.why), std::string::npos) << match->why;
    EXPECT_NE(match->instead.find(each.instead), std::string::npos) << match->instead;
  }
}

}  // namespace
}  // namespace ambulon
