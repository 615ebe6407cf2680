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
    {"crate-maze", 0x22833617031e6b9c},
    {"crowds/antipodes", 0xe6c672bf9cb42920},
    {"crowds/antipodes-250", 0xf27d4c8a7b09e4e3},
    {"crowds/antipodes-50", 0x7c31dd9046a69323},
    {"crowds/barge", 0x64c962ca44efc0b0},
    {"crowds/cats", 0xe2d5079061106d98},
    {"crowds/corner", 0x4e4a83e12ce0b253},
    {"crowds/crossing", 0xa1667a08378426e9},
    {"crowds/door", 0xef04ac86750fb552},
    {"crowds/lane", 0xc107e9f584678601},
    {"crowds/narrow-lane", 0x624af2711fb6477c},
    {"crowds/one-point", 0xde29ed5042f1a0fe},
    {"crowds/two-doors", 0xa98e5e30bc6eb7df},
    {"ferry", 0x80d6992363e28572},
    {"ferry-gate", 0xbbfd9d5f81d6324c},
    {"follow-and-arrive", 0xa2516b420452e0b1},
    {"handcarts", 0xb023356f2d622328},
    {"lantern-quay", 0x881de0d9b20b2c26},
    {"moths-and-ducks", 0x2be7171920c1e1fb},
    {"pickpocket", 0xb22754ccca424cce},
    {"point-and-go", 0xa4678b87ff94c75a},
    {"procession", 0x6ba69325dfc64008},
    {"promenade", 0x6842df246184cdf1},
    {"quay-level", 0x42ef4523bf273b89},
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
