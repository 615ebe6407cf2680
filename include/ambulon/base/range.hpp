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

/// The valid ranges of the numbers of orders.
namespace allowed {
inline constexpr Range arrival_distances{0.001f, 1000.f};  ///< metres
inline constexpr Range lengths{0.f, 1e5f};                 ///< metres
inline constexpr Range durations{0.f, 1e6f};               ///< seconds
inline constexpr Range patiences{0.1f, 1e6f};              ///< seconds
inline constexpr Range speeds{0.f, 100.f};                 ///< metres per second
}  // namespace allowed

}  // namespace ambulon
