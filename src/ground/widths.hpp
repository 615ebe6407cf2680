#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cstdint>
#include <mutex>
#include <optional>
#include <utility>

namespace ambulon {

/// The measures of a body that decide where it can walk, in metres. A ground may ignore some of them.
struct BodySize {
  float radius = 0.f;
  float height = 0.f;
  float step_up = 0.f;
  float jump_up = 0.f, drop_down = 0.f, leap = 0.f;
  friend constexpr bool operator==(const BodySize&, const BodySize&) = default;
};

/// A lock-free cache of what a ground builds per body size: at most 64 entries, numbered in the order of the
/// first request.
///
/// 1. Lookup takes no lock. Building takes none either, since it may run jobs of the game, which may request
///    the same entry.
/// 2. If several threads build the same entry, the first one to finish is kept.
template <class Made>
class Widths {
 public:
  struct Width : BodySize {
    Made made = {};
  };

  /// Returns the number of an entry for that size; builds it with `make()` if there is none. If all entries
  /// are used, returns the next wider one that is no lower and jumps no further, otherwise the widest.
  template <class Make>
  std::uint16_t number_for(const BodySize& size, Make&& make) {
    if (const auto number = find(size)) return *number;
    if (count() == max) return max_alike(size);
    Made made = make();
    const std::scoped_lock lock(mutex_);
    if (const auto number = find(size)) return *number;  // another thread was faster
    const std::uint16_t count = count_.load(std::memory_order_relaxed);
    if (count == max) return max_alike(size);
    static_cast<BodySize&>(widths_[count]) = size;
    widths_[count].made = std::move(made);
    count_.store(count + 1, std::memory_order_release);
    return count;
  }

  /// Returns the number of the entry for exactly that size, if any.
  std::optional<std::uint16_t> find(const BodySize& size) const {
    const std::uint16_t count = count_.load(std::memory_order_acquire);
    for (std::uint16_t i = 0; i < count; ++i)
      if (widths_[i] == size) return i;
    return std::nullopt;
  }

  const Width& operator[](std::uint16_t number) const { return widths_[number]; }
  std::uint16_t count() const { return count_.load(std::memory_order_acquire); }

 private:
  static constexpr std::size_t max = 64;

  /// Returns the entry that replaces `size` when all entries are used.
  std::uint16_t max_alike(const BodySize& size) const {
    const auto gap = [size](const Width& width) {  // wider ones first
      const bool abler =
          width.jump_up > size.jump_up || width.drop_down > size.drop_down || width.leap > size.leap;
      const float unlike = (width.height < size.height ? 2000.f : 0.f) + (abler ? 4000.f : 0.f);
      return unlike +
             (width.radius >= size.radius ? width.radius - size.radius : 1000.f + size.radius - width.radius);
    };
    return static_cast<std::uint16_t>(std::ranges::min_element(widths_, {}, gap) - widths_.begin());
  }

  std::array<Width, max> widths_;
  std::atomic<std::uint16_t> count_ = 0;
  std::mutex mutex_;  // guards insertion
};

}  // namespace ambulon
