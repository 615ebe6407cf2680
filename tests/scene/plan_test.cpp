#include <fstream>

#include <gtest/gtest.h>

#include "scene/check.hpp"
#include "scene/play.hpp"
#include "scene/read_plan.hpp"

namespace ambulon {
namespace {

const std::string scene_head = "format = \"ambulon-scene/1\"\n", plan_head = "format = \"ambulon-plan/1\"\n";
const std::string shed = "outline = [[[0, 0], [10, 0], [10, 6], [0, 6]]]\n";
const std::string walls =
    "solid = [[[1, 1], [2, 1], [2, 2]]]\n"
    "wall = [{ line = [[5, 0], [5, 2.5]] }, { line = [[5, 3.5], [5, 6]], thickness = 0.4 }]\n";

TEST(PlanFile, IsTheSameAsAPlanInAScene) {
  const auto plan = read_plan_text(plan_head + shed + walls, "shed.toml");
  ASSERT_TRUE(plan) << plan.error().text;
  const auto scene = read_scene_text(scene_head + "[ground.plan]\n" + shed + walls, "scene.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  for (const Plan& each : {*plan, *scene->ground.plan}) {
    EXPECT_EQ(each.outlines, (std::vector<Plan::Ring>{{{0, 0}, {10, 0}, {10, 6}, {0, 6}}}));
    EXPECT_EQ(each.solids.size(), 1U);
    ASSERT_EQ(each.walls.size(), 2U);
    EXPECT_EQ(each.walls[0].thickness, 0.2f);
    EXPECT_EQ(each.walls[1].thickness, 0.4f);
    EXPECT_EQ(each.walls[1].line, (std::vector<vec2>{{5, 3.5f}, {5, 6}}));
  }
  EXPECT_EQ(scene->ground.max(), vec2(10, 6));
}

TEST(PlanFile, MistakesAreNamedWithTheirPlace) {
  const std::pair<std::string, std::string> broken[] = {
      {"", "plan lacks the key \"format\""},
      {"format = \"ambulon-plan/2\"\n" + shed,
       "1:10: format is \"ambulon-plan/2\"; it must be one of ambulon-plan/1"},
      {plan_head, "plan lacks the key \"outline\""},
      {plan_head + "outline = []", "the plan has no outline"},
      {plan_head + "outline = [[[0, 0], [1, 0]]]", "2:12: outline 1 has 2 points; it needs at least 3"},
      {plan_head + shed + "hole = [[[0, 0], [1, 0], [nan, 1]]]",
       "3:27: a coordinate of a point of hole 1 must be a finite number"},
      {plan_head + "outline = [[[0, 0], [1e9, 0], [1, 1]]]",
       "point 2 of outline 1 of the plan lies at (1000000000, 0) m; a plan reaches 400 km"},
      {plan_head + shed + "wall = [{ line = [[0, 0], [1, 1]], thick = 2 }]",
       "3:36: unknown key \"thick\" in wall; the keys of wall are line, thickness"},
      {plan_head + shed + "wall = [{ thickness = 2 }]", "wall lacks the key \"line\""},
      {plan_head + shed + "wall = [{ line = [[0, 0], [1, 1]], thickness = 0 }]",
       "thickness is 0; it must lie between 0.001 and 1000 metres"},
      {plan_head + "outline = [[[0, 0], [1, 0", "shed.toml:2:"},
  };
  for (const auto& [text, expected] : broken) {
    const auto plan = read_plan_text(text, "shed.toml");
    ASSERT_FALSE(plan) << text;
    EXPECT_TRUE(plan.error().text.starts_with("shed.toml:")) << plan.error().text;
    EXPECT_NE(plan.error().text.find(expected), std::string::npos) << plan.error().text;
  }
  EXPECT_EQ(read_plan("nowhere.toml").error().text,
            "nowhere.toml: cannot be read; is it there, is it a file, and not empty?");
  EXPECT_TRUE(read_scene_text(scene_head + "[ground]\nplan = \"nowhere.toml\"", "scene.toml")
                  .error()
                  .text.starts_with("scene.toml:3:8: nowhere.toml: cannot be read"));
  EXPECT_EQ(read_scene_text(scene_head + "[ground]\nplan = \"x\"\ncell = 1", "scene.toml").error().text,
            "scene.toml:4:8: cell is given for a plan; it is for another kind of ground");
}

/// Every prefix of the file is read or refused.
TEST(PlanFile, TruncatedFilesAreRefusedWithAReason) {
  const std::string text = plan_head + shed + walls;
  for (std::size_t length = 0; length < text.size(); ++length)
    if (const auto plan = read_plan_text(text.substr(0, length), "shed.toml"); !plan) {
      EXPECT_TRUE(plan.error().text.starts_with("shed.toml:")) << plan.error().text;
    }
}

TEST(PlanFile, BarriersComeAndGoOnItAndWhoIsShutInIsTold) {
  const auto scene = read_scene_text(scene_head + R"(
length = 30
[[npc]]
name = "porter"
at = [2, 3]
do = [{ go_to = [8, 3] }, { go_to = [2, 3] }, { pause = 10 }, { go_to = [8, 3] }]
[[event]]
at = 6.5
put = { barrier = "crates", box = [5, 3, 0.4, 1.2] }
[[event]]
at = 12
move = { barrier = "crates", to = [8, 5] }
[ground.plan]
)" + shed + walls,
                                     "shed.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  const auto play = std::move(*Play::start(*scene));
  while (play->world().time() < scene->length) play->tick();
  std::vector<std::string> endings;
  const Journal& journal = play->world().journal();
  for (std::uint64_t number = journal.first(); number < journal.next(); ++number)
    if (const std::string told = play->sentence(journal[number]); told.find("ended as") != std::string::npos)
      endings.push_back(told);
  ASSERT_GE(endings.size(), 4U);
  EXPECT_NE(endings[0].find("arrived"), std::string::npos) << endings[0];
  EXPECT_NE(endings[1].find("no_route"), std::string::npos) << endings[1];
}

TEST(PlanFile, CheckNamesTheDoorwayThatIsTooNarrowAndGoalsOffTheGround) {
  const auto scene = read_scene_text(scene_head + R"(
[place]
well = [1.7, 1.3]
[[npc]]
name = "handcart"
at = [2, 4]
body = { radius = 0.6 }
do = [{ go_to = [8, 3] }, { go_to = "well" }]
[ground.plan]
)" + shed + walls,
                                     "shed.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  const std::vector<Finding> findings = check(*scene);
  ASSERT_EQ(findings.size(), 2U);
  EXPECT_EQ(findings[0].what, "handcart's go_to leads to (8, 3)");
  EXPECT_TRUE(findings[0].why.starts_with("it is 1.20 m wide, and the only way is 0.98 m wide beyond (4."))
      << findings[0].why;
  EXPECT_EQ(findings[1].what, "handcart's go_to leads to (1.7, 1.3), which is off the ground");
}

}  // namespace
}  // namespace ambulon
