#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "ambulon/draw/canvas.hpp"
#include "ambulon/draw/legend_entry.hpp"
#include "ambulon/ground/mesh/mesh_crossings.hpp"
#include "ambulon/ground/mesh/rejected.hpp"

namespace ambulon {

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

/// The polygons of a mesh and the edges of the ground; the sides between them, too, if wanted. Of floors
/// above each other, only what lies between two heights (metres), if they are given.
ChartMesh chart_mesh(const ConvexMesh& mesh, bool sides = false, std::optional<vec2> between = {});

/// Crossings, of which those that lead there and back are drawn once; only those with an end between two
/// heights (metres), if they are given.
std::vector<ChartMesh::Bow> chart_crossings(const MeshCrossings& crossings, std::optional<vec2> between = {});

/// Draws the polygons as paper over the hatching, and higher floors over lower ones; `on_page` takes metres
/// to pixels.
void paint_mesh(const ChartMesh& mesh, Canvas& canvas, const std::function<vec2(vec2)>& on_page);

/// Adds to a legend what `paint_mesh` draws.
void mesh_legend(const ChartMesh& mesh, Canvas& canvas, const LegendEntry& entry);

}  // namespace ambulon
