#include "labels.hpp"

#include <algorithm>
#include <array>

#include <glm/common.hpp>

#include "ambulon/base/angle.hpp"

#include "base/geometry.hpp"

namespace ambulon::draw {
namespace {

constexpr float apart = 2.f;  // pixels between labels

bool inside(const ChartBox& inner, const ChartBox& outer) {
  return inner.min.x >= outer.min.x && inner.min.y >= outer.min.y && inner.max.x <= outer.max.x &&
         inner.max.y <= outer.max.y;
}

/// Returns the length in pixels of the segment from `a` to `b` inside the box.
float length_inside(vec2 a, vec2 b, const ChartBox& box) {
  float from = 0.f, to = 1.f;
  const vec2 way = b - a;
  for (int axis = 0; axis < 2; ++axis) {
    if (way[axis] == 0.f) {
      if (a[axis] < box.min[axis] || a[axis] > box.max[axis]) return 0.f;
      continue;
    }
    const float enter = (box.min[axis] - a[axis]) / way[axis], leave = (box.max[axis] - a[axis]) / way[axis];
    from = std::max(from, std::min(enter, leave));
    to = std::min(to, std::max(enter, leave));
  }
  return to > from ? (to - from) * glm::length(way) : 0.f;
}

}  // namespace

float Labels::crossings(const ChartBox& box) const {
  float length = 0.f;
  for (const auto& line : lines_)
    for (std::size_t i = 1; i < line.size(); ++i) length += length_inside(line[i - 1], line[i], box);
  return length;
}

std::optional<ChartBox> Labels::place(vec2 anchor, float radius, vec2 size) {
  // Directions in order of preference (y points down): beside, above, below, then diagonal.
  static constexpr std::array<float, 16> degrees_tried = {0,   180, -45, 45,   -135, 135, -90,  90,
                                                          -20, 20,  160, -160, -65,  65,  -115, 115};
  std::optional<ChartBox> best;
  float best_cost = 1e30f;
  for (const float away : {0.f, 6.f, 14.f, 26.f, 44.f, 70.f, 110.f, 160.f})
    for (std::size_t i = 0; i < degrees_tried.size(); ++i) {
      const vec2 towards = unit(radians(degrees_tried[i]));
      // The nearest point of the box touches the circle around the mark.
      const vec2 rim = anchor + (radius + away) * towards;
      const vec2 centre = rim + towards * 0.5f * size;
      const ChartBox box{centre - 0.5f * size, centre + 0.5f * size};
      if (!inside(box, page_)) continue;
      const ChartBox roomy{box.min - vec2(apart), box.max + vec2(apart)};
      if (std::ranges::any_of(taken_, [&](const ChartBox& taken) { return overlap(taken, roomy); })) continue;
      const float cost = away * 1.5f + static_cast<float>(i) + 2.f * crossings(box);
      if (cost < best_cost) best = box, best_cost = cost;
    }
  if (best) taken_.push_back(*best);
  return best;
}

}  // namespace ambulon::draw
