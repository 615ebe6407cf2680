#include "ambulon/base/random.hpp"

#include <algorithm>
#include <array>

#include <gtest/gtest.h>

namespace ambulon {
namespace {

// The first numbers that O'Neill's paper's own program prints for seed 42 and stream 54.
TEST(Random, GivesThePublishedNumbers) {
  Random random(42, 54);
  for (const std::uint32_t published :
       {0xa15c02b7U, 0x7b47f409U, 0xba1d3330U, 0x83d2f293U, 0xbfa4784bU, 0xcbed606eU})
    EXPECT_EQ(random.bits(), published);
}

TEST(Random, BelowIsEvenlySpread) {
  Random random(1, 1);
  std::array<int, 7> counts{};
  for (int i = 0; i < 70'000; ++i) ++counts[random.below(7)];
  for (const int count : counts) EXPECT_NEAR(count, 10'000, 400);
}

TEST(Random, WithinKeepsToItsRange) {
  Random random(3, 9);
  float min = 9.f, max = 0.f;
  for (int i = 0; i < 10'000; ++i) {
    const float value = random.within({1.f, 3.f});
    min = std::min(min, value);
    max = std::max(max, value);
  }
  EXPECT_GE(min, 1.f);
  EXPECT_LE(max, 3.f);
  EXPECT_LT(min, 1.01f);
  EXPECT_GT(max, 2.99f);
}

}  // namespace
}  // namespace ambulon
