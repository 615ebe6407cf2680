#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cstdint>
#include <mutex>
#include <optional>
#include <utility>

namespace ambulon {

/// What of a body decides where it can walk; a ground may leave out what does not matter on it. Metres.
struct BodySize {
  float radius = 0.f;
  float height = 0.f;
  float step_up = 0.f;
  float jump_up = 0.f, drop_down = 0.f, leap = 0.f;
  friend constexpr bool operator==(const BodySize&, const BodySize&) = default;
};

/// What a ground keeps for each size of bodies: up to 64, numbered in the order in which they are first
/// asked for. Any number of threads may ask; what is there is found without a lock. What is not there is made
/// without a lock, too, since making it may run the game's jobs, and one of those may ask for it in turn:
/// when several threads make the same at once, the first to be done is kept.
template <class Made>
class Widths {
 public:
  struct Width : BodySize {
    Made made = {};
  };

  /// The number of exactly that size. When there is none yet, what `make()` answers is kept for it; when all
  /// are taken, it is that of the next wider that is no lower and jumps no further, or else of the widest.
  template <class Make>
  std::uint16_t number_for(const BodySize& size, Make&& make) {
    if (const auto number = find(size)) return *number;
    if (count() == max) return max_alike(size);
    Made made = make();
    const std::scoped_lock lock(mutex_);
    if (const auto number = find(size)) return *number;  // another thread was sooner
    const std::uint16_t count = count_.load(std::memory_order_relaxed);
    if (count == max) return max_alike(size);
    static_cast<BodySize&>(widths_[count]) = size;
    widths_[count].made = std::move(made);
    count_.store(count + 1, std::memory_order_release);
    return count;
  }

  /// The number of exactly that size, if there is one.
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

  /// The number of the size that bodies of `size` are taken for when all are taken.
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
  std::mutex mutex_;  // of what is added
};

}  // namespace ambulon
