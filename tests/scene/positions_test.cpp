// The positions of all NPCs in the demo scenes, to the bit. A change that shall not alter behaviour changes
// no
// number here.

#include <algorithm>
#include <filesystem>
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "base/checksum.hpp"
#include "scene/play.hpp"

namespace ambulon {
namespace {

/// Hashes of the positions and facings of all NPCs in each tick of the first 10 s, in order.
const std::map<std::string, std::uint64_t> known = {
    {"closing-time", 0x3665b2141fa295a8},
    {"courier", 0xe88238307f16b703},
    {"crab-trough", 0x264495242ba287dc},
    {"crate-maze", 0xf22a163ae7d999dc},
    {"crowds/antipodes", 0xe6c672bf9cb42920},
    {"crowds/antipodes-250", 0xe42d41793aab8ae},
    {"crowds/antipodes-50", 0x2453a721b6743bbf},
    {"crowds/barge", 0x64c962ca44efc0b0},
    {"crowds/cats", 0x51b3a9f1284ef07e},
    {"crowds/corner", 0x4a6b6703a0d0f02e},
    {"crowds/crossing", 0x200db29d3c38bb8b},
    {"crowds/door", 0x71d431bb4eeca79a},
    {"crowds/lane", 0xbf2119b9d6ce016c},
    {"crowds/narrow-lane", 0x9cedaacf288f8631},
    {"crowds/one-point", 0xffb7f40525fd69e4},
    {"crowds/two-doors", 0xa153a61991daec19},
    {"ferry", 0x80d6992363e28572},
    {"ferry-gate", 0x8db08d630936e289},
    {"follow-and-arrive", 0xa2516b420452e0b1},
    {"handcarts", 0x9858bd2dfc47c274},
    {"lantern-quay", 0x881de0d9b20b2c26},
    {"moths-and-ducks", 0x2be7171920c1e1fb},
    {"pickpocket", 0xb22754ccca424cce},
    {"point-and-go", 0x76ef942ab4178c2f},
    {"procession", 0xa3f2bc94410e2d94},
    {"promenade", 0x894ed7c802240c50},
    {"quay-level", 0xf50bc7333d6744b1},
    {"stray-cats", 0x2a7d5293f2a38dbf},
    {"tea-round", 0xa9cdc57cf3ed8e7a},
};

std::uint64_t checksum_of(const std::string& file) {
  const Scene scene = read_scene(file).value();
  const auto play = Play::start(scene).value();
  std::vector<float> all;
  while (play->world().time() < std::min(scene.length, 10.0)) {
    play->tick();
    for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
      const Motion motion = play->motion(i);
      all.insert(all.end(),
                 {motion.position.x, motion.position.y, motion.position.z, motion.facing.x, motion.facing.y});
    }
  }
  return checksum(std::as_bytes(std::span(all)));
}

TEST(Positions, OfTheDemoScenesAreAsTheyWere) {
  const std::string demo = AMBULON_SOURCE_DIR "/demo/";
  std::size_t scenes = 0;
  for (const char* folder : {"", "crowds/"})
    for (const auto& entry : std::filesystem::directory_iterator(demo + folder)) {
      if (entry.path().extension() != ".toml") continue;
      ++scenes;
      const std::string name = folder + entry.path().stem().string();
      const auto was = known.find(name);
      const std::uint64_t sum = checksum_of(entry.path());
      EXPECT_TRUE(was != known.end() && was->second == sum)
          << fmt::format("    {{\"{}\", {:#x}}},", name, sum);
    }
  EXPECT_EQ(scenes, known.size());
}

}  // namespace
}  // namespace ambulon
