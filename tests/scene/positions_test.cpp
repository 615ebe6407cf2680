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
    {"crowds/antipodes", 0x8d761bb76a04aab3},
    {"crowds/antipodes-250", 0x6042870ae29af300},
    {"crowds/antipodes-50", 0xd015ce2032f841b9},
    {"crowds/barge", 0x64c962ca44efc0b0},
    {"crowds/blind-alley", 0xc2632d0819c6edfc},
    {"crowds/both-ways", 0xaea9d591e6b26bb7},
    {"crowds/cats", 0xb0b38514d6f96128},
    {"crowds/companions", 0xb6afa894485c4e02},
    {"crowds/corner", 0xbce72eba4cc831a},
    {"crowds/crossing", 0xfdd87664642f02d4},
    {"crowds/dead-end", 0xbe9899b1e8724e92},
    {"crowds/door", 0xf80276b3c78dfbc4},
    {"crowds/following", 0x6295c815d6549ffc},
    {"crowds/footbridge", 0xacf47979b7342082},
    {"crowds/lane", 0x127d1ae16d0a4a4a},
    {"crowds/narrow-lane", 0xd53311419a26400d},
    {"crowds/one-point", 0xf795d1902eccf3b8},
    {"crowds/two-doors", 0x31fff7730a8bbe09},
    {"ferry", 0x80d6992363e28572},
    {"ferry-gate", 0x485b1c5837ec8a87},
    {"follow-and-arrive", 0xa2516b420452e0b1},
    {"handcarts", 0xba11929d4b62750b},
    {"lantern-quay", 0x881de0d9b20b2c26},
    {"moths-and-ducks", 0x2be7171920c1e1fb},
    {"pickpocket", 0xb22754ccca424cce},
    {"point-and-go", 0x5d092927feaf81ea},
    {"procession", 0x5242c4670a32e61e},
    {"promenade", 0xdc10c2fbf07a623},
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
