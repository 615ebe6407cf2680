#pragma once

#include "palette.hpp"

namespace ambulon::draw {

/// Draws the inks of an overlay from light to dark, 34 pixels wide, from its left end.
inline void shade_scale(Canvas& canvas, vec2 at) {
  for (int i = 0; i < 17; ++i) {
    const vec2 left = at + vec2(2.f * static_cast<float>(i), 0.f);
    const vec2 strip[] = {left + vec2(0.f, -8.f), left + vec2(2.f, -8.f), left + vec2(2.f, 8.f),
                          left + vec2(0.f, 8.f)};
    canvas.area(strip, shaded(static_cast<float>(i) / 16.f));
  }
}

}  // namespace ambulon::draw
