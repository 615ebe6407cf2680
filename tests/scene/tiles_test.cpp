#include <fstream>
#include <png.h>

#include <gtest/gtest.h>

#include "scene/check.hpp"
#include "scene/play.hpp"
#include "scene/tile_file.hpp"

namespace ambulon {
namespace {

const std::string head = "format = \"ambulon-scene/1\"\n";

std::string free_cells(const TileMap& map) {
  std::string rows;
  for (int y = map.height() - 1; y >= 0; --y) {
    for (int x = 0; x < map.width(); ++x)
      rows += map.free({x, y}) ? static_cast<char>('0' + std::min<int>(9, map.cost({x, y}))) : '#';
    rows += "/";
  }
  return rows;
}

TEST(Tiles, RowsInTheSceneAreCellsWithTheirTerrains) {
  const auto scene = read_scene_text(head + R"(
[ground]
tiles = ["#..~", "#..~", "####"]
cell = 2
origin = [-4, 10]
corners = "one_free"
legend = { "~" = "mud" }
[terrain.mud]
cost = 3
)",
                                     "shed.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  const TileMap& map = *scene->ground.tiles;
  EXPECT_EQ(free_cells(map), "#113/#113/####/");
  EXPECT_EQ(map.middle({1, 1}), vec2(-1, 13));
  EXPECT_EQ(map.terrain({3, 2})->name, "mud");
  EXPECT_EQ(map.rules().corners, Corners::one_free);
  EXPECT_EQ(scene->ground.max(), vec2(4, 16));
}

TEST(Tiles, OctileMapsTextsAndPicturesGiveTheSameCells) {
  const std::vector<std::string> rows = {".#..", "..#.", "...."};
  const TileMap plain = *tiles_of_rows(rows, {}, {}, "rows");
  const TileMap octile = *tiles_of_octile("type octile\nheight 3\nwidth 4\nmap\n.@GS\n..T.\n....\n",
                                          octile_legend(), {}, "a.map");
  EXPECT_EQ(free_cells(octile), free_cells(plain));
  EXPECT_EQ(octile.terrain({2, 1})->name, "trees");

  std::vector<std::uint8_t> pixels;
  for (const std::string& row : rows)
    for (const char sign : row)
      for (const int part : {0, 1, 2})
        pixels.push_back(sign == '#' ? 20 : static_cast<std::uint8_t>(200 + part));
  png_image image{};
  image.version = PNG_IMAGE_VERSION;
  image.width = 4, image.height = 3, image.format = PNG_FORMAT_RGB;
  png_alloc_size_t size = 0;
  ASSERT_NE(png_image_write_to_memory(&image, nullptr, &size, 0, pixels.data(), 0, nullptr), 0);
  std::string bytes(size, '\0');
  ASSERT_NE(png_image_write_to_memory(&image, bytes.data(), &size, 0, pixels.data(), 0, nullptr), 0);
  EXPECT_EQ(free_cells(*tiles_of_png(bytes, {}, {}, "a.png")), free_cells(plain));
  TileLegend legend;
  legend.signs = {{"#c8c9ca", 0}, {"#141414", 1}};
  EXPECT_EQ(free_cells(*tiles_of_png(bytes, legend, {}, "a.png")), free_cells(plain));
  legend.signs.pop_back();
  EXPECT_EQ(tiles_of_png(bytes, legend, {}, "a.png").error().text,
            "a.png: the pixel 2 from the left and 1 from the top is #141414, which is not in the legend");
  for (std::size_t length = 0; length + 12 < bytes.size(); length += 7)  // the end marker contains no pixels
    EXPECT_FALSE(tiles_of_png(bytes.substr(0, length), {}, {}, "a.png")) << length;
}

TEST(Tiles, WhatIsWrongWithAFileIsSaid) {
  const auto octile = [](const std::string& text) {
    return tiles_of_octile(text, octile_legend(), {}, "a.map").error().text;
  };
  EXPECT_EQ(octile(""), "a.map: ends after 0 lines; line 1 must be \"type octile\"");
  EXPECT_EQ(octile("type hex\n"), "a.map:1: \"type hex\"; it must be \"type octile\"");
  EXPECT_EQ(octile("type octile\nheight x\n"),
            "a.map:2: \"height x\"; it must be \"height\" and a whole number");
  EXPECT_EQ(octile("type octile\nheight 3\nwidth 2\nmap\n..\n"),
            "a.map: 1 rows follow the line \"map\"; the height says 3");
  EXPECT_EQ(octile("type octile\nheight 1\nwidth 3\nmap\n..\n"),
            "a.map:5: the row has 2 characters; the width says 3");
  EXPECT_EQ(octile("type octile\nheight 2\nwidth 2\nmap\n..\n.x\n"),
            "a.map: row 2, column 2: the character 'x' is not in the legend, which has . G S @ O T W");
  EXPECT_EQ(octile("type octile\nheight 2\nwidth 2\nmap\n..\n.\n"),
            "a.map: row 2 has 1 characters, the first has 2; all rows must be as long");
  EXPECT_TRUE(octile("type octile\nheight 99999999999999999999\nwidth 2\nmap\n").starts_with("a.map:2:"));
  EXPECT_EQ(read_tiles("nowhere.map", nullptr, {}).error().text,
            "nowhere.map: cannot be read; is it there, is it a file, and not empty?");
}

TEST(Tiles, MistakesInAGroundOfTilesAreNamedWithTheirPlace) {
  const std::pair<const char*, const char*> broken[] = {
      {"[ground]\n", "2:1: the ground must be exactly one of open = true, tiles, plan, level and built"},
      {"[ground]\nopen = true\ntiles = [\"..\"]",
       "2:1: the ground must be exactly one of open = true, tiles, plan, level and built"},
      {"[ground]\nopen = true\ncell = 2", "4:8: cell is given for open ground; it is for tiles"},
      {"[ground]\ntiles = [\"..\", \".\"]",
       "3:9: tiles: row 2 has 1 characters, the first has 2; all rows must be"},
      {"[ground]\ntiles = [\"..\"]\nlegend = { \"~\" = \"mudd\" }\n[terrain.mud]\ncost = 3",
       "4:18: there is no terrain \"mudd\" (did you mean \"mud\"?)"},
      {"[ground]\ntiles = [\"..\"]\n[terrain.mud]\ncost = 3\nwalkable = false",
       "5:8: cost is given for a terrain that is not walkable; leave one out"},
      {"[ground]\nopen = true\n[[event]]\nat = 1\nput = { barrier = \"cart\", disc = [1, 1, 1] }",
       "6:19: barrier needs a ground of tiles, a plan or a level; this one is open"},
      {"[ground]\ntiles = [\"..\"]\n[[event]]\nat = 1\nput = { barrier = \"cart\", disc = [1, 1, -1] }",
       "6:34: disc the radius of the barrier is -1 m; it must lie between 0.001 and 1000 m"},
      {"[ground]\ntiles = [\"..\"]\n[[event]]\nat = 1\nput = { barrier = \"cart\" }",
       "6:7: a barrier has one of box, disc and hull"},
      {"[ground]\ntiles = [\"..\"]\n[[event]]\nat = 1\ntake_away = \"cart\"",
       "6:13: take_away names \"cart\", but no event puts up a barrier of that name"},
  };
  for (const auto& [text, expected] : broken) {
    const auto scene = read_scene_text(head + text, "shed.toml");
    ASSERT_FALSE(scene) << text;
    const std::string wanted = std::string("shed.toml:") + expected;
    EXPECT_EQ(scene.error().text.substr(0, wanted.size()), wanted);
  }
}

TEST(Tiles, BarriersComeAndGoAndTerrainIsLaidWhileItIsPlayed) {
  const auto scene = read_scene_text(head + R"(
length = 9
[ground]
tiles = ["....", "....", "...."]
[terrain.mud]
cost = 4
[[event]]
at = 1
put = { barrier = "cart", box = [1.5, 1.5, 1, 1] }
[[event]]
at = 2
move = { barrier = "cart", to = [2.5, 0.5] }
[[event]]
at = 3
lay = { terrain = "mud", box = [2, 2.5, 4, 1] }
[[event]]
at = 4
take_away = "cart"
)",
                                     "shed.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  const auto play = *Play::start(*scene);
  const auto after = [&](double time) {
    while (play->world().time() < time) play->tick();
    return free_cells(play->tiles()->map());
  };
  EXPECT_EQ(after(0.5), "1111/1111/1111/");
  EXPECT_EQ(after(1.5), "1111/1#11/1111/");
  EXPECT_EQ(after(2.5), "1111/1111/11#1/");
  EXPECT_EQ(after(3.5), "4444/1111/11#1/");
  EXPECT_EQ(after(4.5), "4444/1111/1111/");
  EXPECT_EQ(free_cells(*scene->ground.tiles), "1111/1111/1111/");  // the scene can be played again
}

TEST(Tiles, CheckKnowsWalledInBlockedPlacesAndNarrowWays) {
  const auto scene = read_scene_text(head + R"(
[ground]
tiles = [
  "##########",
  "#...#....#",
  "#........#",
  "#...#....#",
  "#########.",
  "#........#",
  "##########",
]
[place]
crate = [4.5, 5.5]
[[npc]]
name = "handcart"
at = [2.5, 4.5]
body = { radius = 0.8 }
do = [ { go_to = [7.5, 4.5] } ]
[[npc]]
name = "crab"
at = [9.5, 2.5]
body = { radius = 0.2 }
do = [ { roam = 3 } ]
[[npc]]
name = "cat"
at = "crate"
do = [ { go_to = [2.5, 1.5] } ]
)",
                                     "shed.toml");
  ASSERT_TRUE(scene) << scene.error().text;
  std::string all;
  for (const Finding& finding : check(*scene)) all += finding.what + ": " + finding.why + "\n";
  const auto says = [&](const char* text) {
    EXPECT_NE(all.find(text), std::string::npos) << text << "\n" << all;
  };
  says("it is 1.60 m wide, and the only way is 1.00 m wide beyond (");
  says("crab begins walled in: it can reach at most 1 cell from there");
  says("the place crate is off the ground: no character can stand there; the nearest ground is 0.5");
  says("cat begins at (4.5, 5.5), where it has no room to stand");
}

}  // namespace
}  // namespace ambulon
