#pragma once

#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"
#include "ambulon/draw/world_chart.hpp"

#include "draw/chart_ground.hpp"

namespace AMBULON_PUBLIC ambulon {

class Beat;

/// A rectangle, on the page in pixels or on the ground in metres.
struct ChartBox {
  vec2 min{0.f}, max{0.f};
  friend bool overlap(const ChartBox& a, const ChartBox& b) {
    return a.min.x < b.max.x && b.min.x < a.max.x && a.min.y < b.max.y && b.min.y < a.max.y;
  }
};

/// A beat on a chart, copied from a `Beat`.
struct ChartBeat {
  std::vector<vec3> waypoints;
  std::vector<vec3> line;  ///< the path along all of them
};

/// A character on a chart.
struct ChartNpc {
  std::string name;  ///< on its flag; empty: no flag. With more than 40 characters there are no flags
  vec3 at{0.f};
  vec2 facing{1.f, 0.f};
  float radius = 0.3f;  ///< of its body, metres
  std::optional<vec3> goal = {};
  float arrival_radius = 0.f;              ///< around its goal, metres
  float slowing_distance = 0.f;            ///< around that, metres
  std::optional<vec3> target = {};         ///< position of its target
  vec2 deck{0.f};                          ///< length and width of its deck, metres; 0: none
  std::vector<vec3> trail = {};            ///< empty: not drawn
  std::optional<std::size_t> colour = {};  ///< number of a shared colour; by default its own
};

/// The content of a chart: plain data.
struct Chart {
  std::string title;
  double seconds = 0;                   ///< the time of the chart
  std::optional<ChartBox> ground = {};  ///< metres; nothing is walkable beyond it
  std::optional<ChartTiles> tiles = {};
  std::optional<ChartMesh> mesh = {};
  std::vector<vec3> route = {};  ///< a route, by its bends; empty: none
  std::vector<ChartPlace> places = {};
  std::vector<ChartBeat> beats = {};
  std::vector<ChartNpc> npcs = {};
};

/// Returns the path along a beat, for a chart.
ChartBeat chart_beat(const Beat& beat);

/// Draws the chart in the style of a surveyor's map: paper, ink, a frame with metres, a scale bar and a
/// legend. Returns the boxes of all text; they do not overlap unless the page is too small.
std::vector<ChartBox> paint(const Chart& chart, Canvas& canvas);

}  // namespace ambulon
