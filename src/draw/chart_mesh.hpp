#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"
#include "ambulon/draw/chart_ground.hpp"
#include "ambulon/ground/mesh/rejected.hpp"

#include "draw/legend_entry.hpp"
#include "ground/mesh/mesh_crossings.hpp"

namespace AMBULON_PUBLIC ambulon {

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
