#pragma once

#include <cstdint>
#include <optional>

#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of `Npc::pace`, which walks straight on until the edge of the ground or another body blocks it,
/// and then turns around and walks back. Ends as `done` after `turns`.
struct PaceOptions {
  std::optional<float> heading = {};  ///< radians, of the first leg; none: the NPC's heading
  float gap = 0.1f;                   ///< metres to keep from obstacles, 0 to 100
  Range pause{};                      ///< seconds to stand before it turns around; 0 to 1e6
  bool flip = false;                  ///< turns around at once, not at the turn rate: for side views
  std::uint32_t turns = 0;            ///< after which the order is done; 0: endless
};

}  // namespace ambulon
