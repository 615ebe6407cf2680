#pragma once

#include <algorithm>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

namespace ambulon {

/// Items by bin, in one array; an item may be in several bins.
class Bins {
 public:
  Bins() = default;
  /// `placed`: pairs of a bin, below `count`, and an item.
  Bins(std::size_t count, std::vector<std::pair<std::uint32_t, std::uint32_t>> placed) : first_(count + 1) {
    std::ranges::sort(placed);
    for (const auto& [bin, item] : placed) {
      ++first_[bin + std::size_t{1}];
      items_.push_back(item);
    }
    for (std::size_t i = 1; i < first_.size(); ++i) first_[i] += first_[i - 1];
  }

  /// Returns the items of a bin, ascending.
  std::span<const std::uint32_t> in(std::uint32_t bin) const {
    return std::span(items_).subspan(first_[bin], first_[bin + std::size_t{1}] - first_[bin]);
  }

 private:
  std::vector<std::uint32_t> first_;  // start of each bin in `items_`; then the total
  std::vector<std::uint32_t> items_;
};

}  // namespace ambulon
