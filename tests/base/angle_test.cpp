#include "ambulon/base/angle.hpp"

#include <algorithm>

#include "base/geometry.hpp"
#include "generate.hpp"

namespace ambulon {
namespace {

TEST(Angle, UnitAgreesWithSineAndCosine) {
  for (int i = -20'000; i <= 20'000; ++i) {
    const float heading = static_cast<float>(i) * 1e-3f;
    const vec2 v = unit(heading);
    ASSERT_NEAR(v.x, std::cos(static_cast<double>(heading)), 1e-6) << heading;
    ASSERT_NEAR(v.y, std::sin(static_cast<double>(heading)), 1e-6) << heading;
  }
}

TEST(Angle, HeadingAgreesWithArcTangent) {
  for (int i = 0; i < 20'000; ++i) {
    const double heading = -3.14159 + i * (2 * 3.14159 / 20'000);
    const vec2 v(7.0 * std::cos(heading), 7.0 * std::sin(heading));
    ASSERT_NEAR(heading_of(v), std::atan2(v.y, v.x), 1e-6);
  }
  EXPECT_EQ(heading_of(vec2(0.f)), 0.f);
  EXPECT_NEAR(heading_of({-1.f, 0.f}), pi, 1e-6);
}

RC_GTEST_PROP(Angle, TurningEndsAtTheTargetAndNeverTurnsFurtherThanAllowed, ()) {
  const vec2 from = unit(between(-40, 40)), to = unit(between(-40, 40));
  const float max = between(0, 4);
  const float off = std::abs(angle_between(from, to));
  const vec2 result = turned(from, to, max);
  RC_ASSERT(std::abs(glm::length(result) - 1.f) < 1e-5f);
  RC_ASSERT(std::abs(angle_between(from, result)) <= max + 1e-4f);
  RC_ASSERT(std::abs(std::abs(angle_between(result, to)) - std::max(0.f, off - max)) < 2e-3f);
}

}  // namespace
}  // namespace ambulon
