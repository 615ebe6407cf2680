#pragma once
// Random levels.

#include "base/geometry.hpp"
#include "generate.hpp"
#include "level_maker.hpp"

namespace ambulon {

/// A square with crates, walls, ramps, roofs and steps. `boxes`: the first triangles of all boxes.
inline Level random_level(std::vector<std::size_t>* boxes = nullptr) {
  Level level = quay_stones(6);
  const int count = *rc::gen::inRange(0, 6);
  for (int i = 0; i < count; ++i) {
    const vec2 at(between(0, 6), between(0, 6));
    const float heading = *rc::gen::element(0.f, between(0, 3));
    const float wide = between(0.3f, 3);
    const std::size_t first = level.triangles.size();
    const int what = *rc::gen::inRange(0, 6);
    switch (what) {
      case 0:
      case 1:  // crates and kerbs, some of them in the air
        add_box(level, at, *rc::gen::element(0.f, 0.f, 2.f, 3.f),
                {wide, between(0.3f, 3), *rc::gen::element(0.1f, 0.2f, 0.5f, 1.f, 2.5f)}, heading);
        break;
      case 2:  // a ramp with space below
        add_sheet(level, lift(at), lift(at + wide * unit(heading)), lift(at + wide * unit(heading), 1),
                  lift(at, 1));
        break;
      case 3: {  // a ramp that one can go below
        const vec2 along = 3.5f * unit(heading), aside = wide * vec2(-unit(heading).y, unit(heading).x);
        add_sheet(level, lift(at), lift(at + along, 2.6f), lift(at + along + aside, 2.6f), lift(at + aside));
        add_sheet(level, lift(at + along, 2.6f), lift(at + 2.f * along, 2.6f),
                  lift(at + 2.f * along + aside, 2.6f), lift(at + along + aside, 2.6f));
        break;
      }
      case 4:
        add_steps(level, lift(at), {0.3f, wide, 0.2f}, 8);
        break;
      default: {                                        // a sheet of two halves with a crack between them
        const vec2 low = glm::round(10.f * at) / 10.f;  // so that others have no cracks too wide for columns
        const float high = low.y + std::round(10.f * wide) / 10.f;
        for (const float x : {low.x, low.x + 1.02f})
          add_sheet(level, {x, low.y, 2.3f}, {x + 1, low.y, 2.3f}, {x + 1, high, 2.3f}, {x, high, 2.3f});
      }
    }
    if (what < 2 || what == 4)
      for (std::size_t box = first; boxes != nullptr && box < level.triangles.size(); box += 12)
        boxes->push_back(box);
  }
  return level;
}

/// A point of some triangle.
inline vec3 point_of(const Level& level) {
  const auto& triangle = level.triangles[static_cast<std::size_t>(
      *rc::gen::inRange(0, static_cast<int>(level.triangles.size())))];
  float u = between(0, 1), v = between(0, 1);
  if (u + v > 1) u = 1 - u, v = 1 - v;
  const auto corner = [&](std::size_t i) { return level.corners[triangle.corners[i]]; };
  return corner(0) + u * (corner(1) - corner(0)) + v * (corner(2) - corner(0));
}

}  // namespace ambulon
