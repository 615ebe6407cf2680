#pragma once

#include <cstddef>
#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The rows or the columns of a tile map as bits, 64 cells per word, for searches along straight lines. A
/// border of blocked cells surrounds them, so that searches along a line need not test for the edge.
class TileLines {
 public:
  /// 64 cells of a line, the first in the lowest bit.
  struct Word {
    std::uint64_t blocked = ~std::uint64_t{0};  ///< blocked cells
    /// Cells at which a search towards growing numbers stops: blocked ones, and those beside the first free
    /// cell of a neighbouring line after a blocked one, where a route may turn.
    std::uint64_t stops_up = ~std::uint64_t{0};
    std::uint64_t stops_down = ~std::uint64_t{0};  ///< the same towards falling numbers
    friend bool operator==(const Word&, const Word&) = default;
  };

  /// Makes `count` lines of `length` cells, all blocked; both at least 1.
  TileLines(int count, int length, std::pmr::memory_resource* memory);
  TileLines(const TileLines& other, std::pmr::memory_resource* memory);

  /// Returns the words of a line; numbers -1 and `count` are the border. The cell at `place` is bit
  /// `place` + 64, counted over all words: the first and the last word are border, too.
  const Word* line(int number) const { return words_.data() + offset(number); }
  /// Returns the number of words from one line to the next.
  std::ptrdiff_t stride() const { return static_cast<std::ptrdiff_t>(stride_); }
  /// Returns true if a cell is blocked. `number` and `place` may be one beyond the edge.
  bool blocked(int number, int place) const { return blocked(line(number), place); }
  static bool blocked(const Word* line, int place) {
    const std::size_t at = static_cast<std::size_t>(place) + 64;
    return (line[at >> 6U].blocked >> (at & 63U) & 1U) != 0;
  }

  /// Blocks or frees a cell inside. The stops are wrong until `settle`.
  void put(int number, int place, bool blocked);
  /// Updates all stops.
  void settle();
  /// Updates the stops after `put` of one cell.
  void settle(int number, int place);

  friend bool operator==(const TileLines&, const TileLines&) = default;

 private:
  std::size_t offset(int number) const { return static_cast<std::size_t>(number + 1) * stride_; }
  void renew(int number, std::size_t word);

  int count_;
  std::size_t stride_;
  std::pmr::vector<Word> words_;
};

}  // namespace ambulon
