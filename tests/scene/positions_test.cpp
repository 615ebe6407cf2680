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
    {"crowds/antipodes", 0xe6c672bf9cb42920},
    {"crowds/antipodes-250", 0xa2b7ab04bbe06054},
    {"crowds/antipodes-50", 0x13e32c4ada40063f},
    {"crowds/barge", 0x64c962ca44efc0b0},
    {"crowds/cats", 0x4034b5015105bcdb},
    {"crowds/corner", 0x1776f44d65b6a230},
    {"crowds/crossing", 0x56efaf1724b716d1},
    {"crowds/door", 0xd479a37b3790fbab},
    {"crowds/lane", 0x97788166a6945f28},
    {"crowds/narrow-lane", 0xad0adc5f1fb33ef3},
    {"crowds/one-point", 0x5b605aade8343f93},
    {"crowds/two-doors", 0x9c287ce4095d0177},
    {"ferry", 0x80d6992363e28572},
    {"ferry-gate", 0x2c75a50fb5ef7bfb},
    {"follow-and-arrive", 0xa2516b420452e0b1},
    {"handcarts", 0xba11929d4b62750b},
    {"lantern-quay", 0x881de0d9b20b2c26},
    {"moths-and-ducks", 0x2be7171920c1e1fb},
    {"pickpocket", 0xb22754ccca424cce},
    {"point-and-go", 0xe0ac1962dae49d95},
    {"procession", 0x5f3eb82be661a6ec},
    {"promenade", 0xa337391f4648cc36},
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
