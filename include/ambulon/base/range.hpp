#pragma once

namespace ambulon {

/// A closed range of values, such as the seconds of a pause. One number stands for itself: {2, 2}.
struct Range {
  float least = 0.f;
  float most = 0.f;

  constexpr float middle() const { return 0.5f * (least + most); }
  constexpr bool empty() const { return most <= 0.f; }
};

}  // namespace ambulon
