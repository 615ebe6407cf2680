#include "base/wide.hpp"

#include <limits>

#include "generate.hpp"

namespace ambulon {
namespace {

__extension__ using Number = __int128;

/// Held against the compiler's own 128-bit integers.
RC_GTEST_PROP(PortableWide, AddsUpProductsExactly, ()) {
  const auto number = [] {
    const auto bits = *rc::gen::inRange(0, 62);
    const auto value = *rc::gen::inRange<std::int64_t>(0, (std::int64_t{1} << bits) + 1);
    return *rc::gen::arbitrary<bool>() ? value : -value;
  };
  const std::int64_t a = number(), b = number(), c = number(), d = number(), e = number(), f = number();
  const auto sum = PortableWide::product(a, b) - PortableWide::product(c, d) + PortableWide::product(e, f);
  RC_ASSERT(sum.positive() == (Number{a} * b - Number{c} * d + Number{e} * f > 0));
  RC_ASSERT((-sum).positive() == (Number{a} * b - Number{c} * d + Number{e} * f < 0));
  RC_ASSERT(!(sum - sum).positive());
}

TEST(PortableWide, HoldsTheLargestProducts) {
  constexpr auto most = std::numeric_limits<std::int64_t>::max(),
                 least = std::numeric_limits<std::int64_t>::min();
  EXPECT_TRUE(PortableWide::product(least, least).positive());
  EXPECT_FALSE(PortableWide::product(least, most).positive());
  EXPECT_TRUE((PortableWide::product(least, least) - PortableWide::product(most, most)).positive());
  EXPECT_FALSE(PortableWide::product(0, least).positive());
}

}  // namespace
}  // namespace ambulon
