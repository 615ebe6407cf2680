#pragma once

#include <string>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"
#include "ambulon/world/world.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A named point on a chart.
struct ChartPlace {
  std::string name;
  vec3 at{0.f};  ///< metres
};

/// Options of a chart of a world.
struct WorldChartOptions {
  std::string title = {};
  std::vector<ChartPlace> places = {};
  Body body = {.radius = 0.f};  ///< whose ground is drawn; its mesh is built if there is none
};

/// Draws a world in the style of a surveyor's map: ground, NPCs, names, goals, beats, scale bar and legend.
/// Of more than 40 NPCs it leaves out names and goals; of more than 40 beats, all. A ground of the game's own
/// is not drawn. Returns a problem, and draws nothing, if the body or a place is out of range.
///
///     (void)ambulon::save_chart(world, "quay.png", {.title = "The quay"});
Expected<void> paint_chart(World& world, Canvas& canvas, const WorldChartOptions& options = {});

/// Draws the chart into a file ending in .png or .svg, `width` by `height` pixels (16 to 16384). Returns the
/// name of the file, or a problem.
Expected<std::string> save_chart(World& world, const std::string& file, const WorldChartOptions& options = {},
                                 int width = 1280, int height = 800);

}  // namespace ambulon
