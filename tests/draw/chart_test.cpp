#include "draw/chart.hpp"

#include <filesystem>
#include <fstream>
#include <limits>
#include <set>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/world/world.hpp"

#include "draw/picture.hpp"
#include "generate.hpp"
#include "map_of.hpp"
#include "own_folder.hpp"
#include "scene/play.hpp"

namespace ambulon {
namespace {

namespace fs = std::filesystem;

/// Returns boxes of text that overlap, as a sentence; empty if there are none.
std::string overlaps(const std::vector<ChartBox>& boxes) {
  for (std::size_t i = 0; i < boxes.size(); ++i)
    for (std::size_t j = 0; j < i; ++j)
      if (overlap(boxes[i], boxes[j]))
        return "text " + std::to_string(j) + " and " + std::to_string(i) + " overlap";
  return "";
}

fs::path place_for(const std::string& name) { return fs::path(own_folder()) / name; }

std::vector<ChartBox> drawn(const Chart& chart, const std::string& file = place_for("chart.png").string()) {
  std::vector<ChartBox> boxes;
  const auto saved = save_picture(file, 1280, 800, [&](Canvas& canvas) { boxes = paint(chart, canvas); });
  EXPECT_TRUE(saved) << saved.error().text;
  return boxes;
}

/// The demo's chart, as the tool draws it, without trails.
Chart demo_chart(const Scene& scene, Play& play) {
  Chart chart{.title = scene.title, .seconds = play.world().time()};
  for (const Place& place : scene.places) chart.places.push_back({place.name, place.at});
  for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
    if (const Beat* beat = play.npcs()[i].beat()) chart.beats.push_back(chart_beat(*beat));
    if (play.npcs()[i].alive())
      chart.npcs.push_back({.name = scene.npcs[i].name,
                            .at = play.motion(i).position,
                            .facing = play.motion(i).facing,
                            .goal = play.npcs()[i].errand().goal});
  }
  return chart;
}

TEST(Chart, TextNeverOverlapsInTheDemoAtAnyTime) {
  const Scene scene = read_scene(AMBULON_SOURCE_DIR "/demo/lantern-quay.toml").value();
  const auto play = Play::start(scene).value();
  while (play->world().time() < scene.length) {
    if (play->world().ticks() % 150 == 0) {
      const auto boxes = drawn(demo_chart(scene, *play));
      EXPECT_EQ(overlaps(boxes), "") << play->world().time();
      // Every name is there: places, characters, and the numbers of the waypoints.
      EXPECT_GE(boxes.size(), scene.places.size() + play->world().size() + 14);
      for (const ChartBox& box : boxes)
        EXPECT_TRUE(box.min.x >= 0 && box.min.y >= 0 && box.max.x <= 1280 && box.max.y <= 800);
    }
    play->tick();
  }
}

/// A user's canvas that only measures: each letter is half as wide as high.
class Typewriter final : public Canvas {
 public:
  int texts = 0;
  std::multiset<std::string, std::less<>> words;
  int said(std::string_view word) const { return static_cast<int>(words.count(word)); }
  vec2 size() const override { return {1280, 800}; }
  void line(std::span<const vec2>, const Stroke&) override {}
  void area(std::span<const vec2>, Ink) override {}
  void circle(vec2, float, const Stroke&) override {}
  void disc(vec2, float, Ink) override {}
  void text(vec2, std::string_view text, const Lettering&, Ink) override {
    ++texts;
    words.emplace(text);
  }
  vec2 text_size(std::string_view words, const Lettering& lettering) override {
    return {0.5f * lettering.size * static_cast<float>(words.size()), 0.7f * lettering.size};
  }
};

RC_GTEST_PROP(Chart, TextNeverOverlapsWhereverCharactersAndPlacesLie, ()) {
  Chart chart{.title = "Lantern Quay"};
  // At least 0.5 m apart, the resolution of a chart of this size.
  for (int i = 0; i < 8; ++i)
    chart.places.push_back({"place-" + std::to_string(i),
                            vec3(2.f * static_cast<float>(i) + between(0, 1.5f), between(0, 12), 0)});
  for (int i = 0; i < 6; ++i)
    chart.npcs.push_back({.name = "character " + std::to_string(i),
                          .at = vec3(between(0, 20), between(0, 12), 0),
                          .facing = unit(between(0, 6))});
  Typewriter typewriter;
  const auto boxes = paint(chart, typewriter);
  RC_ASSERT(overlaps(boxes) == "");
  RC_ASSERT(boxes.size() == static_cast<std::size_t>(typewriter.texts));
}

TEST(Chart, ACrowdIsDrawnWithoutNamesThatWouldHideIt) {
  Chart chart{.title = "Fish market"};
  for (int i = 0; i < 40; ++i) chart.npcs.push_back({.name = "visitor", .at = {i % 8, i / 8, 0}});
  const std::size_t named = drawn(chart).size();
  chart.npcs.push_back({.name = "visitor", .at = {4, 6, 0}});
  EXPECT_LT(drawn(chart).size(), named - 20);
}

TEST(Chart, ChartsOfNothingOneThingAndFarThingsAreDrawn) {
  Chart chart;
  drawn(chart);
  chart.npcs.push_back({.name = "cat", .at = {99'999, -99'999, 0}});
  EXPECT_EQ(overlaps(drawn(chart)), "");
  chart.npcs.push_back({.name = "dog", .at = {-99'999, 99'999, 0}});
  EXPECT_EQ(overlaps(drawn(chart)), "");
}

TEST(WorldChart, ShowsTheGroundEachNpcAndEachBeatOnce) {
  const auto plan = MeshGround::make(
      Plan{.outlines = {{{0, 0}, {20, 0}, {20, 12}, {0, 12}}}, .solids = {{{8, 0}, {9, 0}, {9, 8}, {8, 8}}}});
  const TileGround tiles(map_of({"........", "..####..", "........"}));
  const OpenGround open({0, 0}, {20, 12});
  for (const Ground* ground : {static_cast<const Ground*>(plan->get()), static_cast<const Ground*>(&tiles),
                               static_cast<const Ground*>(&open)}) {
    World world({.ground = ground});
    const vec3 points[] = {{1, 0.5f, 0}, {7, 0.5f, 0}};
    const BeatPtr beat = must(make_beat(points));
    must(world.add({.name = "lamplighter", .at = {1, 0.5f, 0}})).patrol(beat);
    Typewriter one, two, with_place;
    must(paint_chart(world, one));
    must(world.add({.name = "constable", .at = {1, 0.5f, 0}})).patrol(beat);
    must(paint_chart(world, two));
    must(paint_chart(world, with_place, {.places = {{"gate", {2, 2.5f, 0}}}}));
    EXPECT_EQ(two.said("lamplighter") + two.said("constable"), 2);
    EXPECT_EQ(two.texts, one.texts + 1) << "the beat and its numbers are there already";
    EXPECT_EQ(with_place.texts, two.texts + 1);
    EXPECT_EQ(*save_chart(world, place_for("world.png").string(), {.title = "The quay"}),
              place_for("world.png").string());
  }
}

TEST(WorldChart, OfManyLeavesOutNamesGoalsAndBeats) {
  World world;
  for (int i = 0; i < 41; ++i) {
    const vec3 at(static_cast<float>(i), 0, 0), points[] = {at, at + vec3(0, 1, 0)};
    must(world.add({.name = "moth", .at = at})).patrol(must(make_beat(points)));
  }
  Typewriter many, few;
  must(paint_chart(world, many));
  EXPECT_EQ(many.said("moth"), 0);
  world.find("moth").remove();
  must(paint_chart(world, few));
  EXPECT_EQ(few.said("moth"), 40);
  EXPECT_GE(few.texts, many.texts + 40 + 80) << "each beat has two numbers";
}

TEST(WorldChart, RefusesWhatItCannotDraw) {
  World world;
  Typewriter typewriter;
  const float nan = std::numeric_limits<float>::quiet_NaN();
  EXPECT_EQ(paint_chart(world, typewriter, {.places = {{"gate", {nan, 0, 0}}}}).error().text,
            "the place gate is not finite");
  for (const float radius : {-1.f, nan, 51.f})
    EXPECT_FALSE(paint_chart(world, typewriter, {.body = {.radius = radius}})) << radius;
  EXPECT_EQ(typewriter.texts, 0);
  EXPECT_FALSE(save_chart(world, "quay.gif"));
  EXPECT_FALSE(save_chart(world, place_for("q.png").string(), {.places = {{"gate", {nan, 0, 0}}}}));
  EXPECT_FALSE(fs::exists(place_for("q.png")));
  EXPECT_TRUE(paint_chart(world, typewriter)) << "a world without NPCs";
}

TEST(Picture, PngAndSvgAreWhatTheirNamesSay) {
  const Chart chart{.title = "Quay", .npcs = {{.name = "cat"}}};
  const auto first_bytes = [](const fs::path& file) {
    std::string bytes(8, ' ');
    std::ifstream(file, std::ios::binary).read(bytes.data(), 8);
    return bytes;
  };
  const fs::path png = place_for("quay.png"), svg = place_for("quay.svg");
  drawn(chart, png.string());
  drawn(chart, svg.string());
  EXPECT_EQ(first_bytes(png), "\x89PNG\r\n\x1a\n");
  EXPECT_EQ(first_bytes(svg).substr(0, 5), "<?xml");
}

TEST(Picture, BadNamesSizesAndPlacesAreNamed) {
  const auto nothing = [](Canvas&) {};
  EXPECT_EQ(save_picture("quay.gif", 100, 100, nothing).error().text,
            "quay.gif: a picture's name must end in .png or .svg");
  EXPECT_EQ(save_picture("quay.png", 4, 100, nothing).error().text,
            "a picture of 4 by 100 pixels; each side must lie between 16 and 16384");
  for (const char* file : {"/no/such/folder/quay.png", "/no/such/folder/quay.svg"}) {
    const auto saved = save_picture(file, 100, 100, nothing);
    ASSERT_FALSE(saved) << file;
    EXPECT_TRUE(saved.error().text.find("cannot be written") != std::string::npos) << saved.error().text;
  }
}

}  // namespace
}  // namespace ambulon
