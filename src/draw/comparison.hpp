#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/draw/chart.hpp"

namespace AMBULON_PUBLIC ambulon {

/// One line of a plot: values over seconds.
struct PlotLine {
  std::string name;
  std::vector<vec2> points;  ///< x in seconds, in order; a point that is not finite breaks the line
};

/// A small plot over time.
struct Plot {
  std::string title;  ///< what is plotted, with its unit
  std::vector<PlotLine> lines;
};

/// A chart with plots below it: several characters on one picture, and their values side by side. The first
/// line of each plot is drawn like the first character, and so on.
struct Comparison {
  Chart chart;
  std::vector<Plot> plots;
  float seconds = 1.f;  ///< the length of all plots
};

/// Draws the comparison. Answers with the boxes of all text on it.
std::vector<ChartBox> paint(const Comparison& comparison, Canvas& canvas);

}  // namespace ambulon
