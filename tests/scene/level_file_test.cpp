#include <algorithm>
#include <array>
#include <filesystem>
#include <fstream>

#include <gtest/gtest.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/scene/ground_file.hpp"

#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "own_folder.hpp"
#include "scene/check.hpp"
#include "scene/mesh_file.hpp"
#include "scene/play.hpp"

namespace ambulon {
namespace {

namespace fs = std::filesystem;

const std::string quay = AMBULON_SOURCE_DIR "/demo/levels/lantern-quay.gltf";

std::string saved(const std::string& name, const std::string& text) {
  const std::string file = own_folder() + name;
  std::ofstream(file) << text;
  return file;
}

std::string text_of(const std::string& file) {
  std::stringstream text;
  text << std::ifstream(file).rdbuf();
  return text.str();
}

/// A floor of 4 by 3 m at a height of 2 m, and a crate's lid of 1 by 1 m at 3 m; Y is up.
const std::string obj =
    "o floor\nv 0 2 0\nv 4 2 0\nv 4 2 -3\nv 0 2 -3\nf 1 2 3 4\n"
    "o lid\nv 1 3 -1\nv 2 3 -1\nv 2 3 -2\nv 1 3 -2\nf 5 6 7 8\n";
/// A landing at the western end of the floor, half a metre above it.
const std::string landing = "o landing\nv -3 2.5 0\nv 0 2.5 0\nv 0 2.5 -3\nv -3 2.5 -3\nf 9 10 11 12\n";
/// Only the floor; Z is up.
const std::string ply =
    "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\n"
    "element face 1\nproperty list uchar int vertex_indices\nend_header\n"
    "0 0 2\n4 0 2\n4 3 2\n0 3 2\n4 0 1 2 3\n";
const std::string stl =
    "solid floor\nfacet normal 0 0 1\nouter loop\nvertex 0 0 2\nvertex 4 0 2\nvertex 4 3 "
    "2\nendloop\nendfacet\n"
    "facet normal 0 0 1\nouter loop\nvertex 0 0 2\nvertex 4 3 2\nvertex 0 3 2\nendloop\nendfacet\nendsolid "
    "floor\n";

double area(const Expected<Level>& level) {
  return MeshGround::make(level.value()).value()->mesh({.radius = 0.f}).area() / 1e6;
}

TEST(LevelFile, IsReadWithItsOwnAxisUpWhateverItsFormat) {
  const std::string file = saved("level.obj", obj);
  EXPECT_NEAR(area(read_level(file, {.decor = {"lid"}})), 12, 0.1);
  for (const auto& [name, text] : {std::pair("level.ply", ply), std::pair("level.stl", stl)})
    EXPECT_NEAR(area(read_level(saved(name, text))), 12, 0.1) << name;
  // With the other axis up it is a wall.
  EXPECT_EQ(area(read_level(file, {.up = LevelFileOptions::Up::z})), 0);
  // A barred face is still an obstacle: nothing stands below the lid or on it.
  const auto floors = [&](const LevelFileOptions& options) {
    const auto ground = MeshGround::make(read_level(file, options).value()).value();
    return std::pair(ground->snap({1.5f, 1.5f, 2}, 0.1f, {}).within,
                     ground->snap({1.5f, 1.5f, 3}, 0.1f, {}).within);
  };
  EXPECT_EQ(floors({}), std::pair(false, true));
  EXPECT_EQ(floors({.barred = {"l?d"}}), std::pair(false, false));
  EXPECT_EQ(floors({.decor = {"li*"}}), std::pair(true, false));
}

/// A level that was modelled 20 km away equals the original once it is shifted.
TEST(LevelFile, ALevelFarAwayIsBroughtNear) {
  const std::string file = saved("level.obj", obj);
  const std::string far =
      saved("far.obj",
            "o floor\nv 20000 2 20000\nv 20004 2 20000\nv 20004 2 19997\nv 20000 2 19997\nf 1 2 3 4\n"
            "o lid\nv 20001 3 19999\nv 20002 3 19999\nv 20002 3 19998\nv 20001 3 19998\nf 5 6 7 8\n");
  EXPECT_EQ(read_level(far, {.shift = {-20'000, 20'000, 0}})->corners, read_level(file)->corners);
  const auto scene = read_scene_text(
      "format = \"ambulon-scene/1\"\n[ground]\nlevel = \"far.obj\"\nshift = [-20000, 20000, "
      "1]\n[[npc]]\nname = "
      "\"cat\"\nat = [1, 0.5, 3]\ndo = [ { go_to = [3, 2.5, 3] } ]",
      own_folder() + "scene.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  const auto play = Play::start(*scene).value();
  for (int i = 0; i < 300; ++i) play->tick();
  EXPECT_LE(glm::distance(play->npcs()[0].position(), {3, 2.5f, 3}), 0.31f);
  for (const float wrong : {std::nanf(""), 2e7f}) {
    const auto level = read_level(file, {.shift = {0, wrong, 0}});
    ASSERT_FALSE(level);
    EXPECT_NE(level.error().text.find("is to be shifted by"), std::string::npos);
  }
}

TEST(LevelFile, MistakesAreNamedAndTornFilesLoseNothingElse) {
  EXPECT_EQ(read_level("nowhere.glb").error().text, "nowhere.glb: cannot be read; is it there?");
  const std::string file = saved("level.obj", obj);
  EXPECT_EQ(read_level(file, {.decor = {"lids"}}).error().text,
            file + ": no node, mesh or material fits \"lids\" in decor (did you mean \"lid\"?)");
  for (const auto& [name, text] : {std::pair("empty.obj", ""), std::pair("points.obj", "v 0 0 0\nv 1 0 0\n"),
                                   std::pair("words.gltf", "a level"), std::pair("words.glb", "a level"),
                                   std::pair("level.tea", "tea")}) {
    const auto level = read_level(saved(name, text));
    ASSERT_FALSE(level) << name;
    EXPECT_TRUE(level.error().text.starts_with(own_folder() + name + ": ")) << level.error().text;
  }
  const std::string whole = text_of(quay);
  for (std::size_t length = 0; length < whole.size(); length += 4001) {
    const auto torn = read_level(saved("torn.gltf", whole.substr(0, length)));
    EXPECT_FALSE(torn) << length;
  }
}

TEST(LevelFile, ScenesSayWhatIsWrongWithTheirs) {
  const std::string head = "format = \"ambulon-scene/1\"\n[ground]\nlevel = \"" + quay + "\"\n";
  EXPECT_TRUE(read_scene_text(head, "scene.toml"));
  const std::pair<std::string, std::string> broken[] = {
      {"open = true\n", "the ground must be exactly one of open = true, tiles, plan, level and built"},
      {"cell = 2\n", "4:8: cell is given for a level; it is for another kind of ground"},
      {"reach_from = [\"stall\"]\n", "a point of reach_from is \"stall\", but no place has that name"},
      {"gap = 0.5\n", "4:7: gap is 0.5; it must lie between 0 and 0.2 metres"},
      {"up = \"x\"\n", "up is \"x\"; it must be one of y, z"},
      {"barred = [\"watre\"]\n",
       "no node, mesh or material fits \"watre\" in barred (did you mean \"water\"?)"},
  };
  for (const auto& [text, expected] : broken) {
    const auto scene = read_scene_text(head + text, "scene.toml");
    ASSERT_FALSE(scene) << text;
    EXPECT_TRUE(scene.error().text.starts_with("scene.toml:")) << scene.error().text;
    EXPECT_NE(scene.error().text.find(expected), std::string::npos) << scene.error().text;
  }
}

TEST(LevelFile, ScenesKeepTheirLevelAroundTheirPointsOrThoseTheyList) {
  const auto points = [](const std::string& ground, const std::string& rest) {
    const auto scene = read_scene_text(
        "format = \"ambulon-scene/1\"\n[ground]\nlevel = \"" + quay + "\"\n" + ground + rest, "scene.toml");
    EXPECT_TRUE(scene) << (scene ? "" : scene.error().text);
    return scene ? scene->ground.rules.reach_from : std::vector<vec3>();
  };
  const std::string rest =
      "[detail]\nviewers = [[9, 9, 9]]\n[place]\nstall = [3, 4]\n[[npc]]\nname = \"porter\"\nat = [1, 2]\n"
      "do = [{ patrol = [\"stall\", [5, 6, 3]] }, { go_to = \"cat\" }]\n[[npc]]\nname = \"cat\"\nat = [1, "
      "2]\n";
  EXPECT_EQ(points("", rest),
            (std::vector<vec3>{{1, 2, 0}, {3, 4, 0}, {5, 6, 3}}));  // viewers are not places
  EXPECT_EQ(points("reach_from = [\"stall\", [7, 8, 3]]\n", rest), (std::vector<vec3>{{3, 4, 0}, {7, 8, 3}}));
  EXPECT_TRUE(points("reach_from = []\n", rest).empty());
  // The error of an NPC on a roof that was left out says why there is no ground.
  const auto roofer = [](const std::string& ground) {
    const auto scene = read_scene_text("format = \"ambulon-scene/1\"\n[ground]\nlevel = \"" + quay + "\"\n" +
                                           ground + "[[npc]]\nname = \"roofer\"\nat = [33, 5, 6]\n",
                                       "roof.toml");
    const auto play = Play::start(scene.value(), 0);
    return play ? std::string() : play.error().text;
  };
  EXPECT_EQ(roofer(""), "");
  EXPECT_NE(
      roofer("reach_from = [[10, 12]]\n").find("ground that no point of reach_from leads to is left out"),
      std::string::npos);
}

TEST(LevelFile, CheckNamesTheStepThatIsTooHighAndWhoBeginsWalledIn) {
  const std::string file = saved("landing.obj", obj + landing);
  const auto findings_for = [&](const std::string& npc) {
    const auto scene = read_scene_text("format = \"ambulon-scene/1\"\n[ground]\nlevel = \"" + file +
                                           "\"\n[[npc]]\nname = \"porter\"\n" + npc,
                                       "landing.toml");
    EXPECT_TRUE(scene) << (scene ? "" : scene.error().text);
    return check(*scene);
  };
  const auto high = findings_for("at = [3, 2, 2]\ndo = [{ go_to = [-2, 1, 2.5] }]\n");
  ASSERT_EQ(high.size(), 1U);
  EXPECT_TRUE(high[0].why.starts_with("on the way there is a step of 0.50 m at (0.")) << high[0].why;
  EXPECT_TRUE(high[0].why.ends_with(", 0.20 m too high for it")) << high[0].why;
  EXPECT_EQ(high[0].instead, "a step_up or jump_up of 0.50 would do, or a ramp");
  const auto deep = findings_for("at = [-2, 1, 2.5]\ndo = [{ go_to = [3, 2, 2] }]\n");
  ASSERT_EQ(deep.size(), 1U);
  EXPECT_TRUE(deep[0].why.starts_with("on the way there is a step of 0.50 m down at (-0.")) << deep[0].why;
  EXPECT_TRUE(deep[0].why.ends_with(", 0.20 m too deep for it")) << deep[0].why;
  EXPECT_TRUE(
      findings_for("at = [3, 2, 2]\nbody = { step_up = 0.5 }\ndo = [{ go_to = [-2, 1, 2.5] }]\n").empty());
  const auto walled_in =
      findings_for("at = [1.5, 1.5, 3]\ndo = [{ go_to = [1.5, 1.6, 3] }]\n");  // on the lid
  ASSERT_EQ(walled_in.size(), 1U);
  EXPECT_EQ(walled_in[0].what, "porter begins walled in");
  EXPECT_EQ(walled_in[0].why, "its centre can reach at most 0.16 m2 from there");
}

TEST(LevelFile, CrossingsAreShutAndOpenedByEvents) {
  const std::string head =
      "format = \"ambulon-scene/1\"\nlength = 60\n[ground]\nplan = { outline = [[[0, 0], [20, 0], "
      "[20, 10], [0, 10]]], wall = [{ line = [[10, 0], [10, 10]] }] }\n";
  const std::string door =
      "[[crossing]]\nname = \"gate\"\nkind = \"door\"\nfrom = [9.5, 5]\nto = [10.5, 5]\n";
  const auto porter_at = [&](const std::string& events) {
    const auto scene =
        read_scene_text(head + door + events +
                            "[[npc]]\nname = \"porter\"\nat = [2, 5]\ndo = [ { go_to = [18, 5], "
                            "within = 0.1 }, { go_to = [2, 5], within = 0.1 } ]\n",
                        "gate.toml");
    EXPECT_TRUE(scene) << (scene ? "" : scene.error().text);
    const auto play = Play::start(*scene).value();
    while (play->world().time() < 30) play->tick();
    return play->npcs()[0].position().x;
  };
  const auto event = [](int at, const std::string& what) {
    return "[[event]]\nat = " + std::to_string(at) + "\n" + what + " = \"gate\"\n";
  };
  EXPECT_NEAR(porter_at(""), 2, 0.2f);                                    // there and back
  EXPECT_NEAR(porter_at(event(1, "shut")), 2, 0.2f);                      // it never passes
  EXPECT_NEAR(porter_at(event(9, "shut")), 18, 0.2f);                     // and does not come back
  EXPECT_NEAR(porter_at(event(9, "shut") + event(11, "open")), 2, 0.2f);  // but now it comes back
  const std::pair<std::string, std::string> broken[] = {
      {door + door, "11:8: name \"gate\" is used twice; each crossing needs its own"},
      {door + event(1, "shut").replace(26, 1, "x"), "did you mean \"gate\"?"},
      {door + "cost = -1\n", "cost is -1; it must lie between 0 and 1000 metres"},
      {"[[crossing]]\nname = \"gate\"\nkind = \"door\"\nfrom = [9, 5]\nto = [9, 5]\n", "1 cm apart"},
      {"[[crossing]]\nname = \"gate\"\nkind = \"stile\"\nfrom = [9, 5]\nto = [9, 6]\n",
       "kind is \"stile\"; it must be one of jump_up, drop_down, leap, ladder, door"},
      {"[[event]]\nat = 1\nput = { barrier = \"crate\", disc = [1, 1, 1], heights = [0, 1] }\n",
       "heights are for levels; the ground is a plan"},
  };
  for (const auto& [text, expected] : broken) {
    const auto scene = read_scene_text(head + text, "scene.toml");
    ASSERT_FALSE(scene) << text;
    EXPECT_NE(scene.error().text.find(expected), std::string::npos) << scene.error().text;
  }
  const auto found =
      check(*read_scene_text(head + "[[crossing]]\nname = \"gate\"\nkind = \"door\"\nfrom = [9.5, 5]\n"
                                    "to = [25, 5]\n",
                             "scene.toml"));
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].what, "the door gate begins or ends 4.50 m too far off the ground");
  EXPECT_EQ(found[0].instead, "move its `to` onto the ground");
}

TEST(LevelFile, ABuiltGroundHasTheCrossingsOfTheSceneThatNamesIt) {
  const Plan plan{.outlines = {{{0, 0}, {20, 0}, {20, 10}, {0, 10}}},
                  .walls = {{.line = {{10, 0}, {10, 10}}}}};
  const auto ground = MeshGround::make(plan).value();
  ground->place({.kind = Passage::door, .from = {9.5f, 5, 0}, .to = {10.5f, 5, 0}}).value();
  const std::string file = save_ground(*ground, "quay.toml", own_folder() + "yard.ground").value();
  const std::string head = "format = \"ambulon-scene/1\"\n[ground]\nbuilt = \"" + file + "\"\n",
                    door =
                        "[[crossing]]\nname = \"gate\"\nkind = \"door\"\nfrom = [9.5, 5]\nto = [10.5, 5]\n";
  const auto joined = [&](const std::string& text) {
    const auto made = read_scene_text(head + text, "yard.toml").value().ground.make();
    return made->reachable(made->snap({2, 5, 0}, 1).spot, made->snap({18, 5, 0}, 1).spot);
  };
  EXPECT_TRUE(joined(""));
  EXPECT_TRUE(joined(door));
  EXPECT_FALSE(joined(door + "shut = true\n"));
}

TEST(LevelFile, NobodyInTheDemoLeavesTheGroundAndAllGetWhereTheyAreSent) {
  const auto scene = read_scene(AMBULON_SOURCE_DIR "/demo/quay-level.toml").value();
  const auto play = Play::start(scene).value();
  const MeshGround& ground = *play->mesh();
  bool in_attic = false, in_air = false;
  while (play->world().time() < 60) {
    play->tick();
    for (std::size_t i = 0; i < play->npcs().size(); ++i) {
      const Npc npc = play->npcs()[i];
      const bool jumps = npc.motion().stance == Stance::jumping || npc.motion().stance == Stance::dropping;
      in_air = in_air || jumps;
      // No NPC that passes the door or climbs stands on it.
      const bool at_door =
          std::abs(npc.position().x - 31.6f) < 0.2f && std::abs(npc.position().y - 9.85f) < 0.6f;
      if (jumps || at_door || npc.motion().stance == Stance::climbing) continue;
      // Its height follows a smooth line over steps, so that another step may be nearer.
      const bool on_ground = std::ranges::any_of(std::array{0.f, -0.1f, 0.1f, -0.2f, 0.2f}, [&](float up) {
        const vec3 at = npc.position() + vec3(0, 0, up);
        return flat_distance(ground.snap(at, 1, npc.body()).spot.position, at) <= 0.002f;
      });
      ASSERT_TRUE(on_ground) << scene.npcs[i].name << " at " << play->world().time();
    }
    in_attic = in_attic || glm::distance(play->npcs()[1].position(), vec3(29, 7, 3)) < 0.3f;
  }
  EXPECT_TRUE(in_attic && in_air);
  for (std::size_t i = 0; i < play->npcs().size(); ++i)
    for (const Ending bad : {Ending::no_route, Ending::stuck, Ending::off_ground})
      EXPECT_EQ(play->statistics(i).endings[static_cast<std::size_t>(bad)], 0U) << scene.npcs[i].name;
}

TEST(MeshFile, IsALevelOnWhichOneCanWalkInTurn) {
  const auto ground = MeshGround::make(read_level(quay).value(), {.closed = true}).value();
  const ConvexMesh& mesh = ground->mesh({.radius = 0.3f});
  const std::string file = own_folder() + "quay.obj";
  ASSERT_TRUE(save_mesh(mesh, file));
  EXPECT_NEAR(area(read_level(file)), mesh.area() / 1e6, 0.01 * mesh.area() / 1e6);
  EXPECT_FALSE(save_mesh(mesh, own_folder() + "quay.png"));
  EXPECT_FALSE(save_mesh(mesh, "/nowhere/quay.obj"));
}

}  // namespace
}  // namespace ambulon
