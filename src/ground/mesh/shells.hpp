#pragma once
// Finds the closed pieces of a level's surface.

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/ground/mesh/level.hpp"

namespace ambulon {

/// A triangle in whole millimetres, its corners as they come: x, y, z.
using SolidTriangle = std::array<std::array<int, 3>, 3>;

struct Shells {
  /// For each triangle its shell; `LevelIndex::Facet::no_shell` where its piece is not closed.
  std::vector<std::uint32_t> of;
  /// The other pieces, in the order of their first triangles; numbers of triangles as in the input.
  std::vector<OpenPiece> open;
};

/// Divides triangles into pieces that are connected by common edges.
///
/// 1. A piece is closed when each of its edges is passed as often one way as the other way, and the volume
///    that it encloses is positive: then it is a shell, and its triangles face outwards.
/// 2. Two triangles are connected over an edge that no third triangle has. Over edges with more triangles
///    (boxes that touch), pieces that are not closed by themselves are put together and looked at again.
/// 3. Corners at the same millimetre are the same corner.
Shells find_shells(std::span<const SolidTriangle> triangles);

}  // namespace ambulon
