#include "ambulon/ground/tiles/detail/tile_lines.hpp"

#include <algorithm>

namespace ambulon {

TileLines::TileLines(const TileLines& other, std::pmr::memory_resource* memory)
    : count_(other.count_), stride_(other.stride_), words_(other.words_, memory) {}

TileLines::TileLines(int count, int length, std::pmr::memory_resource* memory)
    : count_(count),
      stride_((static_cast<std::size_t>(length) + 63) / 64 + 2),
      words_(static_cast<std::size_t>(count + 2) * stride_, Word{}, memory) {}

void TileLines::put(int number, int place, bool blocked) {
  const std::size_t at = static_cast<std::size_t>(place) + 64;
  const std::uint64_t mask = std::uint64_t{1} << (at & 63U);
  std::uint64_t& word = words_[offset(number) + (at >> 6U)].blocked;
  word = blocked ? word | mask : word & ~mask;
}

void TileLines::settle() {
  for (int number = 0; number < count_; ++number)
    for (std::size_t word = 1; word + 1 < stride_; ++word) renew(number, word);
}

void TileLines::settle(int number, int place) {
  // Its neighbours may lie in the adjacent words.
  const std::size_t first = std::max<std::size_t>((static_cast<std::size_t>(place) + 63) >> 6U, 1),
                    last = std::min((static_cast<std::size_t>(place) + 65) >> 6U, stride_ - 2);
  for (int line = std::max(number - 1, 0); line <= std::min(number + 1, count_ - 1); ++line)
    for (std::size_t word = first; word <= last; ++word) renew(line, word);
}

void TileLines::renew(int number, std::size_t word) {
  const auto at = [&](int line) { return words_.data() + offset(line) + word; };
  const auto after = [](const Word* beside) {  // the first free cells after blocked ones
    return (beside[0].blocked << 1U | beside[-1].blocked >> 63U) & ~beside[0].blocked;
  };
  const auto before = [](const Word* beside) {
    return (beside[0].blocked >> 1U | beside[1].blocked << 63U) & ~beside[0].blocked;
  };
  Word& own = *at(number);
  own.stops_up = own.blocked | after(at(number - 1)) | after(at(number + 1));
  own.stops_down = own.blocked | before(at(number - 1)) | before(at(number + 1));
}

}  // namespace ambulon
