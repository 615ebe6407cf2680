#include "scene/scorecard.hpp"

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

}  // namespace
}  // namespace ambulon
