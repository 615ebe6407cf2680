#pragma once

#include <span>
#include <string_view>

#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A colour, each part from 0 to 1; `alpha` 1 covers, 0 does not show.
struct Ink {
  float red = 0.f, green = 0.f, blue = 0.f, alpha = 1.f;
};

/// How a line is drawn.
struct Stroke {
  Ink ink;
  float width = 1.f;                  ///< pixels
  std::span<const double> dash = {};  ///< pixels on, off, on, …; empty: unbroken
};

/// How text is set.
struct Lettering {
  float size = 14.f;  ///< pixels from line to line
  bool bold = false;
  bool italic = false;
};

/// What a chart is drawn on: a page of pixels, x to the right, y down. A game draws charts into its
/// own window by implementing these.
class Canvas {
 public:
  virtual ~Canvas() = default;
  virtual vec2 size() const = 0;
  virtual void line(std::span<const vec2> points, const Stroke& stroke) = 0;
  virtual void area(std::span<const vec2> outline, Ink ink) = 0;
  virtual void circle(vec2 centre, float radius, const Stroke& stroke) = 0;
  virtual void disc(vec2 centre, float radius, Ink ink) = 0;
  /// Sets `words` with the left end of their base line at `at`.
  virtual void text(vec2 at, std::string_view words, const Lettering& lettering, Ink ink) = 0;
  /// Width of `words` and height of their capitals, in pixels.
  virtual vec2 text_size(std::string_view words, const Lettering& lettering) = 0;
};

}  // namespace ambulon
