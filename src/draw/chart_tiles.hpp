#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

#include "draw/chart_ground.hpp"
#include "draw/legend_entry.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Returns the cells and terrains of a map.
ChartTiles chart_tiles(const TileMap& map);

/// Draws tiles: blocked ones hatched, expensive ones stippled, overlays above. `on_page` converts metres to
/// pixels; the page is hatched already.
void paint_tiles(const ChartTiles& tiles, Canvas& canvas, const std::function<vec2(vec2)>& on_page);

/// Adds the marks that `paint_tiles` draws to a legend.
void tiles_legend(const ChartTiles& tiles, Canvas& canvas, const LegendEntry& entry);

}  // namespace ambulon
