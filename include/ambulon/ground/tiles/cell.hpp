#pragma once

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A cell of a tile map. x grows to the east and y to the north, both from 0.
struct Cell {
  int x = 0;
  int y = 0;
  friend constexpr bool operator==(Cell, Cell) = default;
};

}  // namespace ambulon
