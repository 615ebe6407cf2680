#pragma once

#include <optional>
#include <vector>

#include "draw/chart.hpp"

namespace ambulon::draw {

/// Places labels on a page: no label covers another one or a mark; lines are covered only if nothing else is
/// free.
class Labels {
 public:
  explicit Labels(ChartBox page) : page_(page) {}

  void keep_free(const ChartBox& box) { taken_.push_back(box); }
  void keep_clear_of(std::vector<vec2> line) { lines_.push_back(std::move(line)); }

  /// Returns the box for a label of `size` that belongs to the mark of `radius` pixels at `anchor`: near, and
  /// preferably to the right. Returns nothing if there is no space around it.
  std::optional<ChartBox> place(vec2 anchor, float radius, vec2 size);

 private:
  float crossings(const ChartBox& box) const;

  ChartBox page_;
  std::vector<ChartBox> taken_;
  std::vector<std::vector<vec2>> lines_;
};

}  // namespace ambulon::draw
