#pragma once

#include <cstdint>
#include <memory_resource>
#include <vector>

namespace ambulon {

/// A bucket queue for the open list of a search: O(1) push and pop. Buckets are ordered by estimate; within a
/// bucket the last entry comes first. The search must accept a shorter path to a closed node, and must empty
/// the present bucket before it stops at the goal.
class BucketQueue {
 public:
  struct Entry {
    double estimate;     ///< length of the whole path over this cell
    double length;       ///< length up to it
    std::uint32_t item;  ///< number of the cell
    std::uint32_t next;  ///< entry in the same bucket
  };

  explicit BucketQueue(std::pmr::memory_resource* memory) : heads_(memory), entries_(memory) {}

  /// Empties the queue. Estimates in it at one time must differ by at most `span`.
  void clear(double span) {
    std::size_t wanted = 64;
    while (static_cast<double>(wanted) < span / width + 2) wanted *= 2;
    if (wanted > heads_.size())
      heads_.assign(wanted, nothing);
    else if (count_ > 0)
      for (std::uint64_t bucket = current_; bucket <= last_; ++bucket) head(bucket) = nothing;
    entries_.clear();
    free_ = nothing;
    count_ = 0;
    current_ = last_ = 0;
  }

  bool empty() const { return count_ == 0; }

  void push(double estimate, double length, std::uint32_t item) {
    const auto bucket = static_cast<std::uint64_t>(estimate / width);
    if (entries_.empty()) current_ = last_ = bucket;  // the first one since `clear`
    current_ = bucket < current_ ? bucket : current_;
    last_ = bucket > last_ ? bucket : last_;
    std::uint32_t place = free_;
    if (place != nothing) {
      free_ = entries_[place].next;
    } else {
      place = static_cast<std::uint32_t>(entries_.size());
      entries_.emplace_back();
    }
    entries_[place] = {estimate, length, item, head(bucket)};
    head(bucket) = place;
    ++count_;
  }

  /// Removes an entry of the lowest bucket; the queue must not be empty.
  Entry pop() {
    while (head(current_) == nothing) ++current_;
    const std::uint32_t place = head(current_);
    const Entry entry = entries_[place];
    head(current_) = entry.next;
    entries_[place].next = free_;
    free_ = place;
    --count_;
    return entry;
  }

  /// Returns a lower bound of all estimates, up to rounding.
  double min() {
    while (count_ > 0 && head(current_) == nothing) ++current_;
    return static_cast<double>(current_) * width;
  }

 private:
  static constexpr double width = 0.5;  // cells
  static constexpr std::uint32_t nothing = ~std::uint32_t{0};

  std::uint32_t& head(std::uint64_t bucket) { return heads_[bucket & (heads_.size() - 1)]; }

  std::pmr::vector<std::uint32_t> heads_;  // of the buckets, as a ring
  std::pmr::vector<Entry> entries_;
  std::uint32_t free_ = nothing;  // first unused entry
  std::uint64_t current_ = 0, last_ = 0;
  std::size_t count_ = 0;
};

}  // namespace ambulon
