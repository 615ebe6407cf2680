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
    {"crowds/antipodes-250", 0xe42d41793aab8ae},
    {"crowds/antipodes-50", 0x2453a721b6743bbf},
    {"crowds/barge", 0x64c962ca44efc0b0},
    {"crowds/cats", 0xd3d6b89012b18950},
    {"crowds/corner", 0xcaa19ca895f285a0},
    {"crowds/crossing", 0x200db29d3c38bb8b},
    {"crowds/door", 0x971ebb91ad3858f3},
    {"crowds/lane", 0x29ff3a5c314e2314},
    {"crowds/narrow-lane", 0x918f6c0e87092a16},
    {"crowds/one-point", 0xffb7f40525fd69e4},
    {"crowds/two-doors", 0x971ebb91ad3858f3},
    {"ferry", 0x80d6992363e28572},
    {"ferry-gate", 0x206f8c681dea02f5},
    {"follow-and-arrive", 0xa2516b420452e0b1},
    {"handcarts", 0xb023356f2d622328},
    {"lantern-quay", 0x881de0d9b20b2c26},
    {"moths-and-ducks", 0x2be7171920c1e1fb},
    {"pickpocket", 0xb22754ccca424cce},
    {"point-and-go", 0x4b842e15fbee4dfb},
    {"procession", 0x787736e5fef62fc9},
    {"promenade", 0x727eaa63488df3ca},
    {"quay-level", 0x5a230b440d05832},
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
