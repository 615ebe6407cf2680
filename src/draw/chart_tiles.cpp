#include "draw/chart_tiles.hpp"

#include <algorithm>
#include <array>

#include <fmt/format.h>

#include "palette.hpp"
#include "shade_scale.hpp"

namespace ambulon {
namespace {

using namespace draw;

constexpr float arrow_spacing = 24.f;  // pixels, minimum

class TilesPainter {
 public:
  TilesPainter(const ChartTiles& tiles, Canvas& canvas, const std::function<vec2(vec2)>& on_page)
      : tiles_(tiles),
        canvas_(canvas),
        on_page_(on_page),
        pixels_(on_page({tiles.cell, 0}).x - on_page({0, 0}).x) {}

  void paint() {
    ground();
    walls();
    for (const Cell cell : tiles_.marks)
      canvas_.disc(at(static_cast<float>(cell.x) + 0.5f, static_cast<float>(cell.y) + 0.5f),
                   std::clamp(0.14f * pixels_, 1.2f, 4.f), tints[4]);
    arrows();
  }

 private:
  /// Returns a position in cells from the origin.
  vec2 at(float x, float y) const { return on_page_(tiles_.origin + tiles_.cell * vec2(x, y)); }
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(tiles_.width) + static_cast<std::size_t>(x);
  }
  std::uint8_t cost(int x, int y) const {
    const bool inside = x >= 0 && y >= 0 && x < tiles_.width && y < tiles_.height;
    return inside ? tiles_.costs[index(x, y)] : std::uint8_t{0};
  }

  void fill(int x0, int x1, int y, Ink ink) {
    const auto left = static_cast<float>(x0), right = static_cast<float>(x1), low = static_cast<float>(y);
    const vec2 corners[] = {at(left, low), at(right, low), at(right, low + 1), at(left, low + 1)};
    canvas_.area(corners, ink);
  }

  /// Draws walkable cells as paper over the hatching, in runs along the rows.
  void ground() {
    for (int y = 0; y < tiles_.height; ++y)
      for (int x = 0; x < tiles_.width;) {
        int end = x + 1;
        while (end < tiles_.width && (cost(end, y) != 0) == (cost(x, y) != 0)) ++end;
        if (cost(x, y) != 0) fill(x, end, y, paper_light);
        x = end;
      }
    for (int y = 0; y < tiles_.height; ++y)
      for (int x = 0; x < tiles_.width; ++x) {
        if (cost(x, y) > 1) stipple(x, y);
        if (!tiles_.shades.empty())
          if (const float shade = tiles_.shades[index(x, y)]; shade >= 0.f && cost(x, y) != 0)
            fill(x, x + 1, y, shaded(shade));
      }
  }

  /// Draws dots, more of them for a higher cost.
  void stipple(int x, int y) {
    fill(x, x + 1, y, {0.62f, 0.47f, 0.24f, 0.20f});
    const int dots = std::min(4, static_cast<int>(cost(x, y)));
    for (int dot = 0; dot < dots; ++dot) {
      const vec2 off(dot % 2 == 0 ? 0.25f : 0.75f, dot < 2 ? 0.25f : 0.75f);
      canvas_.disc(at(static_cast<float>(x) + off.x, static_cast<float>(y) + off.y),
                   std::clamp(0.05f * pixels_, 0.5f, 1.6f), middling);
    }
  }

  /// Draws a line along each edge of the ground.
  void walls() {
    const Stroke stroke{.ink = ink, .width = std::clamp(0.08f * pixels_, 0.8f, 1.8f)};
    const auto edge = [&](float x0, float y0, float x1, float y1) {
      const vec2 line[] = {at(x0, y0), at(x1, y1)};
      canvas_.line(line, stroke);
    };
    for (int y = 0; y <= tiles_.height; ++y)
      for (int x = 0; x < tiles_.width;) {
        const auto wall = [&](int column) { return (cost(column, y) != 0) != (cost(column, y - 1) != 0); };
        int end = x;
        while (end < tiles_.width && wall(end)) ++end;
        if (end > x)
          edge(static_cast<float>(x), static_cast<float>(y), static_cast<float>(end), static_cast<float>(y));
        x = std::max(end, x + 1);
      }
    for (int x = 0; x <= tiles_.width; ++x)
      for (int y = 0; y < tiles_.height;) {
        const auto wall = [&](int row) { return (cost(x, row) != 0) != (cost(x - 1, row) != 0); };
        int end = y;
        while (end < tiles_.height && wall(end)) ++end;
        if (end > y)
          edge(static_cast<float>(x), static_cast<float>(y), static_cast<float>(x), static_cast<float>(end));
        y = std::max(end, y + 1);
      }
  }

