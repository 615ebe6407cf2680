#pragma once
// The source of random cases: RapidCheck, which shrinks them, or the bytes of a fuzzer.

#include <array>
#include <cstddef>
#include <cstdint>

namespace ambulon {

class Choices {
 public:
  virtual ~Choices() = default;
  /// From `min` to below `end`.
  virtual int whole(int min, int end) = 0;

  bool flag() { return whole(0, 2) == 1; }
  /// Any of ten thousand values from `min` to `max`.
  float between(float min, float max) {
    return min + (max - min) * static_cast<float>(whole(0, 10'001)) * 1e-4f;
  }
  double any(double min, double max) {
    return static_cast<double>(between(static_cast<float>(min), static_cast<float>(max)));
  }
  std::size_t index(std::size_t count) { return static_cast<std::size_t>(whole(0, static_cast<int>(count))); }
  template <class T, std::size_t N>
  T of(const T (&values)[N]) {
    return values[index(N)];
  }
};

/// Values from a fuzzer's bytes; the minimum when they are used up.
class ByteChoices final : public Choices {
 public:
  ByteChoices(const std::uint8_t* data, std::size_t size) : data_(data), size_(size) {}
  int whole(int min, int end) override {
    const auto count = static_cast<std::uint32_t>(end - min);
    std::uint32_t number = byte();
    if (count > 256) number = number << 8U | byte();
    return min + static_cast<int>(number % count);
  }
  bool empty() const { return size_ == 0; }

 private:
  std::uint8_t byte() {
    if (size_ == 0) return 0;
    --size_;
    return *data_++;
  }

  const std::uint8_t* data_;
  std::size_t size_;
};

}  // namespace ambulon
