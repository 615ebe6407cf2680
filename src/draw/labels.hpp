#pragma once

#include <optional>
#include <vector>

#include "ambulon/draw/chart.hpp"

namespace ambulon::draw {

/// Finds room for labels on a page: no label covers another, or a mark; lines are covered only
/// where nothing else is free.
class Labels {
 public:
  explicit Labels(ChartBox page) : page_(page) {}

  void keep_free(const ChartBox& box) { taken_.push_back(box); }
  void keep_clear_of(std::vector<vec2> line) { lines_.push_back(std::move(line)); }

  /// Room for a label of `size` that belongs to the mark of `radius` pixels at `anchor`. The nearer
  /// the better, to the right before elsewhere. Nothing when the page is full all around.
  std::optional<ChartBox> place(vec2 anchor, float radius, vec2 size);

 private:
  float crossings(const ChartBox& box) const;

  ChartBox page_;
  std::vector<ChartBox> taken_;
  std::vector<std::vector<vec2>> lines_;
};

}  // namespace ambulon::draw
