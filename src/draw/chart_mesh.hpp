#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"
#include "ambulon/ground/mesh/rejected.hpp"

#include "draw/chart_ground.hpp"
#include "draw/legend_entry.hpp"
#include "ground/mesh/mesh_crossings.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Returns the polygons of a mesh and the edges of the ground, and if `sides` the sides between polygons.
/// `between`: only what lies between two heights (metres).
ChartMesh chart_mesh(const ConvexMesh& mesh, bool sides = false, std::optional<vec2> between = {});

/// Returns crossings; one with both directions is listed once. `between`: only those with an end between two
/// heights (metres).
std::vector<ChartMesh::Bow> chart_crossings(const MeshCrossings& crossings, std::optional<vec2> between = {});

/// Draws the polygons as paper over the hatching, higher floors over lower ones. `on_page` converts metres to
/// pixels.
void paint_mesh(const ChartMesh& mesh, Canvas& canvas, const std::function<vec2(vec2)>& on_page);

/// Adds what `paint_mesh` draws to a legend.
void mesh_legend(const ChartMesh& mesh, Canvas& canvas, const LegendEntry& entry);

}  // namespace ambulon
