#pragma once

#include "ambulon/base/public.hpp"

#include "draw/chart.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A line of a plot.
struct PlotLine {
  std::string name;
  std::vector<vec2> points;  ///< x is ascending; a point that is not finite breaks the line
};

/// A small plot.
struct Plot {
  std::string title;  ///< quantity and unit
  std::string over;   ///< the unit of x
  float max = 1.f;    ///< the maximum of x
  std::vector<PlotLine> lines;
};

/// A chart with plots below it, to compare characters. Line i of each plot has the style of character i.
struct Comparison {
  Chart chart;
  std::vector<Plot> plots;
};

/// Draws the comparison. Returns the boxes of all text.
std::vector<ChartBox> paint(const Comparison& comparison, Canvas& canvas);

}  // namespace ambulon
