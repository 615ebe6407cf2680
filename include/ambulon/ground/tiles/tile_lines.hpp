#pragma once

#include <cstddef>
#include <cstdint>
#include <memory_resource>
#include <vector>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The rows or the columns of a tile map as bits, 64 cells a word, for searches along straight lines. All
/// around lies a border of cells that cannot be walked on, so that whoever goes along a line need not look
/// out for the edge.
class TileLines {
 public:
  /// 64 cells of a line, the first in the lowest bit.
  struct Word {
    std::uint64_t blocked = ~std::uint64_t{0};  ///< cells that cannot be walked on
    /// Where a way in the direction of growing numbers may have to turn or ends: beside the first free cell
    /// of a neighbouring line after a blocked one, and at blocked cells.
    std::uint64_t stops_up = ~std::uint64_t{0};
    std::uint64_t stops_down = ~std::uint64_t{0};  ///< the same in the direction of falling numbers
    friend bool operator==(const Word&, const Word&) = default;
  };

  /// `count` lines of `length` cells, all blocked; both at least 1.
  TileLines(int count, int length, std::pmr::memory_resource* memory);
  TileLines(const TileLines& other, std::pmr::memory_resource* memory)
      : count_(other.count_), stride_(other.stride_), words_(other.words_, memory) {}

  /// The words of a line; number -1 and `count` are the border. The cell at `place` is bit `place` + 64,
  /// counted over all words: the first word is border, too, and so is the last.
  const Word* line(int number) const { return words_.data() + offset(number); }
  /// Words from one line to the next.
  std::ptrdiff_t stride() const { return static_cast<std::ptrdiff_t>(stride_); }
  /// `number` and `place` may lie one beyond the edge.
  bool blocked(int number, int place) const { return blocked(line(number), place); }
  static bool blocked(const Word* line, int place) {
    const std::size_t at = static_cast<std::size_t>(place) + 64;
    return (line[at >> 6U].blocked >> (at & 63U) & 1U) != 0;
  }

  /// Blocks a cell, which must lie inside, or frees it; the stops are not right before `settle`.
  void put(int number, int place, bool blocked);
  /// Makes the stops right everywhere.
  void settle();
  /// Makes the stops right after `put` of one cell.
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
