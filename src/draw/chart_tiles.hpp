#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"
#include "ambulon/draw/chart_ground.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

#include "draw/legend_entry.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The cells and terrains of a map.
ChartTiles chart_tiles(const TileMap& map);

/// Draws tiles: what cannot be walked on hatched, dearer ground stippled, overlays over it. `on_page` takes
/// metres to pixels; the page is hatched already.
void paint_tiles(const ChartTiles& tiles, Canvas& canvas, const std::function<vec2(vec2)>& on_page);

/// What the marks of `paint_tiles` mean: those that are there.
void tiles_legend(const ChartTiles& tiles, Canvas& canvas, const LegendEntry& entry);

}  // namespace ambulon
