#pragma once

#include <cstdint>
#include <string>

namespace ambulon {

/// A kind of surface.
struct Terrain {
  std::string name = {};
  std::uint8_t cost = 1;  ///< times the length of the way, 1 to 255; 0: it cannot be walked on
};

}  // namespace ambulon
