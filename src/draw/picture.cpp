#include "draw/picture.hpp"

#include <cmath>
#include <memory>

#include <cairo-svg.h>
#include <cairo.h>
#include <fmt/format.h>

namespace ambulon {
namespace {

class CairoCanvas final : public Canvas {
 public:
  CairoCanvas(cairo_surface_t* surface, vec2 size) : cairo_(cairo_create(surface)), size_(size) {
    cairo_set_line_join(cairo_.get(), CAIRO_LINE_JOIN_ROUND);
  }

  vec2 size() const override { return size_; }

  void line(std::span<const vec2> points, const Stroke& stroke) override {
    trace(points);
    draw(stroke);
  }
  void area(std::span<const vec2> outline, Ink ink) override {
    trace(outline);
    cairo_close_path(cairo_.get());
    pour(ink);
  }
  void circle(vec2 centre, float radius, const Stroke& stroke) override {
    cairo_new_sub_path(cairo_.get());
    cairo_arc(cairo_.get(), centre.x, centre.y, radius, 0, 2 * M_PI);
    draw(stroke);
  }
  void disc(vec2 centre, float radius, Ink ink) override {
    cairo_arc(cairo_.get(), centre.x, centre.y, radius, 0, 2 * M_PI);
    pour(ink);
  }
  void text(vec2 at, std::string_view words, const Lettering& lettering, Ink ink) override {
    set(lettering);
    cairo_move_to(cairo_.get(), at.x, at.y);
    dip(ink);
    cairo_show_text(cairo_.get(), std::string(words).c_str());
    cairo_new_path(cairo_.get());
  }
  vec2 text_size(std::string_view words, const Lettering& lettering) override {
    set(lettering);
    cairo_text_extents_t words_extents, capital;
    cairo_text_extents(cairo_.get(), std::string(words).c_str(), &words_extents);
    cairo_text_extents(cairo_.get(), "H", &capital);
    return {words_extents.x_advance, capital.height};
  }

 private:
  void trace(std::span<const vec2> points) {
    for (vec2 point : points) cairo_line_to(cairo_.get(), point.x, point.y);
  }
  void dip(Ink ink) { cairo_set_source_rgba(cairo_.get(), ink.red, ink.green, ink.blue, ink.alpha); }
  void draw(const Stroke& stroke) {
    dip(stroke.ink);
    cairo_set_line_width(cairo_.get(), stroke.width);
    cairo_set_dash(cairo_.get(), stroke.dash.data(), static_cast<int>(stroke.dash.size()), 0);
    cairo_stroke(cairo_.get());
  }
  void pour(Ink ink) {
    dip(ink);
    cairo_fill(cairo_.get());
  }
  void set(const Lettering& lettering) {
    cairo_select_font_face(cairo_.get(), "Linux Libertine O",
                           lettering.italic ? CAIRO_FONT_SLANT_ITALIC : CAIRO_FONT_SLANT_NORMAL,
                           lettering.bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(cairo_.get(), lettering.size);
  }

  struct Destroy {
    void operator()(cairo_t* cairo) const { cairo_destroy(cairo); }
  };
  std::unique_ptr<cairo_t, Destroy> cairo_;
  vec2 size_;
};

}  // namespace

Expected<std::string> save_picture(const std::string& file, int width, int height,
                                   const std::function<void(Canvas&)>& paint) {
  const bool svg = file.ends_with(".svg");
  if (!svg && !file.ends_with(".png"))
    return problem(fmt::format("{}: a picture's name must end in .png or .svg", file));
  if (width < 16 || width > 16'384 || height < 16 || height > 16'384)
    return problem(
        fmt::format("a picture of {} by {} pixels; each side must lie between 16 and 16384", width, height));

  cairo_surface_t* made = svg ? cairo_svg_surface_create(file.c_str(), width, height)
                              : cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width, height);
  const std::unique_ptr<cairo_surface_t, void (*)(cairo_surface_t*)> surface(made, cairo_surface_destroy);
  if (svg) cairo_svg_surface_set_document_unit(surface.get(), CAIRO_SVG_UNIT_PX);
  if (cairo_surface_status(surface.get()) == CAIRO_STATUS_SUCCESS) {
    CairoCanvas canvas(surface.get(), vec2(static_cast<float>(width), static_cast<float>(height)));
    paint(canvas);
  }
  cairo_status_t status = CAIRO_STATUS_SUCCESS;
  if (svg)
    cairo_surface_finish(surface.get());
  else
    status = cairo_surface_write_to_png(surface.get(), file.c_str());
  if (status == CAIRO_STATUS_SUCCESS) status = cairo_surface_status(surface.get());
  if (status != CAIRO_STATUS_SUCCESS)
    return problem(fmt::format("{}: cannot be written: {}", file, cairo_status_to_string(status)));
  return file;
}

}  // namespace ambulon
