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
    {"closing-time", 0x3665b2141fa295a8},
    {"courier", 0x7c185516f0fe1026},
    {"crab-trough", 0x264495242ba287dc},
    {"crate-maze", 0x2a936990db70793c},
    {"crowds/antipodes", 0x6dbddab86d1d8ee9},
    {"crowds/antipodes-250", 0x3f836d2c8d79a344},
    {"crowds/antipodes-50", 0xe98fd7634082de0d},
    {"crowds/barge", 0x64c962ca44efc0b0},
    {"crowds/blind-alley", 0xc2632d0819c6edfc},
    {"crowds/both-ways", 0xb506daf339e08732},
    {"crowds/cats", 0xe73233bc88b6200e},
    {"crowds/companions", 0x72afdeb549f0757d},
    {"crowds/corner", 0x2a972bccde541192},
    {"crowds/crossing", 0x6554363a85af9790},
    {"crowds/dead-end", 0x9b9df9b9dffd74bf},
    {"crowds/door", 0x21197c48bc270c2e},
    {"crowds/following", 0x86e64e831e5eda6b},
    {"crowds/footbridge", 0xf001db347b86c327},
    {"crowds/lane", 0x920bf0235dae6f0b},
    {"crowds/narrow-lane", 0x61b595c5b120eac9},
    {"crowds/one-point", 0x12f19d49168f731a},
    {"crowds/two-doors", 0x21197c48bc270c2e},
    {"ferry", 0x80d6992363e28572},
    {"ferry-gate", 0xacef873b308e18e3},
    {"follow-and-arrive", 0xa2516b420452e0b1},
    {"handcarts", 0xba11929d4b62750b},
    {"lantern-quay", 0x881de0d9b20b2c26},
    {"moths-and-ducks", 0x2be7171920c1e1fb},
    {"pickpocket", 0xb22754ccca424cce},
    {"point-and-go", 0xccb3ed22b05b41e0},
    {"procession", 0xec1d751cea82ab6d},
    {"promenade", 0xe35a757c3457a203},
    {"quay-level", 0xd8a688b931216393},
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
