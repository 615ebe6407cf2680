// The positions of all NPCs in the demo scenes, to the bit. A change that shall not alter behaviour changes
// no number here.

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
    {"closing-time", 0x914a4358cf2a1088},
    {"courier", 0x3d9943dc823b0ffa},
    {"crab-trough", 0x264495242ba287dc},
    {"crate-maze", 0xc7ebd303f540fb71},
    {"crowds/antipodes", 0xc86ce220ed2d2f1b},
    {"crowds/antipodes-250", 0x54270fe9115d39ba},
    {"crowds/antipodes-50", 0x27b21da2e892a661},
    {"crowds/barge", 0x617262c8e4c61767},
    {"crowds/blind-alley", 0xc2632d0819c6edfc},
    {"crowds/both-ways", 0xad3085b21d276682},
    {"crowds/cats", 0xf94faf685798dc05},
    {"crowds/companions", 0xdf02349eb9be4885},
    {"crowds/corner", 0x8b51f1bed2223672},
    {"crowds/crossing", 0xaca583284b6e345e},
    {"crowds/dead-end", 0xdf893c98e49c9881},
    {"crowds/door", 0xa49ce656ce6684a2},
    {"crowds/following", 0x10ca33c25a560e32},
    {"crowds/footbridge", 0x8cf64cd624266293},
    {"crowds/lane", 0xfd814b95a92bc3a5},
    {"crowds/narrow-lane", 0xbec3deb5f9c5cb28},
    {"crowds/one-point", 0x851016610ea09687},
    {"crowds/two-doors", 0x6fd40fb9b7123fe7},
    {"ferry", 0xbf5dd939beb23cd4},
    {"ferry-gate", 0xda7709d434d99b0d},
    {"follow-and-arrive", 0x96abcf5f9470359b},
    {"handcarts", 0xc765ea47be088d15},
    {"lantern-quay", 0x8461433c317bd2dc},
    {"moths-and-ducks", 0xec1a4b9ddca3cb43},
    {"pickpocket", 0x29decbf9eb3f122c},
    {"point-and-go", 0x2e82358d9f59b71a},
    {"procession", 0x6a6338b9fd160b1d},
    {"promenade", 0xb49eeef675f2568b},
    {"quay-level", 0x888e2245193ca0b2},
    {"stray-cats", 0xc227869b9779e6d3},
    {"tea-round", 0x4ed108f523e38e9b},
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
