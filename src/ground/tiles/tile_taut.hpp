#pragma once

#include <memory_resource>
#include <vector>

#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// Pulls lines taut among blocked cells. Its memory is reused from one line to the next.
class TileTaut {
 public:
  explicit TileTaut(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : corners_(memory), chain_(memory), next_(memory) {}

  /// Shortens `line` (metres), along which a disc of `radius` metres (> 0) can go, as far as a rope would
  /// that cannot be pulled over an obstacle; the disc can go along it afterwards, too. At each bend, the rope
  /// lies along the convex hull of the corners between the bend and the chord of its two neighbours.
  /// Rounded corners count as the two outer sides of an octagon, which is at most 2 % longer.
  void pull(const TileMap& map, float radius, std::pmr::vector<vec2>& line);

 private:
  bool shorten(const TileMap& map, float radius, vec2 a, vec2 b, vec2 c);
  void gather(const TileMap& map, float radius, vec2 a, vec2 b, vec2 c);
  void wrap(vec2 a, vec2 b, vec2 c);

  std::pmr::vector<vec2> corners_, chain_, next_;
};

}  // namespace ambulon
