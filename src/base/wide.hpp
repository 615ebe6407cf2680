#pragma once

#include <cstdint>

namespace ambulon {

/// A signed 128-bit integer in two halves, for compilers without one: exact products and sums.
class PortableWide {
 public:
  /// Returns a * b.
  static constexpr PortableWide product(std::int64_t a, std::int64_t b) {
    const bool negative = (a < 0) != (b < 0);
    const std::uint64_t x = magnitude(a), y = magnitude(b);
    // Schoolbook multiplication with digits of 32 bits.
    const std::uint64_t low = lower(x) * lower(y), left = upper(x) * lower(y), right = lower(x) * upper(y);
    const std::uint64_t middle = upper(low) + lower(left) + lower(right);
    const PortableWide result(upper(x) * upper(y) + upper(left) + upper(right) + upper(middle),
                              middle << 32U | lower(low));
    return negative ? -result : result;
  }
  constexpr PortableWide operator-() const {
    return PortableWide(~high_ + (low_ == 0 ? 1U : 0U), ~low_ + 1U);
  }
  constexpr PortableWide operator+(PortableWide other) const {
    const std::uint64_t low = low_ + other.low_;
    return PortableWide(high_ + other.high_ + (low < low_ ? 1U : 0U), low);
  }
  constexpr PortableWide operator-(PortableWide other) const { return *this + -other; }
  constexpr bool positive() const { return static_cast<std::int64_t>(high_) > 0 || (high_ == 0 && low_ > 0); }

 private:
  constexpr PortableWide(std::uint64_t high, std::uint64_t low) : high_(high), low_(low) {}
  static constexpr std::uint64_t magnitude(std::int64_t a) {
    return a < 0 ? ~static_cast<std::uint64_t>(a) + 1U : static_cast<std::uint64_t>(a);
  }
  static constexpr std::uint64_t lower(std::uint64_t a) { return a & 0xffff'ffffU; }
  static constexpr std::uint64_t upper(std::uint64_t a) { return a >> 32U; }

  std::uint64_t high_, low_;  // two's complement
};

#if defined(__SIZEOF_INT128__) && !defined(AMBULON_PORTABLE)
/// The same with the compiler's own type.
class Wide {
 public:
  static constexpr Wide product(std::int64_t a, std::int64_t b) { return Wide(Number{a} * b); }
  constexpr Wide operator+(Wide other) const { return Wide(value_ + other.value_); }
  constexpr Wide operator-(Wide other) const { return Wide(value_ - other.value_); }
  constexpr bool positive() const { return value_ > 0; }

 private:
  __extension__ using Number = __int128;
  constexpr explicit Wide(Number value) : value_(value) {}
  Number value_;
};
#else
using Wide = PortableWide;
#endif

}  // namespace ambulon
