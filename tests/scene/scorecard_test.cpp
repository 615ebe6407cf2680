#include "scene/scorecard.hpp"

#include <cmath>

#include <gtest/gtest.h>

namespace ambulon {
namespace {

/// Plays the scene to its end and computes the scorecard.
struct Scored {
  Scene scene;
  std::unique_ptr<Play> play;
  Scorecard scores;
  explicit Scored(const std::string& text)
      : scene(read_scene_text("format = \"ambulon-scene/1\"\nground = { open = true }\nlength = 30\n" + text,
                              "test")
                  .value()),
        play(Play::start(scene).value()),
        scores(*play) {
    while (play->world().time() < scene.length - 1e-6) {
      play->tick();
      scores.see();
    }
  }
};

TEST(Scorecard, AStraightWalkHasNoDetourAndItsTimeIsThatOfItsSpeedAndItsStops) {
  const Scored scored(
      "[[npc]]\nname = \"cat\"\nat = [0, 0]\ngait = { speed = 1, acceleration = 1000, braking = 1000, "
      "slowing_distance = 0 }\ndo = [ { pause = 3 }, { go_to = [9, 0] }, { pause = 3 }, { go_to = [0, 0] } "
      "]");
  const Score& score = scored.scores.score(0);
  EXPECT_EQ(score.legs, 2U);
  EXPECT_NEAR(score.detour, 1.0, 1e-3);
  EXPECT_NEAR(score.time_over_ideal, 1.0, 0.01);
  EXPECT_EQ(score.overlaps + score.speed_jitters + score.heading_jitters, 0U);
}

TEST(Scorecard, WhoGoesOutOfItsWayHasADetour) {
  // An event teleports it in the middle of its leg.
  const Scored scored(
      "[[npc]]\nname = \"cat\"\nat = [0, 0]\ngait = { speed = 2 }\ndo = [ { patrol = [[0, 0], [6, 0]], "
      "order = \"once\", path = \"curve\" }, { go_to = [0, 0] } ]");
  EXPECT_NEAR(scored.scores.score(0).detour, 1.0, 0.02);
  const Scored curve(
      "[[npc]]\nname = \"cat\"\nat = [0, 0]\ndo = [ { patrol = [[0, 0], [3, 4], [6, 0], [3, -4]], path = "
      "\"curve\" } ]");
  EXPECT_GT(curve.scores.score(0).detour, 1.03);
}

TEST(Scorecard, OverlapsAreCountedOnceEachAndNotOfThoseThatPassThroughOneAnother) {
  const std::string two = R"([[npc]]
name = "cat"
at = [0, 0]
tags = ["stray"]
do = [ { go_to = [8, 0] } ]
[[npc]]
name = "dog"
at = [8, 0.1]
)";
  const Scored bump(two + "do = [ { go_to = [0, 0.1] } ]");
  EXPECT_EQ(bump.scores.score(0).overlaps, 1U);
  EXPECT_NEAR(bump.scores.score(1).deepest_overlap, 0.5f, 0.03f);
  const Scored pass(two + "body = { passes = [\"stray\"] }\ndo = [ { go_to = [0, 0.1] } ]");
  EXPECT_EQ(pass.scores.score(0).overlaps, 0U);
}

TEST(Scorecard, TremblingIsCountedAndSlowTurnsAreNot) {
  const Scored shaking("[[npc]]\nname = \"moth\"\nat = [0, 0]\ndo = [ { sway = [0.3, 0], frequency = 2 } ]");
  EXPECT_GT(shaking.scores.score(0).speed_jitters, 100U);
  const Scored calm("[[npc]]\nname = \"raft\"\nat = [0, 0]\ndo = [ { sway = [5, 0], frequency = 0.1 } ]");
  EXPECT_EQ(calm.scores.score(0).speed_jitters, 0U);
  const Scored wandering("[[npc]]\nname = \"cat\"\nat = [0, 0]\ndo = [ { wander = 80, every = 1.5 } ]");
  EXPECT_EQ(wandering.scores.score(0).heading_jitters, 0U);
}

TEST(Scorecard, FeetSlideWhenTheBodyMovesAnotherWayThanTheyStep) {
  const std::string moth = "[[npc]]\nname = \"moth\"\nat = [0, 0]\n";
  const Scored walks(moth + "do = [ { go_to = [9, 0] } ]");
  EXPECT_LT(walks.scores.score(0).sliding, 0.001);
  const Scored askew(moth + "do = [ { ease_to = [5, 0.5], seconds = 9, turn = \"never\" } ]");
  EXPECT_NEAR(askew.scores.score(0).sliding, 0.1, 0.005) << "they step ahead, and it goes aside";
  for (const char* goal : {"0, 5", "0, -5", "-5, 0"}) {  // its stance says that they step there
    const Scored aside(moth + "do = [ { ease_to = [" + goal + "], seconds = 9, turn = \"never\" } ]");
    EXPECT_LT(aside.scores.score(0).sliding, 0.001) << goal;
  }
  const Scored pushed(
      "[[npc]]\nname = \"ferry\"\nat = [0, 0]\nbody = { radius = 1, deck = [4, 3] }\ndo = [ { ease_to = [9, "
      "0], seconds = 9 } ]\n"
      "[[npc]]\nname = \"duck\"\nat = [0.5, 0.5]\n");
  EXPECT_LT(pushed.scores.score(1).sliding, 0.1) << "the deck carries it 9 m: its feet stand";
}

TEST(Scorecard, TurningCountsWhileItHardlyMovesThoughItWantsTo) {
  const std::string cat =
      "[[npc]]\nname = \"cat\"\nat = [0, 0]\ngait = { speed = 0.4, acceleration = 0.05 }\n";
  const std::string wanders = "do = [ { wander = 170, every = 0.5, time_limit = 12 } ]\n";
  const std::string other = "[[npc]]\nname = \"duck\"\nat = [0.9, 0]\n";
  EXPECT_GT(Scored(cat + wanders + other).scores.score(0).jam_turning, 20);
  EXPECT_EQ(Scored(cat + wanders).scores.score(0).jam_turning, 0) << "it is alone";
  EXPECT_EQ(Scored(cat + "do = [ { go_to = [9, 0] } ]\n" + other).scores.score(0).jam_turning, 0);
}

TEST(Scorecard, ThoseThatFindNoRoomAreShortOfTheirGoal) {
  std::string crowd = "avoid = true\n[[npc]]\nname = \"visitor\"\ncount = 9\nat = [0, 0]\n";
  const Scored full(crowd + "do = [ { go_to = [12, 0] } ]");
  float furthest = 0;
  for (std::size_t i = 0; i < 9; ++i) furthest = std::max(furthest, full.scores.score(i).short_of_goal);
  EXPECT_GT(furthest, 0.6f);
  EXPECT_LT(furthest, 2);
  const Scored alone("[[npc]]\nname = \"cat\"\nat = [0, 0]\ndo = [ { go_to = [12, 0], within = 0.2 } ]");
  EXPECT_NEAR(alone.scores.score(0).short_of_goal, 0.2f, 0.03f);
}

TEST(Scorecard, SlowdownsAtBendsAreThoseThatTheGaitAllows) {
  const std::string tiles =
      R"(tiles = ["............", "............", "............", "............", "########....", "########....",)"
      R"( "########....", "............", "............", "............", "............"]
corners = "cut")";
  const std::string plan =
      "plan = { outline = [[[0, 0], [12, 0], [12, 12], [0, 12]]], solid = [[[0, 4], [8, 4], [8, 8], [0, 8]]] "
      "}";
  const auto around = [](const std::string& ground, const std::string& gait) {
    const Scene scene = read_scene_text("format = \"ambulon-scene/1\"\nlength = 30\n[ground]\n" + ground +
                                            "\n[[npc]]\nname = \"cat\"\nat = [1, 2]\ngait = " + gait +
                                            "\ndo = [ { go_to = [1, 10] } ]",
                                        "test")
                            .value();
    const auto play = Play::start(scene).value();
    Scorecard scores(*play);
    for (; play->world().time() < 30; scores.see()) play->tick();
    EXPECT_LT(scores.score(0).detour, 1.01);
    return scores.score(0).bend_slowdown;
  };
  for (const std::string& ground : {plan, tiles}) {
    EXPECT_LT(around(ground, "{}"), 0.65);
    EXPECT_LT(around(ground, "{ rounding = 0.5 }"), 0.4);
  }
  EXPECT_GT(around(tiles, "{ bend_distance = 0.01 }"), 0.4);
  EXPECT_LT(around(tiles, "{ bend_distance = 0.5 }"), 0.1);
}

}  // namespace
}  // namespace ambulon
