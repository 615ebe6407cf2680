// Any bytes as calls of two worlds: each order ends once, the journal is in order, and all is the same twice.

#include <algorithm>

#include "game.hpp"
#include "numbers.hpp"

using namespace ambulon;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  constexpr std::size_t max = 800;
  Numbers in{data, std::min(size, max)};
  const bool avoid = in.next(2) == 0;
  const float tick = in.next(3) == 0 ? 0.9f : in.next(2) == 0 ? 0.1f : 1 / 60.f;
  std::vector<int> numbers;
  while (!in.empty()) numbers.push_back(in.next(256));
  const Played once = play_game(numbers, avoid, tick, {});
  require(once.wrong.empty());
  require(once.told == play_game(numbers, avoid, tick, {}).told);
  return 0;
}
