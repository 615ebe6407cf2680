#pragma once

#include <cstdint>
#include <string>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A kind of surface.
struct Terrain {
  std::string name = {};
  std::uint8_t cost = 1;  ///< cost per metre, 1 to 255; 0: not walkable
};

}  // namespace ambulon
