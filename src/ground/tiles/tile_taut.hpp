#pragma once

#include <memory_resource>
#include <vector>

#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// Pulls paths taut between blocked cells. Its memory is reused.
class TileTaut {
 public:
  explicit TileTaut(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : corners_(memory), chain_(memory), next_(memory) {}

  /// Shortens `line` (metres), which must be free for a disc of `radius` metres (> 0), to a locally shortest
  /// path (string pulling); it stays free. Each bend is replaced by the convex hull of the corners between it
  /// and the chord of its neighbours. Rounded corners are approximated by two sides of an octagon, which
  /// makes them at most 2 % longer.
  void pull(const TileMap& map, float radius, std::pmr::vector<vec2>& line);

 private:
  bool shorten(const TileMap& map, float radius, vec2 a, vec2 b, vec2 c);
  void gather(const TileMap& map, float radius, vec2 a, vec2 b, vec2 c);
  void wrap(vec2 a, vec2 b, vec2 c);

  std::pmr::vector<vec2> corners_, chain_, next_;
};

}  // namespace ambulon
