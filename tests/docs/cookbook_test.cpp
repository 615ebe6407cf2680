// The cookbook's scenes are played and its code is compiled and run.

#include <cstdio>
#include <fstream>
#include <sstream>

#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"
#include "ambulon/motion/steering.hpp"
#include "ambulon/scene/check.hpp"
#include "ambulon/scene/play.hpp"

namespace ambulon {
namespace {

using Recipe = void (*)(World&, Npc, Npc);
#include "recipes.inc"

/// The blocks of the cookbook in that language.
std::vector<std::string> blocks(const std::string& language) {
  std::ifstream book(AMBULON_SOURCE_DIR "/docs/cookbook.md");
  std::vector<std::string> all;
  bool inside = false;
  for (std::string line; std::getline(book, line);) {
    if (line == "```" + language) {
      inside = true;
      all.emplace_back();
    } else if (line == "```") {
      inside = false;
    } else if (inside) {
      all.back() += line + "\n";
    }
  }
  return all;
}

/// What somebody's orders must not end as.
void expect_no_failures(const Tally& tally, const std::string& where) {
  for (const Ending bad :
       {Ending::refused, Ending::stuck, Ending::off_ground, Ending::no_way, Ending::blocked})
    EXPECT_EQ(tally.endings[static_cast<std::size_t>(bad)], 0U) << name(bad) << "\n" << where;
}

TEST(Cookbook, EverySceneIsPlayedAndMovesItsCharacters) {
  const std::string format = "format = \"ambulon-scene/1\"\n", open = "ground = { open = true }\n";
  const std::string places =
      "[place]\ngate = [2, 3]\nlamp-1 = [6.5, 3]\nlamp-2 = [12, 3.5]\nlamp-3 = [17, 6]\n";
  const auto scenes = blocks("toml");
  EXPECT_GT(scenes.size(), 15U);
  for (const std::string& text : scenes) {
    const bool own_ground = text.find("[ground") != std::string::npos;
    const std::string top = own_ground ? format : format + open;
    const auto scene = read_scene_text(top + places + text, "cookbook.md");
    ASSERT_TRUE(scene) << scene.error().text << "\n" << text;
    for (const Finding& finding : check(*scene))
      if (!finding.what.starts_with("the place")) ADD_FAILURE() << finding.what << "\n" << text;
    const auto play = Play::put_up(*scene).value();
    while (play->world().time() < 30) play->tick();
    double walked = 0;
    for (std::size_t i = 0; i < play->npcs().size(); ++i) {
      expect_no_failures(play->tally(i), text);
      walked += play->tally(i).metres;
    }
    EXPECT_GT(walked, 2) << text;
  }
}

TEST(Cookbook, AllCodeRuns) {
  EXPECT_EQ(std::size(recipes), blocks("cpp").size());
  for (std::size_t i = 0; i < std::size(recipes); ++i) {
    World world({.seed = 20});
    const Npc cat = *world.add({.name = "cat", .at = {2, 3, 0}, .gait = {.speed = 2}});
    const Npc courier = *world.add({.name = "courier", .at = {12, 3.5f, 0}});
    recipes[i](world, cat, courier);
    double walked = 0;
    for (int tick = 0; tick < 1800; ++tick) ASSERT_TRUE(world.tick(1.f / 60.f));
    world.each([&](Npc npc) {
      expect_no_failures(npc.tally(), "recipe " + std::to_string(i + 1));
      walked += npc.tally().metres;
    });
    if (i + 1 < std::size(recipes)) {  // the last one only asks
      EXPECT_GT(walked, 2) << "recipe " << i + 1;
    }
  }
}

}  // namespace
}  // namespace ambulon
