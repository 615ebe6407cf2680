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
    {"crowds/antipodes-250", 0x3f836d2c8d79a344},
    {"crowds/antipodes-50", 0x20abb50bca2e250a},
    {"crowds/barge", 0x617262c8e4c61767},
    {"crowds/blind-alley", 0xc2632d0819c6edfc},
    {"crowds/both-ways", 0x39e5bc6f745a0301},
    {"crowds/cats", 0x7dc88f74d5d618a4},
    {"crowds/companions", 0x72afdeb549f0757d},
    {"crowds/corner", 0xddaae3b441017732},
    {"crowds/crossing", 0xd72a01bc7bd857a4},
    {"crowds/dead-end", 0x158f49ea8458a5f0},
    {"crowds/door", 0x14b53b09eb621b9c},
    {"crowds/following", 0x86e64e831e5eda6b},
    {"crowds/footbridge", 0xc32087565b3ba8d3},
    {"crowds/lane", 0xcd42617ddaacf169},
    {"crowds/narrow-lane", 0xda99e369f0870944},
    {"crowds/one-point", 0xdfbeb0d2ed19e49b},
    {"crowds/two-doors", 0x5d20b8e28c559443},
    {"ferry", 0xbf5dd939beb23cd4},
    {"ferry-gate", 0xe48a10694e92f704},
    {"follow-and-arrive", 0x96abcf5f9470359b},
    {"handcarts", 0xf6ee27534e7f3b65},
    {"lantern-quay", 0x8461433c317bd2dc},
    {"moths-and-ducks", 0xec1a4b9ddca3cb43},
    {"pickpocket", 0x29decbf9eb3f122c},
    {"point-and-go", 0x1f367b242b3f5482},
    {"procession", 0xc74fb0d2dca1080},
    {"promenade", 0x4c5b05d8add48771},
    {"quay-level", 0x69f06b7ad326ffb},
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
