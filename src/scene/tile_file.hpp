#pragma once
// Tile maps from text and pictures.

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/scene/ground_file.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What the characters of a text or the colours of a picture stand for.
struct TileLegend {
  /// A character or a colour, and its terrain.
  struct Sign {
    std::string sign;      ///< one ASCII character, or a colour as "#rrggbb"
    std::uint8_t terrain;  ///< number in `terrains`
  };
  std::vector<Terrain> terrains = {{.name = "floor", .cost = 1}, {.name = "wall", .cost = 0}};
  std::vector<Sign> signs = {{".", 0}, {"#", 1}};
  /// For pictures without colours in the legend: pixels at least this bright (0 to 255) are terrain 0, darker
  /// ones and transparent ones terrain 1.
  int threshold = 128;
};

/// The legend of octile maps (`type octile`), as papers on grid search use them.
TileLegend octile_legend();

/// Makes a map of rows of characters, the northernmost first. `options` gives all but the size and the
/// terrains. Problems begin with `where`, row and column, both counted from 1.
Expected<TileMap> tiles_of_rows(std::span<const std::string> rows, const TileLegend& legend,
                                const TileMapOptions& options, const std::string& where);

/// Reads a map from a file. Its ending decides: `.png` is a picture, each pixel a cell; `.map` an octile map,
/// with its own legend if `legend` is null; others contain rows of characters. Problems name file and place.
Expected<TileMap> read_tiles(const std::string& file, const TileLegend* legend,
                             const TileMapOptions& options);

/// Makes a map of the content of an octile map.
Expected<TileMap> tiles_of_octile(const std::string& text, const TileLegend& legend,
                                  const TileMapOptions& options, const std::string& where);
/// Makes a map of the content of a picture.
Expected<TileMap> tiles_of_png(const std::string& bytes, const TileLegend& legend,
                               const TileMapOptions& options, const std::string& where);

}  // namespace ambulon
