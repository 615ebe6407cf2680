#pragma once

#include "ambulon/base/public.hpp"

#include "draw/chart.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A line of a plot: values over seconds.
struct PlotLine {
  std::string name;
  std::vector<vec2> points;  ///< x in seconds, ascending; a point that is not finite breaks the line
};

/// A small plot over time.
struct Plot {
  std::string title;  ///< quantity and unit
  std::vector<PlotLine> lines;
};

/// A chart with plots below it, to compare characters. Line i of each plot has the style of character i.
struct Comparison {
  Chart chart;
  std::vector<Plot> plots;
  float seconds = 1.f;  ///< the range of all plots
};

/// Draws the comparison. Returns the boxes of all text.
std::vector<ChartBox> paint(const Comparison& comparison, Canvas& canvas);

}  // namespace ambulon
