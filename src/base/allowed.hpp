#pragma once

#include "ambulon/base/range.hpp"

namespace ambulon {

/// The valid ranges of the numbers of orders.
namespace allowed {
inline constexpr Range arrival_distances{0.001f, 1000.f};  ///< metres
inline constexpr Range lengths{0.f, 1e5f};                 ///< metres
inline constexpr Range durations{0.f, 1e6f};               ///< seconds
inline constexpr Range patiences{0.1f, 1e6f};              ///< seconds
inline constexpr Range speeds{0.f, 100.f};                 ///< metres per second
}  // namespace allowed

}  // namespace ambulon
