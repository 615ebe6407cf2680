#include "draw/comparison.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "palette.hpp"

namespace ambulon {
namespace {

using namespace draw;

constexpr double plot_dashes[] = {7, 4}, plot_dots[] = {2, 3};
constexpr float plots_part = 0.34f;  // of the page's height
constexpr Lettering plot_numbers{.size = 13}, plot_title{.size = 15, .bold = true};

/// A part of a page as a canvas.
class Inset final : public Canvas {
 public:
  Inset(Canvas& page, ChartBox part) : page_(page), part_(part) {}

  vec2 size() const override { return part_.max - part_.min; }
  void line(std::span<const vec2> points, const Stroke& stroke) override {
    page_.line(moved(points), stroke);
  }
  void area(std::span<const vec2> outline, Ink ink) override { page_.area(moved(outline), ink); }
  void circle(vec2 centre, float radius, const Stroke& stroke) override {
    page_.circle(centre + part_.min, radius, stroke);
  }
  void disc(vec2 centre, float radius, Ink ink) override { page_.disc(centre + part_.min, radius, ink); }
  void text(vec2 at, std::string_view words, const Lettering& lettering, Ink ink) override {
    page_.text(at + part_.min, words, lettering, ink);
  }
  vec2 text_size(std::string_view words, const Lettering& lettering) override {
    return page_.text_size(words, lettering);
  }

 private:
  std::vector<vec2> moved(std::span<const vec2> points) const {
    std::vector<vec2> all(points.begin(), points.end());
    for (vec2& point : all) point += part_.min;
    return all;
  }

  Canvas& page_;
  ChartBox part_;
};

/// Draws one plot: frame, numbers and lines.
class PlotPainter {
 public:
  PlotPainter(const Plot& plot, Canvas& canvas, std::vector<ChartBox>& text)
      : plot_(plot), canvas_(canvas), text_(text), max_(std::max(0.1f, plot.max), 0.1f) {
    const vec2 size = canvas.size();
    area_ = {{66.f, 34.f}, {size.x - 66.f, size.y - 46.f}};
    for (const PlotLine& line : plot.lines)
      for (const vec2 point : line.points)
        if (std::isfinite(point.y)) max_.y = std::max(max_.y, point.y);
    max_.y *= 1.05f;
  }

  void paint() {
    write({area_.min.x, area_.min.y - 10.f}, plot_.title, plot_title);
    key();
    axes();
    for (std::size_t i = 0; i < plot_.lines.size(); ++i) line(i);
  }

 private:
  vec2 on_page(vec2 point) const {
    const vec2 part = point / max_;
    return {area_.min.x + part.x * (area_.max.x - area_.min.x),
            area_.max.y - part.y * (area_.max.y - area_.min.y)};
  }

  void write(vec2 at, std::string_view words, const Lettering& lettering, Ink colour = ink) {
    const vec2 extent = canvas_.text_size(words, lettering);
    canvas_.text(at, words, lettering, colour);
    text_.push_back({at - vec2(0.f, extent.y), at + vec2(extent.x, 0.f)});
  }

  static Stroke stroke(std::size_t i) {
    Stroke stroke{.ink = tints[i % tints.size()], .width = 2.f};
    if (i % 3 == 1) stroke.dash = plot_dashes;
    if (i % 3 == 2) stroke.dash = plot_dots;
    return stroke;
  }

  /// Draws a sample of each line with its name, below the plot, as far as there is room.
  void key() {
    float left = area_.min.x;
    const float right = area_.max.x - canvas_.text_size(plot_.over, plot_numbers).x, at = area_.max.y + 34.f;
    for (std::size_t i = 0; i < plot_.lines.size(); ++i) {
      const float width = canvas_.text_size(plot_.lines[i].name, plot_numbers).x + 36.f;
      if (left + width > right - 10.f) return;
      const vec2 sample[] = {{left, at - 4.f}, {left + 30.f, at - 4.f}};
      canvas_.line(sample, stroke(i));
      write({left + 36.f, at}, plot_.lines[i].name, plot_numbers);
      left += width + 14.f;
    }
  }

  void axes() {
    const vec2 ground[] = {
        area_.min, {area_.max.x, area_.min.y}, area_.max, {area_.min.x, area_.max.y}, area_.min};
    canvas_.area(ground, paper_light);
    for (int axis = 0; axis < 2; ++axis) {
      const float step = round_length(max_[axis] / (axis == 0 ? 6.f : 3.f));
      for (int i = 0; static_cast<float>(i) * step <= max_[axis]; ++i) {
        vec2 point(0.f), across = max_;
        point[axis] = across[axis] = static_cast<float>(i) * step;
        const vec2 fine[] = {on_page(point), on_page(across)};
        canvas_.line(fine, {.ink = faint});
        const std::string number = fmt::format("{:g}", point[axis]);
        const vec2 extent = canvas_.text_size(number, plot_numbers), at = on_page(point);
        write(axis == 0 ? at + vec2(-0.5f * extent.x, 18.f) : at + vec2(-8.f - extent.x, 0.5f * extent.y),
              number, plot_numbers, middling);
      }
    }
    write({area_.max.x - canvas_.text_size(plot_.over, plot_numbers).x, area_.max.y + 34.f}, plot_.over,
          plot_numbers, middling);
    canvas_.line(ground, {.ink = ink, .width = 1.2f});
  }

  void line(std::size_t i) {
    std::vector<vec2> stretch;
    const auto draw = [&] {
      if (stretch.size() > 1) canvas_.line(stretch, stroke(i));
      stretch.clear();
    };
    for (const vec2 point : plot_.lines[i].points) {
      if (point.x > max_.x) break;
      if (std::isfinite(point.y))
        stretch.push_back(on_page(point));
      else
        draw();
    }
    draw();
  }

  const Plot& plot_;
  Canvas& canvas_;
  std::vector<ChartBox>& text_;
  ChartBox area_;
  vec2 max_;
};

}  // namespace

std::vector<ChartBox> paint(const Comparison& comparison, Canvas& canvas) {
  const vec2 size = canvas.size();
  const float top = comparison.plots.empty() ? size.y : (1.f - plots_part) * size.y;
  const vec2 page[] = {{0.f, 0.f}, {size.x, 0.f}, size, {0.f, size.y}};
  canvas.area(page, paper);
  Inset map(canvas, {{0.f, 0.f}, {size.x, top}});
  std::vector<ChartBox> text = paint(comparison.chart, map);
  const float width = size.x / static_cast<float>(std::max<std::size_t>(1, comparison.plots.size()));
  for (std::size_t i = 0; i < comparison.plots.size(); ++i) {
    const float left = width * static_cast<float>(i);
    const vec2 corner(left, top);
    Inset part(canvas, {corner, {left + width, size.y}});
    std::vector<ChartBox> plot_text;
    PlotPainter(comparison.plots[i], part, plot_text).paint();
    for (const ChartBox& box : plot_text) text.push_back({box.min + corner, box.max + corner});
  }
  return text;
}

}  // namespace ambulon
