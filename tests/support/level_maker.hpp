#pragma once
// Levels built of boxes and sheets.

#include <array>

#include "ambulon/base/angle.hpp"
#include "ambulon/ground/mesh/level.hpp"

namespace ambulon {

/// Adds a sheet with four corners.
inline void add_sheet(Level& level, vec3 a, vec3 b, vec3 c, vec3 d, Level::Kind kind = Level::Kind::solid) {
  const auto first = static_cast<std::uint32_t>(level.corners.size());
  for (const vec3 corner : {a, b, c, d}) level.corners.push_back(corner);
  level.triangles.push_back({{first, first + 1, first + 2}, kind});
  level.triangles.push_back({{first, first + 2, first + 3}, kind});
}

/// Adds a box on a height, with its centre at `centre`, rotated by `heading` (radians); its faces point
/// outwards.
inline void add_box(Level& level, vec2 centre, float bottom, vec3 size, float heading = 0.f,
                    Level::Kind kind = Level::Kind::solid) {
  const vec2 along = 0.5f * size.x * unit(heading),
             aside = 0.5f * size.y * vec2(-unit(heading).y, unit(heading).x);
  const std::array<vec2, 4> corners = {centre - along - aside, centre + along - aside, centre + along + aside,
                                       centre - along + aside};
  const float top = bottom + size.z;
  add_sheet(level, lift(corners[0], bottom), lift(corners[3], bottom), lift(corners[2], bottom),
            lift(corners[1], bottom), kind);
  add_sheet(level, lift(corners[0], top), lift(corners[1], top), lift(corners[2], top), lift(corners[3], top),
            kind);
  for (std::size_t i = 0; i < 4; ++i) {
    const vec2 a = corners[i], b = corners[(i + 1) % 4];
    add_sheet(level, lift(a, bottom), lift(b, bottom), lift(b, top), lift(a, top), kind);
  }
}

/// A square of ground at height 0, from the origin.
inline Level quay_stones(float size) {
  Level level;
  add_sheet(level, {0, 0, 0}, {size, 0, 0}, {size, size, 0}, {0, size, 0});
  return level;
}

/// Adds solid steps, each `size` in depth, width and height, ascending along x from `from`.
inline void add_steps(Level& level, vec3 from, vec3 size, int count) {
  for (int i = 0; i < count; ++i)
    add_box(level, {from.x + size.x * (static_cast<float>(i) + 0.5f), from.y}, from.z,
            {size.x, size.y, size.z * static_cast<float>(i + 1)});
}

}  // namespace ambulon
