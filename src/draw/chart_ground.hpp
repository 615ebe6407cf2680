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
  /// A line segment, metres.
  struct Line {
    vec2 from, to;
    float height = 0.f;
  };
  /// A convex polygon.
  struct Polygon {
    std::vector<vec2> corners = {};
    float height = 0.f;        ///< of its centre
    float cost = 1.f;          ///< times the length of a route; tinted if above 1
    float shade = -1.f;        ///< of an overlay, 0 to 1; negative: none
    std::uint32_t number = 0;  ///< in its mesh
  };
  std::vector<Polygon> polygons = {};
  std::vector<Polygon> beneath = {};  ///< drawn first, as paper
  std::vector<Line> edges = {};       ///< of the ground
  std::vector<Line> sides = {};       ///< shared by two polygons; empty: not drawn
  std::vector<Line> room = {};        ///< limits of a body's centre; empty: not drawn
  std::string room_means = {};        ///< for the legend
  /// Drawn as bows, with a dot at the end that they lead to.
  struct Bow {
    vec2 from, to;
    bool both_ways = false;
  };
  std::vector<Bow> crossings = {};          ///< empty: not drawn
  std::string shades_mean = {};             ///< for the legend; empty: no overlay
  std::vector<RejectedPart> rejected = {};  ///< tinted by their reasons; empty: not drawn
};

/// A ground of tiles on a chart: plain data, cell by cell, row by row from the south.
struct ChartTiles {
  vec2 origin{0.f};  ///< metres, the south-western corner
  float cell = 1.f;  ///< metres
  int width = 0, height = 0;
  std::vector<std::uint8_t> costs = {};  ///< 0: not walkable
  std::vector<Terrain> terrains = {};    ///< with a cost above 1, for the legend
  std::vector<float> shades = {};        ///< of an overlay, 0 to 1; negative: none. Empty: no overlay
  std::string shades_mean = {};          ///< for the legend
  std::vector<vec2> arrows = {};         ///< unit vectors, zero: none. Empty: no arrows
  std::vector<Cell> marks = {};          ///< cells marked with a dot
  std::string marks_mean = {};           ///< for the legend
};

}  // namespace ambulon
