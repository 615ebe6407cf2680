#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cstdint>
#include <mutex>
#include <optional>

namespace ambulon {

/// What a ground keeps for each width of bodies: up to 64, numbered in the order in which they are first
/// asked for. Any number of threads may ask; what is there is found without a lock.
template <class Made>
class Widths {
 public:
  struct Width {
    float radius = 0.f;  ///< metres
    Made made = {};
  };

  /// The number of the width with exactly that radius. When there is none yet, what `make()` answers is kept
  /// for it; when all are taken, it is that of the next wider, or else of the widest.
  template <class Make>
  std::uint16_t number_for(float radius, Make&& make) {
    if (const auto number = find(radius)) return *number;
    const std::scoped_lock lock(mutex_);
    if (const auto number = find(radius)) return *number;  // another thread has made it meanwhile
    const std::uint16_t count = count_.load(std::memory_order_relaxed);
    if (count == most) {
      const auto gap = [radius](const Width& width) {  // wider ones first
        return width.radius >= radius ? width.radius - radius : 1000.f + radius - width.radius;
      };
      return static_cast<std::uint16_t>(std::ranges::min_element(widths_, {}, gap) - widths_.begin());
    }
    widths_[count] = {radius, make()};
    count_.store(count + 1, std::memory_order_release);
    return count;
  }

  const Width& operator[](std::uint16_t number) const { return widths_[number]; }
  std::uint16_t count() const { return count_.load(std::memory_order_acquire); }

 private:
  static constexpr std::size_t most = 64;

  std::optional<std::uint16_t> find(float radius) const {
    const std::uint16_t count = count_.load(std::memory_order_acquire);
    for (std::uint16_t i = 0; i < count; ++i)
      if (widths_[i].radius == radius) return i;
    return std::nullopt;
  }

  std::array<Width, most> widths_;
  std::atomic<std::uint16_t> count_ = 0;
  std::mutex mutex_;  // of what is made
};

}  // namespace ambulon
