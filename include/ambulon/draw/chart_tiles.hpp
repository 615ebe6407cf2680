#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "ambulon/draw/canvas.hpp"
#include "ambulon/draw/legend_entry.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

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

/// The cells and terrains of a map.
ChartTiles chart_tiles(const TileMap& map);

/// Draws tiles: what cannot be walked on hatched, dearer ground stippled, overlays over it. `on_page` takes
/// metres to pixels; the page is hatched already.
void paint_tiles(const ChartTiles& tiles, Canvas& canvas, const std::function<vec2(vec2)>& on_page);

/// What the marks of `paint_tiles` mean: those that are there.
void tiles_legend(const ChartTiles& tiles, Canvas& canvas, const LegendEntry& entry);

}  // namespace ambulon
