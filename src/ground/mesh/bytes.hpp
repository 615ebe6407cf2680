#pragma once
// Reads and writes little-endian numbers.

#include <bit>
#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"

namespace ambulon {

class ByteWriter {
 public:
  template <class Number>
  void put(Number number) {
    if constexpr (std::is_same_v<Number, float>) {
      put(std::bit_cast<std::uint32_t>(number));
    } else if constexpr (std::is_same_v<Number, double>) {
      put(std::bit_cast<std::uint64_t>(number));
    } else {
      auto rest = static_cast<std::make_unsigned_t<Number>>(number);
      for (std::size_t i = 0; i < sizeof(Number); ++i) {
        bytes_.push_back(static_cast<std::byte>(rest & 0xff));
        if constexpr (sizeof(Number) > 1) rest = static_cast<decltype(rest)>(rest >> 8);
      }
    }
  }
  void put(bool flag) { put(static_cast<std::uint8_t>(flag)); }
  void put(vec2 v) { put(v.x), put(v.y); }
  void put(vec3 v) { put(v.x), put(v.y), put(v.z); }
  void put(dvec2 v) { put(v.x), put(v.y); }
  void put(std::string_view text) {
    put_count(text.size());
    for (const char each : text) put(static_cast<std::uint8_t>(each));
  }
  void put_count(std::size_t count) { put(static_cast<std::uint32_t>(count)); }

  std::vector<std::byte>& bytes() { return bytes_; }

 private:
  std::vector<std::byte> bytes_;
};

/// After an error, such as the end of the data, all reads return 0 and `failed` is true.
class ByteReader {
 public:
  explicit ByteReader(std::span<const std::byte> bytes) : bytes_(bytes) {}

  template <class Number>
  Number get() {
    if constexpr (std::is_same_v<Number, float>) {
      return std::bit_cast<float>(get<std::uint32_t>());
    } else if constexpr (std::is_same_v<Number, double>) {
      return std::bit_cast<double>(get<std::uint64_t>());
    } else if constexpr (std::is_same_v<Number, bool>) {
      return get<std::uint8_t>() != 0;
    } else if constexpr (std::is_same_v<Number, vec2>) {
      const auto x = get<float>();
      return {x, get<float>()};
    } else if constexpr (std::is_same_v<Number, vec3>) {
      const auto flat = get<vec2>();
      return vec3(flat, get<float>());
    } else if constexpr (std::is_same_v<Number, dvec2>) {
      const auto x = get<double>();
      return {x, get<double>()};
    } else {
      if (left() < sizeof(Number)) fail();
      if (failed_) return {};
      std::make_unsigned_t<Number> number = 0;
      for (std::size_t i = 0; i < sizeof(Number); ++i)
        number = static_cast<decltype(number)>(
            number | static_cast<decltype(number)>(static_cast<std::uint64_t>(bytes_[at_ + i]) << (8 * i)));
      at_ += sizeof(Number);
      return static_cast<Number>(number);
    }
  }
  /// Reads the number of following items that take at least `size` bytes each; fails if they do not fit.
  std::size_t count(std::size_t size) {
    const auto count = get<std::uint32_t>();
    if (count > left() / size) fail();
    return failed_ ? 0 : count;
  }
  std::string text() {
    std::string text;
    for (std::size_t i = count(1); i > 0; --i) text += static_cast<char>(get<std::uint8_t>());
    return text;
  }

  void fail() { failed_ = true; }
  /// Fails unless `holds`.
  bool check(bool holds) {
    if (!holds) fail();
    return !failed_;
  }
  bool failed() const { return failed_; }
  std::size_t left() const { return bytes_.size() - at_; }

 private:
  std::span<const std::byte> bytes_;
  std::size_t at_ = 0;
  bool failed_ = false;
};

}  // namespace ambulon
