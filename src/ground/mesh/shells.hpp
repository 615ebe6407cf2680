#pragma once
// Finds the closed pieces of a level's surface.

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/ground/mesh/level.hpp"

namespace ambulon {

/// A triangle in integer millimetres: three corners of x, y, z.
using SolidTriangle = std::array<std::array<int, 3>, 3>;

struct Shells {
  /// By triangle: its shell; `LevelIndex::Facet::no_shell` if its piece is not closed.
  std::vector<std::uint32_t> of;
  /// The pieces that are not closed, in the order of their first triangles, numbered as in the input.
  std::vector<OpenPiece> open;
};

/// Divides triangles into pieces that are connected by common edges.
///
/// 1. A piece is closed (a shell) if each edge is used equally often in both directions, and if its volume is
///    positive. Its triangles then face outwards.
/// 2. Two triangles are connected by an edge if no third triangle has it. At edges with more triangles
///    (touching boxes), pieces that are not closed on their own are joined and tested again.
/// 3. Corners that round to the same millimetre are identical.
Shells find_shells(std::span<const SolidTriangle> triangles);

}  // namespace ambulon
