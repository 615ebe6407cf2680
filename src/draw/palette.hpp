#pragma once
// Colours of everything that is drawn.

#include <array>
#include <cmath>

#include "ambulon/draw/canvas.hpp"

namespace ambulon::draw {

inline constexpr Ink paper{0.957f, 0.925f, 0.851f}, paper_light{0.984f, 0.965f, 0.914f};
inline constexpr Ink ink{0.196f, 0.161f, 0.145f}, faint{0.196f, 0.161f, 0.145f, 0.13f},
    middling{0.196f, 0.161f, 0.145f, 0.55f};
// Colours of trails; they also differ in lightness.
inline constexpr std::array<Ink, 6> tints = {{{0.10f, 0.33f, 0.48f},
                                              {0.72f, 0.36f, 0.10f},
                                              {0.40f, 0.24f, 0.50f},
                                              {0.12f, 0.45f, 0.37f},
                                              {0.62f, 0.18f, 0.25f},
                                              {0.45f, 0.40f, 0.12f}}};

/// Returns the ink of an overlay's value, from 0 (light) to 1 (dark).
inline Ink shaded(float value) { return {0.10f, 0.33f, 0.48f, 0.06f + 0.62f * value}; }

/// Returns the largest of 1, 2 and 5 times a power of ten that is at most `metres`.
inline float round_length(float metres) {
  const float power = std::pow(10.f, std::floor(std::log10(metres)));
  for (const float step : {5.f, 2.f})
    if (step * power <= metres) return step * power;
  return power;
}

}  // namespace ambulon::draw