  void arrows() {
    if (tiles_.arrows.empty()) return;
    const int every = std::max(1, static_cast<int>(std::ceil(arrow_spacing / pixels_)));
    const float half = 0.32f * pixels_ * static_cast<float>(every);
    for (int y = every / 2; y < tiles_.height; y += every)
      for (int x = every / 2; x < tiles_.width; x += every) {
        const vec2 way = tiles_.arrows[index(x, y)];
        if (way == vec2(0.f)) continue;
        const vec2 centre = at(static_cast<float>(x) + 0.5f, static_cast<float>(y) + 0.5f);
        const vec2 ahead = half * vec2(way.x, -way.y), side(-ahead.y, ahead.x);  // y points down on the page
        const vec2 shaft[] = {centre - ahead, centre + ahead};
        const vec2 tip[] = {centre + 0.35f * ahead + 0.4f * side, centre + ahead,
                            centre + 0.35f * ahead - 0.4f * side};
        canvas_.line(shaft, {.ink = tints[0], .width = 1.1f});
        canvas_.line(tip, {.ink = tints[0], .width = 1.1f});
      }
  }

  const ChartTiles& tiles_;
  Canvas& canvas_;
  const std::function<vec2(vec2)>& on_page_;
  float pixels_;  // of a cell
};

}  // namespace

ChartTiles chart_tiles(const TileMap& map) {
  ChartTiles tiles{
      .origin = map.origin(), .cell = map.cell_size(), .width = map.width(), .height = map.height()};
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) tiles.costs.push_back(map.free({x, y}) ? map.cost({x, y}) : 0);
  for (const Terrain& terrain : map.terrains())
    if (terrain.cost > 1) tiles.terrains.push_back(terrain);
  return tiles;
}

void paint_tiles(const ChartTiles& tiles, Canvas& canvas, const std::function<vec2(vec2)>& on_page) {
  TilesPainter(tiles, canvas, on_page).paint();
}

void tiles_legend(const ChartTiles& tiles, Canvas& canvas, const LegendEntry& entry) {
  const auto box = [](vec2 at) {
    return std::array{at + vec2(0.f, -8.f), at + vec2(34.f, -8.f), at + vec2(34.f, 8.f), at + vec2(0.f, 8.f)};
  };
  for (const Terrain& terrain : tiles.terrains)
    entry(34.f, fmt::format("{}, costs {}", terrain.name, terrain.cost), [&](vec2 at) {
      canvas.area(box(at), {0.62f, 0.47f, 0.24f, 0.20f});
      for (int dot = 0; dot < std::min(4, static_cast<int>(terrain.cost)); ++dot)
        canvas.disc(at + vec2(7.f + 7.f * static_cast<float>(dot), 0.f), 1.4f, middling);
    });
  if (!tiles.shades.empty()) entry(34.f, tiles.shades_mean, [&](vec2 at) { shade_scale(canvas, at); });
  if (!tiles.arrows.empty())
    entry(22.f, "flow", [&](vec2 at) {
      const vec2 shaft[] = {at, at + vec2(20.f, 0.f)},
                 tip[] = {at + vec2(14.f, -4.f), shaft[1], at + vec2(14.f, 4.f)};
      canvas.line(shaft, {.ink = tints[0], .width = 1.1f});
      canvas.line(tip, {.ink = tints[0], .width = 1.1f});
    });
  if (!tiles.marks.empty())
    entry(10.f, tiles.marks_mean, [&](vec2 at) { canvas.disc(at + vec2(5.f, 0.f), 3.f, tints[4]); });
}

}  // namespace ambulon
