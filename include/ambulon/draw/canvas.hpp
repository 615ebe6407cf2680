#pragma once

#include <span>
#include <string_view>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A colour with components from 0 to 1; `alpha` is its opacity.
struct Ink {
  float red = 0.f, green = 0.f, blue = 0.f, alpha = 1.f;
};

/// The style of a line.
struct Stroke {
  Ink ink;
  float width = 1.f;                  ///< pixels
  std::span<const double> dash = {};  ///< pixels on, off, on, …; empty: solid
};

/// The style of text.
struct Lettering {
  float size = 14.f;  ///< pixels: line height
  bool bold = false;
  bool italic = false;
};

/// The surface that a chart is drawn on: pixels, x to the right, y down. Implement it to draw charts into the
/// game's own window.
class Canvas {
 public:
  virtual ~Canvas() = default;
  virtual vec2 size() const = 0;
  virtual void line(std::span<const vec2> points, const Stroke& stroke) = 0;
  virtual void area(std::span<const vec2> outline, Ink ink) = 0;
  virtual void circle(vec2 centre, float radius, const Stroke& stroke) = 0;
  virtual void disc(vec2 centre, float radius, Ink ink) = 0;
  /// Draws `words` with the left end of their base line at `at`.
  virtual void text(vec2 at, std::string_view words, const Lettering& lettering, Ink ink) = 0;
  /// Returns the width of `words` and the height of capitals, in pixels.
  virtual vec2 text_size(std::string_view words, const Lettering& lettering) = 0;
};

}  // namespace ambulon
