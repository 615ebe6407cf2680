#pragma once

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A closed interval, such as the seconds of a pause. {2, 2} is the single value 2.
struct Range {
  float min = 0.f;
  float max = 0.f;

  /// Returns true if `value` lies in the interval; false for NaN.
  constexpr bool holds(float value) const { return value >= min && value <= max; }
  constexpr float middle() const { return 0.5f * (min + max); }
  constexpr bool empty() const { return max <= 0.f; }
};

}  // namespace ambulon
