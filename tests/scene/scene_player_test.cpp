#include "ambulon/scene/scene_player.hpp"

#include <filesystem>
#include <fstream>

#include <gtest/gtest.h>

#include "ambulon/scene/ground_file.hpp"

#include "own_folder.hpp"
#include "scene/play.hpp"

namespace ambulon {
namespace {

constexpr std::string_view quay = R"(
format = "ambulon-scene/1"
rate = 30
[ground]
tiles = ["......", "..##..", "......"]
[place]
stall = [0.5, 0.5]
[camera.above]
scale = 20
[[npc]]
name = "porter"
at = "stall"
do = [{ go_to = [5.5, 0.5] }, { pause = 1 }, { go_to = "stall" }]
repeat = true
)";

/// Plays `seconds`, and returns where the porter is then.
vec3 porter_after(ScenePlayer& scene, double seconds) {
  const double end = scene.world().time() + seconds - 1e-6;
  while (scene.world().time() < end) scene.tick();
  return scene.world().find("porter").position();
}

TEST(ScenePlayer, PlaysAFileAsThePlayBehindItDoes) {
  const std::string file = std::filesystem::path(AMBULON_SOURCE_DIR) / "demo/lantern-quay.toml";
  auto scene = ScenePlayer::open(file);
  ASSERT_TRUE(scene) << scene.error().text;
  const auto read = read_scene(file);
  const auto play = Play::start(*read).value();
  for (int i = 0; i < 300; ++i) scene->tick(), play->tick();
  for (const Npc npc : play->npcs())
    EXPECT_EQ(scene->world().find(npc.name()).position(), npc.position()) << npc.name();
  EXPECT_EQ(scene->rate(), read->rate);
  ScenePlayer moved = std::move(*scene);  // orders and routines stay with it
  for (int i = 0; i < 300; ++i) moved.tick(), play->tick();
  for (const Npc npc : play->npcs()) EXPECT_EQ(moved.world().find(npc.name()).position(), npc.position());
}

TEST(ScenePlayer, HasWhatTheSceneNames) {
  auto scene = ScenePlayer::of_text(quay, "quay.toml").value();
  EXPECT_EQ(scene.place("stall"), vec3(0.5f, 0.5f, 0));
  EXPECT_EQ(scene.place("stal"), std::nullopt);
  ASSERT_NE(scene.camera("above"), nullptr);
  EXPECT_EQ(scene.camera("below"), nullptr);
  EXPECT_EQ(scene.barrier("crate"), std::nullopt);
  ASSERT_TRUE(scene.happen(R"(put = { barrier = "crate", box = [4.5, 1.5, 1, 3] })"));
  const auto crate = scene.barrier("crate");
  ASSERT_TRUE(crate);
  const vec3 waits = porter_after(scene, 10);
  EXPECT_LT(waits.x, 4);
  ASSERT_TRUE(scene.barrier_ground()->remove(*crate));
  EXPECT_GT(porter_after(scene, 5).x, waits.x + 0.5f);
}

TEST(ScenePlayer, WrongEventsAndFilesChangeNothing) {
  auto scene = ScenePlayer::of_text(quay, "quay.toml").value();
  const vec3 before = porter_after(scene, 1);
  for (const char* wrong :
       {"", "suspend = \"portr\"", "suspend = 3", "at = 1\nsuspend = \"porter\"", "take_away = \"crate\"",
        "[[", "send = { npc = \"porter\", to = [nan, 1] }", "suspend = \"porter\"\nremove = \"porter\""})
    EXPECT_FALSE(scene.happen(wrong)) << wrong;
  EXPECT_FALSE(scene.reload_text("rate = 0"));
  const auto other_ground = scene.reload_text("format = \"ambulon-scene/1\"\n[ground]\ntiles = [\"...\"]");
  ASSERT_FALSE(other_ground);
  EXPECT_NE(other_ground.error().text.find("restart"), std::string::npos) << other_ground.error().text;
  EXPECT_FALSE(scene.reload());  // there is no such file
  EXPECT_EQ(scene.world().size(), 1U);
  EXPECT_NE(porter_after(scene, 0.5), before);
  EXPECT_EQ(ScenePlayer::open("nowhere.toml").error().text.find("nowhere.toml: cannot be read"), 0U);
}

TEST(ScenePlayer, AdoptsAChangedFile) {
  const std::string file = own_folder() + "quay.toml";
  std::ofstream(file) << quay;
  auto scene = ScenePlayer::open(file).value();
  const vec3 at = porter_after(scene, 1);
  std::string changed(quay);
  changed.replace(changed.find("go_to = [5.5, 0.5]"), 18, "go_to = [0.5, 2.5]");
  std::ofstream(file) << changed;
  ASSERT_TRUE(scene.reload());
  EXPECT_EQ(scene.world().find("porter").position(), at);
  EXPECT_LT(porter_after(scene, 4).x, 1);
}

TEST(GroundFile, IsReadAsAGroundOfItsKind) {
  const std::string file = own_folder() + "quay.toml";
  std::ofstream(file) << quay;
  const auto ground = read_ground(file);
  ASSERT_TRUE(ground) << ground.error().text;
  World world({.ground = ground->get()});
  EXPECT_TRUE(world.add({.at = {1, 0.5f, 0}}));
  EXPECT_FALSE(world.add({.at = {3, 1.5f, 0}}));
  EXPECT_FALSE(read_ground(own_folder() + "nothing.toml"));
}

}  // namespace
}  // namespace ambulon
