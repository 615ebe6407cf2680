#pragma once
// Random values for properties.

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "choices.hpp"

namespace ambulon {

struct RapidChoices final : Choices {
  int whole(int least, int end) override { return *rc::gen::inRange(least, end); }
};

/// Any of ten thousand values from `least` to `most`.
inline float between(float least, float most) {
  return least + (most - least) * static_cast<float>(*rc::gen::inRange(0, 10'001)) * 1e-4f;
}

}  // namespace ambulon
