#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/ground/mesh/rejected.hpp"
#include "ambulon/ground/terrain.hpp"
#include "ambulon/ground/tiles/cell.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A ground of convex polygons on a chart: plain data, in metres.
struct ChartMesh {
  struct Line {
    vec2 from, to;
    float height = 0.f;
  };
  struct Polygon {
    std::vector<vec2> corners = {};
    float height = 0.f;        ///< of its middle
    float cost = 1.f;          ///< times the length of a way; tinted when it is more
    float shade = -1.f;        ///< of an overlay, 0 to 1; negative: none
    std::uint32_t number = 0;  ///< in its mesh
  };
  std::vector<Polygon> polygons = {};
  std::vector<Polygon> beneath = {};  ///< drawn first, as paper
  std::vector<Line> edges = {};       ///< of the ground
  std::vector<Line> sides = {};       ///< that polygons have in common; empty: not drawn
  std::vector<Line> room = {};        ///< as far as the middle of a body gets; empty: not drawn
  std::string room_means = {};        ///< for the legend
  /// From end to end; drawn as bows, with a point at the end to which it leads.
  struct Bow {
    vec2 from, to;
    bool both_ways = false;
  };
  std::vector<Bow> crossings = {};          ///< empty: not drawn
  std::string shades_mean = {};             ///< for the legend; empty: there is no overlay
  std::vector<RejectedPart> rejected = {};  ///< tinted by their reasons; empty: not drawn
};

/// A ground of tiles on a chart: plain data, cell by cell, row by row from the south.
struct ChartTiles {
  vec2 origin{0.f};  ///< metres, the south-western corner
  float cell = 1.f;  ///< metres
  int width = 0, height = 0;
  std::vector<std::uint8_t> costs = {};  ///< 0 where nobody can walk
  std::vector<Terrain> terrains = {};    ///< that cost more than 1, for the legend
  std::vector<float> shades = {};        ///< of an overlay, 0 to 1; negative: none. Empty: no overlay
  std::string shades_mean = {};          ///< for the legend
  std::vector<vec2> arrows = {};         ///< unit vectors, zero: none. Empty: no arrows
  std::vector<Cell> marks = {};          ///< cells marked with a dot
  std::string marks_mean = {};           ///< for the legend
};

}  // namespace ambulon
