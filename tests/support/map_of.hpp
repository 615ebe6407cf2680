#pragma once

#include <string>
#include <vector>

#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// A map of rows from north to south; # is blocked.
inline TileMap map_of(const std::vector<std::string>& rows) {
  std::vector<std::uint8_t> cells;
  for (std::size_t i = rows.size(); i-- > 0;)
    for (const char sign : rows[i]) cells.push_back(sign == '#' ? TileMap::blocked : 1);
  return *TileMap::make(cells,
                        {.width = static_cast<int>(rows[0].size()), .height = static_cast<int>(rows.size())});
}

}  // namespace ambulon
